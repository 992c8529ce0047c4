import type { Clip, ClipOutline, ClipQuery } from '@ennick/contract'
import { useCallback, useMemo, useState } from 'react'
import { useReads, useSteadyRead } from '../../data/queries.ts'

const every = 200

/** Clips of a search by their place in it. Only the pages in sight are read; any can be reached at once. */
export interface ClipPages {
  readonly outline: ClipOutline | undefined
  readonly error: Error | null
  readonly isPending: boolean
  /** Undefined while its page is on its way. */
  rowAt(index: number): Clip | undefined
  /** Where a clip stands, as far as the pages in sight tell. */
  placeOf(clipId: string): number | undefined
  /** Says which rows are in sight. */
  show(first: number, last: number): void
}

export function useClipPages(productionId: string, query: Required<ClipQuery>): ClipPages {
  const params = { productionId }
  const outline = useSteadyRead('outlineClips', { params, body: { ...query, every } })
  const [shown, setShown] = useState<{ first: number; last: number }>({ first: 0, last: 0 })
  const cursors = outline.data?.cursors
  const inputs = useMemo(() => {
    const last = Math.min(shown.last, cursors?.length ?? 0)
    const list = []
    for (let page = Math.min(shown.first, last); page <= last; page++)
      list.push({
        page,
        input: {
          params: { productionId },
          body: { ...query, after: page === 0 ? null : (cursors?.[page - 1] ?? null), limit: every },
        },
      })
    return list
  }, [productionId, query, cursors, shown])
  const reads = useReads(
    'searchClips',
    inputs.map(({ input }) => input),
  )
  const pages = new Map(inputs.map(({ page }, index) => [page, reads[index]?.data?.rows]))
  const show = useCallback((first: number, last: number) => {
    const next = { first: Math.floor(first / every), last: Math.floor(last / every) }
    setShown((now) => (now.first === next.first && now.last === next.last ? now : next))
  }, [])
  return {
    outline: outline.data,
    error: outline.error ?? reads.find((read) => read.error)?.error ?? null,
    isPending: outline.isPending,
    rowAt: (index) => pages.get(Math.floor(index / every))?.[index % every],
    placeOf: (clipId) => {
      for (const [page, rows] of pages) {
        const at = rows?.findIndex((row) => row.id === clipId) ?? -1
        if (at >= 0) return page * every + at
      }
      return undefined
    },
    show,
  }
}
