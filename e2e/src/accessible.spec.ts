import AxeBuilder from '@axe-core/playwright'
import { expect, type Page, test } from '@playwright/test'

/**
 * What stands against the Web Content Accessibility Guidelines on the page as it is now, a line each.
 * @param rules all of them if none is named
 */
async function faults(page: Page, ...rules: string[]): Promise<string[]> {
  await expect(page.locator('.loading')).toHaveCount(0)
  const looking = new AxeBuilder({ page }).options({ resultTypes: ['violations'] })
  const { violations } = await (rules.length > 0 ? looking.withRules(rules) : looking).analyze()
  return violations.flatMap(({ id, nodes }) => nodes.map(({ html }) => `${id}: ${html}`))
}

// Colours that are still on their way to others are nobody's to be judged.
test.use({ contextOptions: { reducedMotion: 'reduce' } })

const views = [
  ...['', '/intake', '/clips', '/make', '/make?view=queue', '/pairs', '/pairs?view=elsewhere', '/settings', '/history'],
  ...['', '?view=spans', '?view=paths'].map((view) => `/cuts${view}`),
  ...['', '?view=mends', '?view=collection'].map((view) => `/mend${view}`),
  '/handoff',
]

/** What lies over Clips when a clip is at hand and keys are pressed. */
const over = { 'the clip': ['Enter'], 'the viewer': ['v'], 'the keys': ['?'], 'find anything': ['Control+k'] }

test('every stop can be read by everybody, on paper and by the lamp', async ({ page }) => {
  // It looks at every element of a score of pages.
  test.slow()
  await page.goto('/')
  const heading = page.getByRole('heading', { level: 1 })
  await expect(heading).toBeVisible()
  const production = new URL(page.url()).pathname.replace(/\/$/, '')
  for (const view of views) {
    await page.goto(`${production}${view}`)
    await expect(heading).toBeVisible()
    expect.soft(await faults(page), view || 'Today').toEqual([])
    // By the lamp nothing else differs than the colours, and the views of a stop have the same ones.
    if (view.includes('?')) continue
    await page.keyboard.press('d')
    await expect(page.locator('html')).toHaveClass(/dark/)
    expect.soft(await faults(page, 'color-contrast'), `${view || 'Today'}, by the lamp`).toEqual([])
    await page.keyboard.press('d')
  }
  for (const [name, keys] of Object.entries(over)) {
    await page.goto(`${production}/clips`)
    await expect(page.getByRole('row').nth(3)).toBeVisible()
    for (const key of ['j', ...keys]) await page.keyboard.press(key)
    await expect(page.getByRole('dialog')).toBeVisible()
    expect.soft(await faults(page), name).toEqual([])
  }
})

test('tabs are reached with arrows, one at a time with Tab', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('link', { name: /^Pairs/ }).click()
  const tab = (name: string) => page.getByRole('tab', { name })
  await tab('Ledger').focus()
  await page.keyboard.press('ArrowRight')
  await expect(tab('Made elsewhere')).toBeFocused()
  await expect(tab('Made elsewhere')).toHaveAttribute('aria-selected', 'true')
  await expect(page).toHaveURL(/view=elsewhere/)
  await page.keyboard.press('Tab')
  await expect(page.getByRole('tab').and(page.locator(':focus'))).toHaveCount(0)
  await page.keyboard.press('Shift+Tab')
  await page.keyboard.press('Home')
  await expect(tab('Ledger')).toBeFocused()
  await expect(page).not.toHaveURL(/view=/)
})

/** As wide as any system draws one. */
const scrollbarPoints = 17

test('no table is wider than a small window, beside scrollbars that take room of their own', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  const production = new URL(page.url()).pathname.replace(/\/$/, '')
  // In Cuts the page scrolls too.
  for (const [view, scrollbars] of [
    ['/clips', 1],
    ['/pairs', 1],
    ['/cuts', 2],
    ['/cuts?view=paths', 2],
  ] as const) {
    await page.goto(`${production}${view}`)
    await expect(page.getByRole('row').nth(2)).toBeVisible()
    const { shown, wanted } = await page.getByRole('table').evaluate((table: HTMLElement) => ({
      ...{ shown: table.clientWidth, wanted: Number.parseFloat(getComputedStyle(table).minWidth) },
    }))
    expect(wanted, view).toBeGreaterThan(0)
    expect(wanted + scrollbars * scrollbarPoints, view).toBeLessThanOrEqual(shown)
  }
})
