import { readdirSync, readFileSync } from 'node:fs'
import { expect, type Page, test } from '@playwright/test'
import { openWalk } from './walk.ts'

const walk = openWalk()
const { heading, dialog } = walk
let page: Page
test.beforeAll(async () => {
  page = walk.page
  await expect(page.getByRole('button', { name: 'Production: Low Water' })).toBeVisible()
})

const radio = (name: string) => page.getByRole('radio', { name, exact: true })

async function choose(name: string): Promise<void> {
  await radio(name).click()
  await expect(radio(name)).toBeChecked()
  // The browser ticks it before the page shows it: until then what is done is done to the one before.
  await expect(page.getByRole('heading', { name, exact: true })).toBeVisible()
}

test('a recipe is copied, contradicted, set right, looked at on a real frame, and kept', async () => {
  await page.keyboard.press('g')
  await page.keyboard.press('m')
  await choose('Review, H.264 with burn-in')
  await page.getByRole('button', { name: 'Copy and change…' }).click()
  await expect(heading()).toHaveText('A recipe after “Review, H.264 with burn-in”')
  await page.getByLabel('Name', { exact: true }).fill('Small review')
  await expect(page.getByAltText('After', { exact: true })).toBeVisible()
  await expect(page.getByRole('row', { name: /^Raster/ })).toContainText('1280 × 720')

  await page.getByLabel('Container').selectOption('mov')
  await expect(page.getByRole('status').filter({ hasText: 'Browsers play MP4 and WebM' })).toBeVisible()
  await expect(page.getByRole('button', { name: 'Keep the recipe' })).toBeDisabled()
  await page.getByLabel('Container').selectOption('mp4')
  await page.getByLabel('Width').fill('640')
  await expect(page.getByLabel('Height', { exact: true })).toHaveValue('360')
  await page.getByLabel('Quality').selectOption('rate')
  await page.getByLabel('Data rate, kbit/s').fill('1500')
  await page.getByLabel('Words:').fill('{name}: 100 % [rough]')
  await expect(page.getByRole('row', { name: /^Raster/ })).toContainText('640 × 360')
  await page.getByLabel('Before and after').fill('20')
  await page.getByRole('button', { name: 'Keep the recipe' }).click()
  await expect(radio('Small review')).toBeChecked()
  await expect(page.getByText(/640 × 360 · 1\.5 Mbit\/s/)).toBeVisible()
})

test('it is made with; its next version makes what was made stale', async () => {
  await page.goto(`${new URL(page.url()).pathname.replace('/make', '/clips')}?q=B001C001`)
  await page.getByRole('row').filter({ hasText: 'B001C001' }).getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Plan proxies of 1' }).click()
  await choose('Small review')
  await expect(page.getByText('B001C001_review.mp4')).toBeVisible()
  await page.getByRole('button', { name: 'Make 1 copy' }).click()
  await expect(page.getByTestId('job').filter({ hasText: 'Small review' })).toContainText(
    'facts agree with the original',
    {
      timeout: 60_000,
    },
  )
  await page.getByRole('tab', { name: 'Plan' }).click()
  await choose('Small review')
  await page.getByRole('button', { name: 'Change…', exact: true }).click()
  await page.getByLabel('Width').fill('320')
  await page.getByLabel('Height', { exact: true }).fill('180')
  await page.getByRole('button', { name: 'Keep version 2' }).click()
  await expect(page.getByText('Version 2', { exact: true })).toBeVisible()
  await page.keyboard.press('g')
  await page.keyboard.press('p')
  await page.getByLabel('Filter').first().fill('Small review')
  await expect(page.getByRole('row').filter({ hasText: 'Small review, version 1' })).toContainText('stale')
})

test('a recipe leaves as a file and comes in again; a file that is none is refused', async () => {
  await page.keyboard.press('Escape')
  await page.keyboard.press('g')
  await page.keyboard.press('m')
  await page.getByRole('tab', { name: 'Plan' }).click()
  await choose('Small review')
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Export' }).click()
  const text = readFileSync(await (await download).path(), 'utf8')
  const file = page.getByLabel('Recipe file')
  const json = (buffer: string) => ({ name: 'given.json', mimeType: 'application/json', buffer: Buffer.from(buffer) })
  await file.setInputFiles(json(text.replace('"mp4"', '"reel to reel"')))
  await expect(page.getByRole('alert')).toContainText('given.json is no recipe that can be read: recipe.container')
  await file.setInputFiles(json(text))
  await expect(page.getByRole('alert')).toContainText('There is a recipe “Small review” already')
  await file.setInputFiles(json(text.replace('"Small review"', '"Tiny review"')))
  await expect(radio('Tiny review')).toBeChecked()
  await page.getByRole('button', { name: 'Retire' }).click()
  await expect(radio('Tiny review')).toHaveCount(0)
})

test('a rule gives a recipe to what a saved search finds as it comes in', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) as RegExpExecArray
  await page.request.post(`/api/productions/${productionId}/searches`, {
    data: { name: 'camera B', condition: { all: [{ field: 'name', operator: 'begins', value: 'B' }] } },
  })
  await choose('Small review')
  const give = page.getByLabel('Give it to clips as they come in')
  await give.selectOption('camera B')
  await expect(page.getByText(/^As they come in, clips of “camera B” get it\.$/)).toBeVisible()
  await page.getByRole('button', { name: 'End this rule' }).click()
  await expect(page.getByText(/^As they come in, clips/)).toHaveCount(0)
})

test('a name pattern, folders and a layout of the sound show what they give', async () => {
  await choose('Half size, H.264 intra')
  await page.getByRole('button', { name: 'Copy and change…' }).click()
  await page.getByLabel('Name of what is made').fill('{reel}_{counter:3}')
  await page.getByLabel('Folders').selectOption('numbered folders, n files each')
  await page.getByLabel('Below the folder').fill('Cutting room/MXF')
  await page.getByLabel('Layout').selectOption('two channels a track')
  const fact = (name: string) => page.getByRole('row').filter({ has: page.getByRole('cell', { name, exact: true }) })
  await expect(fact('Folder')).toContainText('Cutting room/MXF/1')
  await expect(fact('Files')).toContainText(/_\d{3}_proxy\.mov/)
  await expect(fact('Sound')).toContainText('stereo, PCM')
  await expect(page.getByText(/a program that links by name will not find them/)).toBeVisible()
  await page.getByLabel('Name of what is made').fill('{colour}')
  await expect(page.getByText(/There is no field “colour”/).first()).toBeVisible()
  await page.getByRole('button', { name: 'Cancel' }).click()
})

test('a LUT is tried on a frame, added, and given to a camera; what is no LUT is refused', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) as RegExpExecArray
  await page.goto(`/p/${productionId}/clips?q=A001C001`)
  await expect(heading()).toHaveText(/^\d+ of/)
  const mark = page.getByRole('row').filter({ hasText: 'A001C001_1104.mov' }).getByRole('checkbox')
  await mark.click()
  await expect(mark).toBeChecked()
  await page.getByRole('button', { name: /^Plan proxies of 1$/ }).click()
  await choose('Production raster, ProRes Proxy')
  await page.getByRole('button', { name: 'Viewing LUTs…' }).click()
  const give = (name: string, text: string) =>
    dialog()
      .getByLabel('LUT file')
      .setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) })
  await give('broken.cube', 'LUT_3D_SIZE 2\n0 0 0\n')
  await expect(dialog().getByText('It ends early: 8 rows are needed and 1 are there.')).toBeVisible()
  await give('night.cube', 'TITLE "Night on the mill"\nLUT_1D_SIZE 2\n0 0 0.1\n0.5 0.6 0.9\n')
  await expect(dialog().getByTestId('wipe')).toBeVisible()
  await expect(dialog().getByLabel('Its name')).toHaveValue('Night on the mill')
  await dialog().getByLabel('Its group').fill('Nights')
  await dialog().getByRole('button', { name: 'Add to the library' }).click()
  await expect(dialog().getByRole('row').filter({ hasText: 'Nights' })).toContainText('1D, 2 points')
  await dialog().getByLabel('LUT of camera A').selectOption('Night on the mill')
  await expect(dialog().getByLabel('LUT of camera A')).toHaveValue(/^night-on-the-mill-/)
  await dialog().getByRole('button', { name: 'Done' }).click()
  const planned = page.getByRole('row').filter({ hasText: 'A001C001_1104' })
  await expect(planned).toContainText('Night on the mill')
  await page.getByRole('button', { name: 'Viewing LUTs…' }).click()
  await dialog().getByLabel('LUT of the chosen clips').selectOption('none')
  await expect(dialog().getByText('With one of their own: A001C001_1104 (none).')).toBeVisible()
  await dialog().getByRole('button', { name: 'Done' }).click()
  await expect(planned).toContainText('no LUT')
  await page.getByRole('button', { name: 'Choose none' }).click()
})

test('several recipes are made from one reading of a clip', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) as RegExpExecArray
  await page.goto(`/p/${productionId}/clips?q=B004C002`)
  await expect(heading()).toHaveText(/^\d+ of/)
  const mark = page.getByRole('row').filter({ hasText: 'B004C002.mov' }).getByRole('checkbox')
  await mark.click()
  await expect(mark).toBeChecked()
  await page.getByRole('button', { name: /^Plan proxies of 1$/ }).click()
  await choose('Production raster, ProRes Proxy')
  const another = page.getByLabel('Also make')
  await another.selectOption('HD, VC-3 at a fixed rate, OP-Atom')
  await another.selectOption('Review, H.264 with burn-in')
  await expect(page.getByText(/^and “Review, H\.264 with burn-in”: 1 clip, /)).toBeVisible()
  await page.getByRole('button', { name: 'Make 3 copies' }).click()
  const job = page.getByTestId('job').filter({ hasText: 'B004C002 → Production raster, ProRes Proxy + HD, VC-3' })
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 120_000 })
  await page.goto(`/p/${productionId}/pairs`)
  await page.getByLabel('Filter the ledger').fill('B004C002')
  for (const made of ['B004C002_V1.mxf', 'B004C002_review.mp4'])
    await expect(page.getByRole('row').filter({ hasText: made })).toContainText('proven')
})

/** Ends the worker processes of the Ennick under test without a word. */
function killWorkers(): void {
  const read = (path: string): string => {
    try {
      return readFileSync(path, 'utf8')
    } catch {
      return ''
    }
  }
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name)))
    if (
      read(`/proc/${pid}/cmdline`).includes('main-worker.js') &&
      read(`/proc/${pid}/environ`).includes(`ENNICK_DATA=${process.env.ENNICK_TEST_DATA}\0`)
    )
      process.kill(Number(pid), 'SIGKILL')
}

test('what waits is held, put in another order, let go on and stopped', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) as RegExpExecArray
  await page.goto(`/p/${productionId}/clips?q=B00`)
  await expect(heading()).toHaveText(/^\d+ of/)
  await page.getByRole('checkbox', { name: 'Mark all rows' }).click()
  await page.getByRole('button', { name: /^Plan proxies of/ }).click()
  await choose('Production raster, ProRes Proxy')
  await page.getByLabel('Hold the rest when one of them fails').check()
  await page.getByRole('button', { name: /^Make \d+ proxies$/ }).click()
  await page.getByRole('button', { name: /^Pause all \d+$/ }).click()
  const waiting = page.locator('[data-testid="job"][data-state="waiting"]')
  await expect(page.getByRole('button', { name: /^Resume \d+$/ })).toBeVisible()
  await expect(page.getByRole('button', { name: /^Pause all/ })).toHaveCount(0)
  const running = page.locator('[data-testid="job"][data-state="running"]')
  await expect(running.filter({ hasNotText: 'paused' })).toHaveCount(0)
  const names = async () =>
    (await waiting.allTextContents()).map((text) => /(?:held|waiting)?(\S+) →/.exec(text)?.[1] ?? '')
  const before = await names()
  expect(before.length).toBeGreaterThan(2)
  const last = before.at(-1) as string
  await page.getByRole('button', { name: new RegExp(`^First: ${last} `) }).click()
  await expect.poll(names).toEqual([last, ...before.slice(0, -1)])
  await waiting.filter({ hasText: `${before[0]} →` }).dragTo(waiting.filter({ hasText: `${last} →` }))
  await expect.poll(names).toEqual([before[0], last, ...before.slice(1, -1)])
  // What is paused has given its turn to this one.
  await waiting.first().getByRole('button', { name: 'Resume' }).click()
  await expect(
    page
      .locator('[data-testid="job"][data-state="done"]')
      .filter({ hasText: `${before[0]} →` })
      .filter({ hasText: 'ProRes Proxy' }),
  ).toBeVisible({
    timeout: 120_000,
  })
  // A worker that is killed: what stood still with it waits on, and is made by the next one.
  // Two clips of the demo have one name: the job is told by its id.
  const still = await running
    .filter({ hasText: /paused\S+ →/ })
    .first()
    .getAttribute('data-job')
  killWorkers()
  const job = page.locator(`[data-job="${still}"]`)
  await expect(job).toHaveAttribute('data-state', 'waiting')
  await job.getByRole('button', { name: 'Resume' }).click()
  await expect(job).toHaveAttribute('data-state', 'done', { timeout: 120_000 })
  await job.getByRole('button', { name: 'Details' }).click()
  await expect(job.getByText('Attempts')).toBeVisible()
  await expect(job.getByText('× real time')).toBeVisible()
  await page.getByRole('button', { name: /^Stop all \d+$/ }).click()
  await expect(waiting).toHaveCount(0)
  await page.getByLabel('Filter jobs').fill('ProRes Proxy')
  await expect(page.locator('[data-testid="job"][data-state="cancelled"]').first()).toBeVisible()
  await page.getByLabel('Filter jobs').fill('')
})

test('what a batch has made is joined into one file, which goes again without its parts', async () => {
  const [, productionId] = /\/p\/([^/]+)/.exec(page.url()) as RegExpExecArray
  await page.goto(`/p/${productionId}/clips?q=B001C00`)
  for (const name of ['B001C001.mov', 'B001C003.mov']) {
    const mark = page.getByRole('row').filter({ hasText: name }).getByRole('checkbox')
    await mark.click()
    await expect(mark).toBeChecked()
  }
  await page.getByRole('button', { name: /^Plan proxies of 2$/ }).click()
  await choose('Small review')
  await page.getByRole('button', { name: 'Make 2 copies' }).click()
  const batch = page.getByTestId('batch').first()
  await expect(batch).toContainText('Small review: 2 of 2 made', { timeout: 120_000 })
  await batch.getByRole('button', { name: 'Details' }).click()
  await batch.getByRole('button', { name: 'Join into one file…' }).click()
  const asked = page.getByRole('dialog')
  await expect(asked).toContainText('2 items in the order of shooting')
  await asked.getByLabel('Name, without ending').fill('Wheel house, day 1')
  await asked.getByRole('button', { name: 'Join 2 items' }).click()
  await expect(batch).toContainText('joined/Wheel house, day 1.mp4', { timeout: 120_000 })
  const table = await page.request.get(
    (await batch.getByRole('link', { name: 'What is where (CSV)' }).getAttribute('href')) as string,
  )
  expect((await table.text()).split('\r\n')).toHaveLength(4)
  const list = (await batch.getByRole('link', { name: 'As a list (EDL)' }).getAttribute('href')) as string
  await batch.getByRole('button', { name: 'Remove joined/Wheel house, day 1.mp4' }).click()
  await expect(batch).not.toContainText('Wheel house, day 1')
  return takeApart(productionId as string, await (await page.request.get(list)).text())
})

/** A cut that was made with a joined file, of which there is nothing left but what is known of it. */
async function takeApart(productionId: string, edl: string): Promise<void> {
  // Of each part half a second, as the joined file counts: its record in the list of its parts.
  const starts = [...edl.matchAll(/^\d+ .* (\d\d:\d\d:\d\d:\d\d) \d\d:\d\d:\d\d:\d\d$/gm)].map(
    ([, label]) => label as string,
  )
  const later = (label: string): string =>
    label.replace(/\d\d$/, (frames) => String(Number(frames) + 12).padStart(2, '0'))
  const uses = starts.flatMap((label, index) => [
    `00${index + 1}  DAY V C ${label} ${later(label)} 01:00:0${index}:00 01:00:0${index}:12`,
    '* FROM CLIP NAME: Wheel house, day 1',
  ])
  await page.request.post(`/api/productions/${productionId}/cuts`, {
    data: { fileName: 'on joined.edl', text: ['TITLE: On joined', ...uses, ''].join('\n') },
  })
  await page.goto(`/p/${productionId}/mend`)
  await page.getByRole('combobox', { name: /cut/i }).selectOption({ label: 'On joined' })
  const finding = page.getByTestId('finding').filter({ hasText: 'is a joined file of 2 items' })
  await finding.getByRole('button', { name: 'Take apart…' }).click()
  const asked = page.getByRole('dialog')
  await expect(asked).toContainText('event 001 on V1 shows 12 frames of B001C001')
  await expect(asked).toContainText('event 002 on V1 shows 12 frames of B001C003')
  await asked.getByRole('button', { name: 'Take 2 uses apart as the next version' }).click()
  await expect(page.getByRole('dialog')).toHaveCount(0)
  await expect(page.getByTestId('finding').filter({ hasText: 'joined file' })).toHaveCount(0)
  await page.getByRole('tab', { name: /^Mends/ }).click()
  await expect(page.getByText('Take 2 uses of joined files in “On joined” apart, as version 2')).toBeVisible()
}
