import type { LedgerLine, LedgerPage, LedgerQuery } from '@ennick/contract'
import { useCallback, useMemo, useState } from 'react'
import { useReads, useSteadyRead } from '../../data/queries.ts'
import type { PagedRows } from '../../parts/data-table.tsx'

const every = 100

/** The ledger as a query finds it; only the pages in sight are read. */
export interface Ledger {
  /** The first page, with what is counted of all. */
  readonly head: LedgerPage | undefined
  readonly error: Error | null
  readonly rows: PagedRows<LedgerLine>
}

export function useLedger(productionId: string, query: LedgerQuery): Ledger {
  const params = { productionId }
  const head = useSteadyRead('searchPairs', { params, body: { ...query, from: 0, limit: every } })
  const [shown, setShown] = useState({ first: 0, last: 0 })
  const found = head.data?.found ?? 0
  const pages = useMemo(() => {
    const last = Math.min(shown.last, Math.max(0, Math.ceil(found / every) - 1))
    return Array.from({ length: Math.max(0, last - Math.max(1, shown.first) + 1) }, (_, index) => ({
      page: Math.max(1, shown.first) + index,
    }))
  }, [shown, found])
  const reads = useReads(
    'searchPairs',
    pages.map(({ page }) => ({ params: { productionId }, body: { ...query, from: page * every, limit: every } })),
  )
  const linesOf = new Map(pages.map(({ page }, index) => [page, reads[index]?.data?.lines]))
  const show = useCallback((first: number, last: number) => {
    const next = { first: Math.floor(first / every), last: Math.floor(last / every) }
    setShown((now) => (now.first === next.first && now.last === next.last ? now : next))
  }, [])
  return {
    head: head.data,
    error: head.error ?? reads.find((read) => read.error)?.error ?? null,
    rows: {
      count: found,
      rowAt: (index) => (index < every ? head.data?.lines : linesOf.get(Math.floor(index / every)))?.[index % every],
      show,
    },
  }
}
