import { expect, type Locator, type Page, test } from '@playwright/test'

/** What the API answers: a walk takes from it what it needs. */
// biome-ignore lint/suspicious/noExplicitAny: the interface is walked, and the API has tests of its own
type Answered = any

/** One page for all tests of a file, which go on where the one before ended, with what is asked of every stop. */
export interface Walk {
  readonly page: Page
  heading(): Locator
  row(name: string): Locator
  cell(name: string, field: string): Locator
  dialog(): Locator
  volume(label: string): Locator
  /** Asks the API for a change, as the interface does, where what is walked begins behind it. */
  post(path: string, data: object): Promise<Answered>
  /** Goes to a stop by the line. */
  stop(name: string): Promise<void>
  /** Types into the filter of Clips, and waits until the address has it. */
  filter(words: string): Promise<void>
}

/** Opens the walk of a file: whatever the page complains of fails the test in which it does. */
export function openWalk(): Walk {
  test.describe.configure({ mode: 'serial' })
  let page: Page
  const complaints: string[] = []
  test.beforeAll(async ({ browser }) => {
    page = await browser.newPage({ acceptDownloads: true })
    page.on('pageerror', (error) => complaints.push(error.message))
    page.on('console', (message) => {
      // Refusals are part of the walk; everything else that the browser complains about is a fault.
      if (message.type() === 'error' && !message.text().startsWith('Failed to load resource'))
        complaints.push(message.text())
    })
    await page.goto('/')
  })
  test.afterAll(() => page.close())
  test.afterEach(() => expect(complaints).toEqual([]))
  const row = (name: string): Locator => page.getByRole('row').filter({ hasText: name })
  return {
    get page() {
      return page
    },
    heading: () => page.getByRole('heading', { level: 1 }),
    row,
    cell: (name, field) => row(name).locator(`[data-field=${field}]`),
    dialog: () => page.getByRole('dialog'),
    volume: (label) => page.getByTestId(`volume-${label}`),
    async post(path, data) {
      const headers = { 'content-type': 'application/json' }
      const response = await page.request.post(`/api${path}`, { data, headers })
      expect(response.ok(), `${path}: ${await response.text()}`).toBe(true)
      return response.json()
    },
    async stop(name) {
      const link = page
        .getByRole('navigation', { name: 'The line' })
        .getByRole('link', { name: new RegExp(`^${name}`) })
      await link.click()
      await expect(page).toHaveURL(new RegExp(`/${name.toLowerCase()}`))
      // The address may come before the page: until then the stop before is there to be clicked.
      await expect(link).toHaveAttribute('aria-current', 'page')
    },
    async filter(words) {
      await page.getByLabel('Filter clips').fill(words)
      await expect(page).toHaveURL(
        words ? new RegExp(`q=${encodeURIComponent(words).replaceAll('%20', '\\+')}`) : /clips(?!.*q=)/,
      )
    },
  }
}
