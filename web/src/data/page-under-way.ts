import type { createBrowserRouter } from 'react-router'

interface Page {
  readonly pathname: string
  readonly search: string
}

let latest: Page | null = null

/**
 * Keeps the page that the router is on its way to, or has come to. The router tells of it at once; what is drawn gets to
 * know it with a rendering, which may come later than what was typed or clicked there is handed on.
 */
export function followRouter(router: Pick<ReturnType<typeof createBrowserRouter>, 'subscribe'>): void {
  router.subscribe(({ navigation, location }) => {
    latest = navigation.location ?? location
  })
}

/** That page; null before the first move. */
export const pageUnderWay = (): Page | null => latest
