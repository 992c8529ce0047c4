import { execFile } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { resolve } from 'node:path'
import { promisify } from 'node:util'
import { expect, type Page, test } from '@playwright/test'
import { openWalk } from './walk.ts'

const data = process.env.ENNICK_TEST_DATA as string

const walk = openWalk()
const { heading, row, cell, dialog, stop, filter } = walk
let page: Page
test.beforeAll(() => {
  page = walk.page
})

test('cells are edited in the table, and every edit is taken back and done again', async () => {
  await stop('Clips')
  await filter('B001C001')
  await cell('B001C001.mov', 'scene').click()
  await page.getByLabel('Scene', { exact: true }).fill('12A')
  await page.keyboard.press('Tab')
  await page.getByLabel('Take', { exact: true }).fill('3')
  await page.keyboard.press('Enter')
  await expect(cell('B001C001.mov', 'scene')).toHaveText('12A')
  await expect(cell('B001C001.mov', 'take')).toHaveText('3')
  await page.keyboard.press('Escape')
  await page.keyboard.press('Control+z')
  await expect(cell('B001C001.mov', 'take')).toHaveText('')
  await page.getByRole('button', { name: 'Redo' }).click()
  await expect(cell('B001C001.mov', 'take')).toHaveText('3')
  await cell('B001C001.mov', 'name').click()
  await expect(dialog().getByText('Take: empty → 3')).toBeVisible()
  await page.keyboard.press('Escape')
})

test('an undo right after an edit takes that edit back, whatever the page has read by then', async () => {
  const order: string[] = []
  let isPressed = false
  await page.route('**/clips/edit', async (route) => {
    await expect.poll(() => isPressed).toBe(true)
    const response = await route.fetch()
    order.push('kept')
    await route.fulfill({ response })
  })
  await page.route('**/edits/undo', async (route) => {
    order.push('taken back')
    await route.continue()
  })
  // What can be undone is not read again meanwhile: the page does not know of the edit.
  await page.route('**/edits', async (route) => {
    await expect.poll(() => order).toContain('taken back')
    await route.continue()
  })
  await cell('B001C001.mov', 'take').click()
  await page.getByLabel('Take', { exact: true }).fill('9')
  await page.keyboard.press('Enter')
  await page.keyboard.press('Escape')
  const undone = page.waitForResponse('**/edits/undo')
  await page.keyboard.press('Control+z')
  isPressed = true
  expect(await (await undone).json()).toMatchObject({ changed: 1 })
  expect(order).toEqual(['kept', 'taken back'])
  await expect(cell('B001C001.mov', 'take')).toHaveText('3')
  await page.unrouteAll({ behavior: 'wait' })
})

test('pictures are synced with the recordings that ran, by timecode; it is kept, and taken back', async () => {
  await filter('')
  await page.getByRole('button', { name: 'Sync sound…' }).click()
  await expect(dialog().getByRole('status')).toContainText(/[1-9]\d* of \d+ pictures synced with \d+ recordings/)
  const first = dialog().getByRole('row').filter({ hasText: 'A001C001_1104' })
  await expect(first).toContainText('LW_12A_T1')
  // The camera began two seconds and ten frames after the recorder, at 25 frames a second.
  await expect(first).toContainText('115200 samples at 48 kHz')
  await expect(dialog().getByText('nothing was recorded at its timecode').first()).toBeVisible()
  await dialog()
    .getByRole('button', { name: /^Keep the sync of \d+ pictures$/ })
    .click()
  await expect(dialog()).toHaveCount(0)
  await filter('A001C001_1104')
  await expect(cell('A001C001_1104.mov', 'scene')).toHaveText('12A')
  await cell('A001C001_1104.mov', 'name').click()
  await expect(dialog().getByText('115200 samples at 48 kHz').first()).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(dialog()).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(cell('A001C001_1104.mov', 'scene')).toHaveText('')
  await filter('')
})

test('what is being typed into a cell stays with its clip while somebody else changes the list', async () => {
  await filter('B001')
  await expect(heading()).toHaveText(/^4 of/)
  await cell('B001C002.mov', 'scene').click()
  const scene = page.getByLabel('Scene', { exact: true })
  await scene.fill('13')
  // Another person names the first of the list so that it goes to the end: every row has another place.
  const production = new URL(page.url()).pathname.split('/')[2]
  const clips = `/api/productions/${production}/clips`
  const first = (await (await page.request.post(`${clips}/search`, { data: { words: 'B001C001' } })).json()).rows[0]
  const action = { kind: 'set', clipIds: [first.id], field: 'name', value: 'zz of the other person' }
  expect((await page.request.post(`${clips}/edit`, { data: { action, apply: true } })).ok()).toBe(true)
  await expect(page.getByRole('row').last()).toContainText('zz of the other person')
  await expect(scene).toBeFocused()
  await page.keyboard.type('B')
  await page.keyboard.press('Enter')
  await expect(cell('B001C002.mov', 'scene')).toHaveText('13B')
  await page.keyboard.press('Escape')
  for (const undone of ['13B', 'zz of the other person']) {
    await page.getByRole('button', { name: 'Undo' }).click()
    await expect(page.getByText(undone)).toHaveCount(0)
  }
  await page.keyboard.press('j')
  await page.keyboard.press('e')
  await page.getByLabel('Name', { exact: true }).fill('named by key')
  await page.keyboard.press('Enter')
  await expect(row('named by key')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(row('named by key')).toHaveCount(0)
})

test('many clips are described at once: a value, a copied column, a pattern, a replacement', async () => {
  await filter('B001')
  await expect(heading()).toHaveText(/^4 of/)
  await page.getByRole('checkbox', { name: 'Mark all rows' }).click()
  await expect(page.getByText(/^\d+ marked$/)).toBeVisible()
  await page.getByRole('button', { name: /^Describe \d/ }).click()
  await dialog().getByLabel('Column').selectOption('camera')
  await dialog().getByLabel('Value').fill('B')
  await expect(dialog().getByText(/would change/)).toBeVisible()
  await dialog().getByRole('tab', { name: 'Copy a column' }).click()
  await dialog().getByLabel('into').selectOption('notes')
  await dialog()
    .getByRole('button', { name: /^Change \d+ cells$/ })
    .click()
  await expect(dialog()).toHaveCount(0)
  await page.getByRole('button', { name: /^Describe \d/ }).click()
  await dialog().getByRole('tab', { name: 'Fill from a pattern' }).click()
  await dialog().getByLabel('Pattern').fill('mill {counter:2}')
  await dialog().getByLabel('only where it is empty').uncheck()
  await dialog()
    .getByRole('button', { name: /^Change \d+ cells$/ })
    .click()
  await expect(dialog()).toHaveCount(0)
  await expect(row('mill 01')).toBeVisible()
  await page.getByRole('button', { name: /^Describe \d/ }).click()
  await dialog().getByRole('tab', { name: 'Take a name apart' }).click()
  await dialog().getByLabel('Pattern').fill('{skip}C{take}')
  await expect(dialog().getByText('3 cells would change.')).toBeVisible()
  await dialog().getByLabel('only where it is empty').uncheck()
  await expect(dialog().getByText('4 cells would change.')).toBeVisible()
  await dialog().getByLabel('Pattern').fill('{skip}C{take}-{scene}')
  await expect(dialog().getByText(/4 clips stay as they are: .*does not fit/)).toBeVisible()
  await dialog().getByRole('tab', { name: 'Find and replace' }).click()
  await dialog().getByLabel('Column').selectOption('name')
  await dialog().getByLabel('Find').fill('^mill (\\d+)$')
  await dialog().getByLabel('and put').fill('wheel $1')
  await expect(dialog().getByText('Nothing would change.')).toBeVisible()
  await dialog()
    .getByLabel(/regular expression/)
    .check()
  await dialog()
    .getByRole('button', { name: /^Change \d+ cells$/ })
    .click()
  await expect(row('wheel 01')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(row('mill 01')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(row('mill 01')).toHaveCount(0)
  await page.getByRole('checkbox', { name: /all (rows|marks)/ }).click()
  await expect(page.getByText(/marked$/)).toHaveCount(0)
})

test('a search with groups is built, shown with its count, saved, and stays current', async () => {
  await filter('')
  await page.getByRole('button', { name: 'Search…' }).click()
  await dialog().getByLabel('Field').selectOption('codec')
  await dialog().getByLabel('Value').fill('MJPEG')
  await dialog().getByRole('button', { name: 'Add a group' }).click()
  const inner = dialog().getByRole('button', { name: 'Add a term' }).nth(1)
  await inner.click()
  await dialog().getByLabel('Field').nth(1).selectOption('frames')
  await dialog().getByLabel('Question').nth(1).selectOption('more')
  await dialog().getByLabel('Value').nth(1).fill('many')
  await expect(dialog().getByRole('alert')).toContainText('Frames is a number; “many” is none.')
  await dialog().getByLabel('Value').nth(1).fill('100')
  await inner.click()
  await dialog().getByLabel('Field').nth(2).selectOption('reel')
  await dialog().getByLabel('Value').nth(2).fill('B004')
  await expect(dialog().getByText('Finds 2 clips')).toBeVisible()
  await dialog().getByLabel('Name of the search').fill('Heavy B')
  await dialog().getByRole('button', { name: 'Save it' }).click()
  await expect(heading()).toHaveText(/^2 of/)
  await expect(page.getByLabel('Show only')).toContainText('Heavy B (2)')
  await page.getByLabel('Show only').selectOption('')
})

test('columns are chosen, made and kept in a view; several sort together', async () => {
  await page.getByRole('button', { name: 'Columns…' }).click()
  await dialog().getByRole('checkbox', { name: 'Track names' }).check()
  await dialog().getByLabel('A column of your own').fill('Weather')
  await dialog().getByLabel('Kind of column').selectOption('choice')
  await dialog().getByLabel('Choices, parted by commas').fill('calm, storm')
  await dialog().getByRole('button', { name: 'Make it' }).click()
  await dialog().getByRole('checkbox', { name: 'Weather' }).check()
  await dialog().getByLabel('Name of this view').fill('Sound')
  await dialog().getByRole('button', { name: 'Save the view' }).click()
  await expect(dialog().getByRole('button', { name: 'Show Sound' })).toBeVisible()
  await dialog().getByRole('checkbox', { name: 'Track names' }).uncheck()
  await dialog().getByRole('button', { name: 'Show Sound' }).click()
  await dialog().getByRole('button', { name: 'Done' }).click()
  await filter('LW_')
  await expect(cell('LW_12A_T1.wav', 'tracks')).toHaveText('MIX, BOOM, INES, MILLER')
  await expect(cell('LW_12A_T1.wav', 'scene')).toHaveText('12A')
  await cell('LW_12A_T1.wav', 'x1').click()
  await page.getByLabel('Weather', { exact: true }).selectOption('storm')
  await page.keyboard.press('Enter')
  await expect(cell('LW_12A_T1.wav', 'x1')).toHaveText('storm')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Scene', exact: true }).click()
  await page.getByRole('button', { name: 'Take', exact: true }).click({ modifiers: ['Shift'] })
  await page.getByRole('button', { name: /^Take/ }).click({ modifiers: ['Shift'] })
  await expect(page).toHaveURL(/sort=scene%2C-take/)
  await cell('LW_12A_T1.wav', 'name').click()
  for (const words of ['gulls in the second half', '4 MILLER'])
    await expect(dialog().getByText(words).first()).toBeVisible()
  await expect(dialog().getByAltText('Waveform')).toBeVisible()
  await page.keyboard.press('Escape')
  await page.goto(page.url().replace(/\?.*/, ''))
})

test('a time-lapse with a gap and a spanned take are one clip each', async () => {
  await filter('mist')
  await expect(cell('LW_mist_####.jpg', 'notice')).toHaveText('gap in stills')
  await cell('LW_mist_####.jpg', 'name').click()
  await expect(dialog().getByText(/frames 21 to 22 missing/)).toBeVisible()
  await expect(dialog().getByText('58 of 60, from number 1')).toBeVisible()
  await page.keyboard.press('Escape')
  await filter('B004C001')
  await cell('B004C001_1.mov', 'name').click()
  await expect(dialog().getByText(/B004C001_3\.mov$/)).toBeVisible()
  await page.keyboard.press('Escape')
})

test('clips are moved between groups by key and by drag', async () => {
  await page.getByRole('button', { name: 'Groups' }).click()
  const groups = page.getByRole('navigation', { name: 'Groups' })
  await filter('R07')
  await row('R07_wheel_1961.mov').getByRole('checkbox').check()
  await groups.getByRole('button', { name: /^day 3/ }).click()
  await groups.getByRole('button', { name: 'Move 1 clip here' }).click()
  await expect(cell('R07_wheel_1961.mov', 'day')).toHaveText('day 3')
  await groups.getByRole('button', { name: /^Low Water/ }).click()
  await row('R07_wheel_1961.mov').dragTo(groups.getByRole('button', { name: /^day 2/ }))
  await expect(cell('R07_wheel_1961.mov', 'day')).toHaveText('day 2')
  await row('R07_wheel_1961.mov').getByRole('checkbox').uncheck()
  await page.getByRole('button', { name: 'Groups' }).click()
})

const log = [
  ...['Heading', 'FIELD_DELIM\tTABS', 'VIDEO_FORMAT\t1080', 'AUDIO_FORMAT\t48khz', 'FPS\t25', '', 'Column'],
  ...[
    'Name\tTape\tStart\tScene\tTake\tMood',
    '',
    'Data',
    'A001C001_1104\tA001\t09:14:02:10\t12A\t1\tcalm',
    'heron\tZ9\t05:00:00:00\t4\t1\t',
  ],
].join('\r\n')

test('a log is read with every change shown, merged, taken back, and written again', async () => {
  await filter('')
  await page.getByRole('button', { name: 'Read a log (ALE, CSV)…' }).click()
  await dialog()
    .getByLabel('Log file')
    .setInputFiles({
      name: 'cut off.ale',
      mimeType: 'text/plain',
      buffer: Buffer.from(log.slice(0, log.indexOf('Data'))),
    })
  await expect(dialog().getByRole('alert')).toContainText('has no section “Data” after “Column” on line 7')
  await dialog()
    .getByLabel('Log file')
    .setInputFiles({ name: 'day 1.ale', mimeType: 'text/plain', buffer: Buffer.from(`\uFEFF${log}`, 'utf16le') })
  await expect(dialog().getByText('1 of 2 rows matched · 3 cells would change')).toBeVisible()
  await expect(dialog().getByText('Line 12, heron')).toBeVisible()
  await dialog().getByRole('button', { name: 'Hold 1 place for what is not here' }).click()
  await expect(dialog().getByText('1 place held')).toBeVisible()
  await dialog().getByRole('button', { name: 'Merge 3 cells' }).click()
  await expect(dialog()).toHaveCount(0)
  await walk.stop('Intake')
  const awaited = page.getByTestId('awaited')
  await expect(awaited).toContainText('day 1.ale: 0 of 1 have come')
  await awaited.getByRole('button', { name: 'Details' }).click()
  await expect(awaited).toContainText('heron · line 12')
  await awaited.getByRole('button', { name: 'Wait no more' }).click()
  await expect(awaited).toHaveCount(0)
  await walk.stop('Clips')
  await filter('A001C001_1104')
  await expect(cell('A001C001_1104.mov', 'scene')).toHaveText('12A')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(cell('A001C001_1104.mov', 'scene')).toHaveText('')
  await page.getByRole('button', { name: 'Redo' }).click()
  await expect(cell('A001C001_1104.mov', 'scene')).toHaveText('12A')
  await row('A001C001_1104.mov').getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Write a log of 1' }).click()
  const download = page.waitForEvent('download')
  await dialog()
    .getByRole('button', { name: /^Write ALE/ })
    .click()
  const written = readFileSync(await (await download).path(), 'utf8')
  expect(written).toContain('FPS\t25')
  expect(written).toMatch(/A001C001_1104\tA001/)
  expect(written).toContain('12A')
})

test('what needs a proxy is measured, with the cost of each choice', async () => {
  await page.getByRole('button', { name: 'Which of 1 need a proxy?' }).click()
  // The button stands below what is drawn: it is pressed when all of that is there.
  await expect(dialog().getByText('Minutes on this machine')).toBeVisible()
  await dialog().getByRole('button', { name: 'Measure 1 clip here' }).click()
  await expect(dialog().getByText(/cut as they are on this machine|would cut better/)).toBeVisible()
  await dialog().getByText('Would a lower view quality do?').click()
  const ofUhd = dialog().getByRole('row').filter({ hasText: '3840 × 2160' })
  await expect(ofUhd.last()).toContainText('960 × 540 at 200 %')
  await page.keyboard.press('Escape')
  await row('A001C001_1104.mov').getByRole('checkbox').uncheck()
})

test('the palette finds a clip by its scene, day and box', async () => {
  await page.keyboard.press('Control+k')
  await page.getByPlaceholder('A clip, reel, volume, cut, or something to do').fill('13 MIX-01')
  await expect(page.getByRole('option').filter({ hasText: 'LW_13_T1' })).toContainText('scene 13, take 1')
  await page.keyboard.press('Escape')
})

test('50,000 clips: any place is reached, and scrolling is smooth', async () => {
  const run = promisify(execFile)
  const { stdout } = await run(
    process.execPath,
    ['--import', 'tsx', 'server/src/testing/many-clips.ts', '50000', 'Long Reach'],
    {
      cwd: resolve(import.meta.dirname, '../..'),
      env: { ...process.env, ENNICK_DATA: data },
    },
  )
  await page.goto(`/p/${stdout.trim()}/clips`)
  await expect(heading()).toHaveText('50,000 clips', { timeout: 500_000 })
  const scroller = page.getByTestId('table-scroller')
  await page.evaluate(() => {
    const kept = window as unknown as { longTasks: number[] }
    kept.longTasks = []
    new PerformanceObserver((list) => kept.longTasks.push(...list.getEntries().map((entry) => entry.duration))).observe(
      {
        entryTypes: ['longtask'],
      },
    )
  })
  for (let step = 1; step <= 20; step++) {
    await scroller.evaluate((element, top) => {
      element.scrollTop = top
    }, step * 3000)
    await page.waitForTimeout(60)
  }
  const longest = Math.max(0, ...(await page.evaluate(() => (window as unknown as { longTasks: number[] }).longTasks)))
  console.log(
    `    longest task while 50,000 rows were scrolled: ${Math.round(longest)} ms (none over 100 ms is wanted)`,
  )
  await scroller.evaluate((element) => {
    element.scrollTop = element.scrollHeight / 2
  })
  await expect(row('C025001.mov')).toBeVisible()
  await page.keyboard.press('End')
  await expect(row('C050000.mov')).toBeVisible()
  await page.getByLabel('Filter clips').fill('day 12 b0')
  await expect(heading()).toHaveText(/of 50,000 clips/)
  // A cell that is being edited stays while one scrolls far from it, and nothing of what lies between is read for it.
  await filter('')
  await expect(heading()).toHaveText('50,000 clips')
  await scroller.evaluate((element) => {
    element.scrollTop = 0
  })
  await cell('C000003.mov', 'take').click()
  const take = page.getByLabel('Take', { exact: true })
  await take.fill('7')
  let pages = 0
  page.on('request', (request) => {
    if (request.url().endsWith('/clips/search')) pages++
  })
  await scroller.evaluate((element) => {
    element.scrollTop = element.scrollHeight / 2
  })
  await expect(row('C025001.mov')).toBeInViewport()
  await expect(take).toBeFocused()
  expect(pages).toBeLessThan(10)
  await page.keyboard.press('Tab')
  await scroller.evaluate((element) => {
    element.scrollTop = 0
  })
  await expect(cell('C000003.mov', 'take')).toHaveText('7')
})
