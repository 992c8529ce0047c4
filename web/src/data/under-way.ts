import type { ClipUnderWay } from '@ennick/contract'
import { useProduction } from '../app/production.tsx'
import { useRead } from './queries.ts'

type ByClip = ReadonlyMap<string, ClipUnderWay['state']>

const none: ByClip = new Map()
/** Every row of a table asks, and all of them get the same answer: it is sorted by clip once. */
const sorted = new WeakMap<readonly ClipUnderWay[], ByClip>()

/** The word for clips of which a proxy is on its way, by clip. */
export function useUnderWay(): ByClip {
  const { data } = useRead('listUnderWay', { params: { productionId: useProduction().id } })
  if (!data) return none
  const found = sorted.get(data) ?? new Map(data.map(({ clipId, state }) => [clipId, state]))
  sorted.set(data, found)
  return found
}
