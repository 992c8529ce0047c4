import { mkdir, readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { expect, test } from '@playwright/test'

const demo = join(process.env.ENNICK_TEST_DATA as string, 'demo')

test('keys go to every stop, the palette finds anything, the lamp and the place survive a reload', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  for (const [letter, address] of [
    ['i', 'intake'],
    ['c', 'clips'],
    ['m', 'make'],
    ['p', 'pairs'],
    ['u', 'cuts'],
    ['e', 'mend'],
    ['h', 'handoff'],
  ] as const) {
    await page.keyboard.press('g')
    await page.keyboard.press(letter)
    await expect(page).toHaveURL(new RegExp(`/${address}`))
  }
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog').getByText('find anything, do anything')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)

  await page.keyboard.press('Control+k')
  await page.getByPlaceholder('A clip, reel, volume, cut, or something to do').fill('R07 wheel')
  await expect(page.getByRole('option').filter({ hasText: 'R07_wheel_1961' })).toBeVisible()
  await page.keyboard.press('Enter')
  await expect(page).toHaveURL(/clip=/)
  await expect(page.getByRole('dialog').getByText('2:1, anamorphic')).toBeVisible()
  await page.reload()
  await expect(page.getByRole('dialog').getByText('2:1, anamorphic')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)

  await page.keyboard.press('d')
  await expect(page.locator('html')).toHaveClass(/dark/)
  await page.reload()
  await expect(page.locator('html')).toHaveClass(/dark/)
  await page.keyboard.press('d')
})

test('a list is worked with keys alone: filter, move, mark, open', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.keyboard.press('g')
  await page.keyboard.press('c')
  await expect(page.getByRole('row').nth(3)).toBeVisible()
  await page.keyboard.press('/')
  await page.keyboard.type('B001')
  await expect(page).toHaveURL(/q=B001/)
  await page.keyboard.press('Escape')
  await expect(page.getByRole('row')).toHaveCount(5)
  await page.keyboard.press('j')
  await page.keyboard.press('x')
  await page.keyboard.press('j')
  await page.keyboard.press('x')
  await expect(page.getByText(/^2 marked/)).toBeVisible()
  await page.reload()
  await expect(page.getByText(/^2 marked/)).toBeVisible()
  // The marks are told before the rows are there for a key to move among.
  await expect(page.getByRole('row')).toHaveCount(5)
  await page.keyboard.press('j')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Start', exact: true }).click()
  await expect(page).toHaveURL(/sort=start/)
})

test('Escape puts away what has been drawn this very moment', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  // Pressed before anything else comes to its turn, as by a quick hand on a slow machine.
  await page.evaluate(() => {
    const seen: string[] = []
    Object.assign(window, { seen })
    new MutationObserver(() => {
      const dialog = document.querySelector('[role=dialog]')
      if (!dialog || seen.length) return
      seen.push(dialog.textContent ?? '')
      dialog.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true }))
    }).observe(document.body, { childList: true, subtree: true })
  })
  await page.keyboard.press('?')
  await expect.poll(() => page.evaluate(() => (window as unknown as { seen: string[] }).seen)).toHaveLength(1)
  await expect(page.getByRole('dialog')).toHaveCount(0, { timeout: 20_000 })
})

test('Escape takes back what is still on its way', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.keyboard.press('g')
  await page.keyboard.press('c')
  await expect(page.getByRole('row').nth(3)).toBeVisible()
  await page.keyboard.press('j')
  // Both before the page comes to draw anything: a row's number is looked up in between, and no more.
  await page.evaluate(async () => {
    for (const key of ['Enter', 'Escape']) {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }))
      for (let step = 0; step < 10; step++) await null
    }
  })
  await page.keyboard.press('j')
  await page.getByRole('button', { name: 'Start', exact: true }).click({ timeout: 20_000 })
  await expect(page).toHaveURL(/sort=start/)
  await expect(page).not.toHaveURL(/clip=/)
  await expect(page.getByRole('dialog')).toHaveCount(0)
})

test('what is typed in one stop stays there, however slowly the next one loads', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  let release = (): void => undefined
  const held = new Promise<void>((resolve) => {
    release = resolve
  })
  await page.route(/assets\/handoff-stop.*\.js/, async (route) => {
    await held
    await route.continue()
  })
  await page.goto(`${new URL(page.url()).pathname}/clips`)
  await page.getByLabel('Filter clips').fill('B001')
  await page
    .getByRole('navigation', { name: 'The line' })
    .getByRole('link', { name: /^Handoff/ })
    .click()
  // The field hands on what was typed a moment after it was, while the next stop is on its way.
  await page.waitForTimeout(400)
  release()
  await expect(page).toHaveURL(/handoff/)
  await expect(page.getByText('Formats, each read again after it is written')).toBeVisible()
  expect(new URL(page.url()).search).not.toContain('B001')
  await page.unrouteAll({ behavior: 'wait' })
})

test('keys that are pressed while rows are being read count for these rows', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  let release = (): void => undefined
  const held = new Promise<void>((resolve) => {
    release = resolve
  })
  await page.route('**/clips/search', async (route) => {
    await held
    await route.continue()
  })
  await page.goto(`${new URL(page.url()).pathname}/clips?q=A001C00`)
  await expect(page.getByRole('heading', { level: 1 })).toHaveText(/^4 of/)
  await expect(page.getByRole('row')).toHaveCount(5)
  for (const key of ['j', 'x', 'j', 'x']) await page.keyboard.press(key)
  await expect(page.getByText(/^2 marked/)).toBeVisible()
  release()
  for (const name of ['A001C001_1104.mov', 'A001C002_1104.mov'])
    await expect(page.getByRole('row').filter({ hasText: name }).getByRole('checkbox')).toBeChecked()
  for (const key of ['x', 'k', 'x']) await page.keyboard.press(key)
  await expect(page.getByText(/marked$/)).toHaveCount(0)
  await page.unrouteAll({ behavior: 'wait' })
})

test('an empty production says what to do at every stop; a card added by hand is scanned at once', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: /^Production:/ }).click()
  await page.getByRole('menuitem', { name: 'New production…' }).click()
  await page.getByLabel('Name').fill('Slack Water')
  await page.getByRole('button', { name: 'Make the production' }).click()
  await expect(page.getByText('Add the first card, drive or folder')).toBeVisible()
  for (const [letter, text] of [
    ['c', 'No clip yet'],
    ['p', 'The ledger is empty'],
    ['u', 'Read the first cut'],
    ['e', 'No cut has been read'],
    ['h', 'No cut has been read'],
    ['m', 'No clip is chosen'],
    ['t', 'Nothing is in yet'],
  ] as const) {
    await page.keyboard.press('g')
    await page.keyboard.press(letter)
    await expect(page.getByText(text)).toBeVisible()
  }
  await page.keyboard.press('g')
  await page.keyboard.press('i')
  await page.getByRole('button', { name: 'Add a volume' }).click()
  await page.getByLabel('Label on the box').fill('MIX-01')
  await page.getByLabel('Kind').selectOption('recorder')
  const picker = page.getByTestId('folder-picker')
  for (const name of [demo, 'bay', 'MIX-01']) await picker.getByRole('button', { name, exact: true }).click()
  await expect(picker.getByText('Right here: 3 media files')).toBeVisible()
  // What lies there is counted before anything is read; what the label says goes to every clip.
  await expect(page.getByTestId('folder-map').getByText('3 media files')).toBeVisible()
  await page.getByTestId('folder-map').locator('summary').click()
  await expect(page.getByTestId('folder-map').getByText('right here')).toBeVisible()
  await page.getByLabel('Shoot day').fill('Day 02')
  await page.getByLabel('Unit').fill('second')
  await page.getByRole('button', { name: 'Add MIX-01 and scan it' }).click()
  await expect(page.getByTestId('volume-MIX-01').getByText(/^3 clips,/)).toBeVisible()
  await page.keyboard.press('g')
  await page.keyboard.press('c')
  const take = page.getByRole('row').filter({ hasText: 'LW_12A_T2.wav' })
  await expect(take).toContainText('09:22:00:00')
  await take.locator('[data-field=name]').click()
  const described = page.getByRole('dialog')
  for (const words of ['day 2', 'second', 'MIX-01']) await expect(described.getByText(words).first()).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  // A label that is corrected takes its clips along.
  await page.keyboard.press('g')
  await page.keyboard.press('i')
  await page.getByRole('button', { name: 'Details of MIX-01' }).click()
  await page.getByRole('dialog').getByLabel('Unit').fill('main')
  await page.getByRole('dialog').getByRole('button', { name: 'Save' }).click()
  await expect(page.getByRole('dialog').getByRole('button', { name: 'Save' })).toBeDisabled()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await page.keyboard.press('g')
  await page.keyboard.press('c')
  await take.locator('[data-field=name]').click()
  await expect(described.getByText('main', { exact: true })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('dialog')).toHaveCount(0)

  // One of its clips is taken out, no scan brings it back, and it comes back when it is asked for.
  await take.getByRole('checkbox').check()
  await page.getByRole('button', { name: 'More' }).click()
  await page.getByRole('menuitem', { name: 'Take 1 out of the production…' }).click()
  await page.getByRole('dialog').getByRole('button', { name: 'Take 1 clip out' }).click()
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('2 clips')
  await page.getByRole('button', { name: 'More' }).click()
  await page.getByRole('menuitem', { name: 'What was taken out…' }).click()
  await page.getByTestId('taken-out').getByRole('button', { name: 'Bring back' }).click()
  await expect(page.getByText('Nothing was taken out.')).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('3 clips')

  // The card was the wrong one: it goes, with its clips.
  await page.keyboard.press('g')
  await page.keyboard.press('i')
  await page.getByRole('button', { name: 'Details of MIX-01' }).click()
  await page.getByRole('button', { name: 'Remove MIX-01 from the production…' }).click()
  await page.getByRole('button', { name: 'Remove it with its 3 clips' }).click()
  await expect(page.getByText('Add the first card, drive or folder')).toBeVisible()
})

test('the words have a glossary, and the settings say which folders may be used and how to allow another', async ({
  page,
}) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.keyboard.press('?')
  await page.getByRole('button', { name: /glossary/ }).click()
  await page.getByLabel('Filter words').fill('op-atom')
  await expect(page.getByText('MXF with one file per track')).toBeVisible()
  await page.getByLabel('Filter words').fill('no such word')
  await expect(page.getByText('No word here has this in it.')).toBeVisible()
  await page.getByRole('button', { name: /^Production:/ }).click()
  await page.getByRole('menuitem', { name: 'Settings' }).click()
  await expect(page.getByText(demo, { exact: true })).toBeVisible()
  await expect(page.getByText('./ennick start --allow /path/of/the/folder')).toBeVisible()
})

test('a new production is corrected, what that changes is said, and what is made goes where it is wanted', async ({
  page,
}) => {
  await mkdir(join(demo, 'edit storage'), { recursive: true })
  await page.goto('/')
  await page.getByRole('button', { name: /^Production:/ }).click()
  await page.getByRole('menuitem', { name: 'New production…' }).click()
  await page.getByLabel('Name').fill('Ebb')
  await page.getByRole('button', { name: 'Make the production' }).click()
  await page.getByRole('button', { name: 'Production: Ebb' }).click()
  await page.getByRole('menuitem', { name: 'Settings' }).click()

  await page.getByLabel('Frames a second').selectOption('24')
  await page.getByLabel('Width').fill('2048')
  const changes = page.getByTestId('production-changes')
  await expect(changes).toContainText('Recipes at the production’s raster make 2048 × 1080, not 1920 × 1080.')
  await changes.getByRole('button', { name: 'Correct the production' }).click()
  await expect(changes).toHaveCount(0)
  await expect(page.getByText('24 fps · 2048 × 1080')).toBeVisible()

  const place = page.getByTestId('made-place')
  await expect(place).toContainText('Nothing was made yet')
  await place.getByRole('button', { name: 'Change its folder…' }).click()
  const dialog = page.getByRole('dialog')
  await dialog.getByRole('button', { name: demo, exact: true }).click()
  await dialog.getByRole('button', { name: 'edit storage' }).click()
  await dialog.getByRole('button', { name: 'Have it lie there' }).click()
  await expect(dialog).toHaveCount(0)
  await expect(place).toContainText(join(demo, 'edit storage', 'Ebb-'))
  expect(await readdir(join(demo, 'edit storage'))).toHaveLength(1)

  await page.getByRole('button', { name: 'Add a place…' }).click()
  await dialog.getByLabel('Name of the place').fill('For finishing')
  await dialog.getByRole('checkbox', { name: 'optimized transcodes' }).click()
  await dialog.getByRole('button', { name: demo, exact: true }).click()
  await dialog.getByRole('button', { name: 'edit storage' }).click()
  await dialog.getByRole('button', { name: 'Add the place' }).click()
  await expect(place.nth(1)).toContainText('For finishing · takes optimized transcodes')
  await page.getByTestId('place-rule').getByLabel('deliverables').selectOption('For finishing')
  await expect(place.first()).toContainText('takes proxies, review copies')
  await place.nth(1).getByRole('button', { name: 'Give it up' }).click()
  await expect(place).toHaveCount(1)

  await page.getByRole('button', { name: 'Cutting room with managed media…' }).click()
  await page.getByLabel('Characters of a reel').fill('8')
  await page.getByRole('button', { name: 'Keep the target' }).click()
  await expect(page.getByTestId('target')).toContainText('Containers: MXF OP-Atom')
  await expect(page.getByTestId('target')).toContainText('Reels: 8 characters at most')
  await page.getByRole('link', { name: /^Make/ }).click()
  const fit = page.getByTestId('target-fit')
  await expect(fit).toContainText('It takes MXF OP-Atom; this makes MOV.')
  await fit.getByRole('button', { name: 'Copy and make it fit…' }).click()
  await expect(page.getByLabel('Name', { exact: true })).toHaveValue(
    'Half size, H.264 intra, for Cutting room with managed media',
  )
  await expect(page.getByText('not taken')).toHaveCount(0)
  await page.getByRole('button', { name: 'Keep the recipe' }).click()
  await expect(fit).toContainText(/^taken by Cutting room with managed media/)

  // The other tests go on in the demo.
  await page.getByRole('button', { name: 'Retire' }).click()
  await page.getByRole('button', { name: 'Production: Ebb' }).click()
  await page.getByRole('menuitem', { name: /Low Water/ }).click()
  await expect(page.getByRole('button', { name: 'Production: Low Water' })).toBeVisible()
})

test('pictures of rows that were scrolled past are waited for no more', async ({ page }) => {
  const [asked, leftAlone] = [new Set<string>(), new Set<string>()]
  await page.route('**/thumbnail.jpg', (route) => {
    asked.add(route.request().url())
  })
  page.on('requestfailed', (request) => leftAlone.add(request.url()))
  await page.goto('/')
  await expect(page.getByRole('heading', { level: 1 })).toBeVisible()
  await page.keyboard.press('g')
  await page.keyboard.press('c')
  await expect(page.getByRole('row').nth(3)).toBeVisible()
  await expect.poll(() => asked.size).toBeGreaterThan(3)
  const [first] = asked
  await page.getByRole('row').nth(3).hover()
  await page.mouse.wheel(0, 5000)
  await expect.poll(() => leftAlone.has(first ?? '')).toBe(true)
})

test('what was done is found by its words, leads to what it was done to, and leaves as a table', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('link', { name: 'All of it' }).click()
  await expect(page.getByRole('heading', { level: 1 })).toHaveText('What was done')
  const lines = page.getByTestId('history-line')
  await expect(lines.nth(3)).toBeVisible()
  await page.keyboard.press('/')
  await page.keyboard.type('mix-01 SCANNED')
  await expect(lines.filter({ hasNotText: 'MIX-01' })).toHaveCount(0)
  await expect(lines.last()).toContainText('Scanned “MIX-01”: 3 read')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Save as a table (CSV)' }).click(),
  ])
  expect(download.suggestedFilename()).toMatch(/history\.csv$/)
  expect((await readFile(await download.path(), 'utf8')).split('\r\n')[1]).toContain('Scanned “MIX-01”: 3 read')
  await lines.last().getByRole('link', { name: 'volume' }).click()
  await expect(page.getByRole('dialog')).toContainText('MIX-01')
})
