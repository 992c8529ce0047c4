import type { Mend } from '@ennick/contract'
import { useState } from 'react'
import { useProduction } from '../../app/production.tsx'
import { useSteadyRead } from '../../data/queries.ts'

/** So many are read at once, and shown at first. */
const [manyMends, shownFirst] = [500, 60]

/** What was mended in a production, newest first, shown bit by bit. */
export interface ShownMends {
  /** All that were read. */
  readonly mends: readonly Mend[]
  readonly shown: readonly Mend[]
  /** Whether there may be more than were read. */
  readonly hasEarlier: boolean
  readonly showEarlier: () => void
  readonly isPending: boolean
  readonly error: Error | null
}

export function useMends(): ShownMends {
  const params = { productionId: useProduction().id }
  const [most, setMost] = useState(shownFirst)
  const limit = manyMends * Math.ceil((most + 1) / manyMends)
  const { data: mends = [], isPending, error } = useSteadyRead('listMends', { params, query: { limit } })
  return {
    ...{ mends, shown: mends.slice(0, most), hasEarlier: mends.length >= limit, isPending, error },
    showEarlier: () => setMost(most + 2 * shownFirst),
  }
}
