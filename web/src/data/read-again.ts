import type { Query, QueryClient } from '@tanstack/react-query'

/**
 * Reads again what somebody looks at. A first reading that is under way is not begun anew by that, and may have been
 * answered before what changed: it is read once more when it has ended.
 */
export function readAgain(queries: QueryClient, predicate: (query: Query) => boolean = () => true): void {
  const first = queries
    .getQueryCache()
    .findAll({ predicate })
    .filter(({ state }) => state.fetchStatus === 'fetching' && state.data === undefined)
  void queries.invalidateQueries({ predicate })
  for (const { promise, queryKey } of first) {
    const again = () => void queries.invalidateQueries({ queryKey, exact: true })
    promise?.then(again, again)
  }
}
