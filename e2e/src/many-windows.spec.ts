import { expect, type Page, test } from '@playwright/test'

// A browser holds six connections to one address at most, those of all its windows together.
test('of ten windows beside each other every one answers, and hears what is changed in another', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  const [address] = page.url().split('?')
  const windows = []
  for (let more = 0; more < 9; more++) {
    const window = await page.context().newPage()
    windows.push(window)
    await window.goto(`${address}/clips`)
    await expect(window.getByRole('row').nth(3)).toBeVisible()
  }
  // One is left the way a person leaves it, the others go on to hear.
  await windows.shift()?.close({ runBeforeUnload: true })
  // One lies behind another, and reads what has changed when somebody looks at it again.
  const behind = windows[0] as Page
  await behind.evaluate(() => Object.defineProperty(document, 'hidden', { value: true, configurable: true }))
  const name = `Heard ${Date.now()}`
  const production = { name, rate: { numerator: 25, denominator: 1 }, width: 1920, height: 1080 }
  const headers = { 'content-type': 'application/json' }
  expect((await page.request.post('/api/productions', { data: production, headers })).ok()).toBe(true)
  const isListed = async (window: Page): Promise<void> => {
    await window.getByRole('button', { name: /^Production: / }).click()
    await expect(window.getByRole('menuitem', { name })).toBeVisible()
  }
  for (const window of [page, ...windows.slice(1)]) await isListed(window)
  await behind.evaluate(() => {
    Object.defineProperty(document, 'hidden', { value: false })
    document.dispatchEvent(new Event('visibilitychange'))
  })
  await isListed(behind)
})
