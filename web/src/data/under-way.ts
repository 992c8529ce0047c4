import type { ClipUnderWay } from '@ennick/contract'
import { useMemo } from 'react'
import { useProduction } from '../app/production.tsx'
import { useRead } from './queries.ts'

const none: readonly ClipUnderWay[] = []

/** The word for clips of which a proxy is on its way, by clip. */
export function useUnderWay(): ReadonlyMap<string, ClipUnderWay['state']> {
  const { data = none } = useRead('listUnderWay', { params: { productionId: useProduction().id } })
  return useMemo(() => new Map(data.map(({ clipId, state }) => [clipId, state])), [data])
}
