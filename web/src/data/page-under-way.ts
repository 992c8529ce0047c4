import type { createBrowserRouter } from 'react-router'

let next: string | null = null

/**
 * Keeps the page that the router is on its way to. The router tells of it at once; a page gets to know it with a
 * rendering, which may come later than what was typed there is handed on.
 */
export function followRouter(router: Pick<ReturnType<typeof createBrowserRouter>, 'subscribe'>): void {
  router.subscribe(({ navigation }) => {
    next = navigation.location?.pathname ?? null
  })
}

/** The path of that page; null while the router stays where it is. */
export const pageUnderWay = (): string | null => next
