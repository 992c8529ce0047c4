import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { expect, type Locator, type Page, test } from '@playwright/test'
import { openWalk } from './walk.ts'

const data = process.env.ENNICK_TEST_DATA as string
const demo = join(data, 'demo')

const walk = openWalk()
const { heading, row, dialog, stop } = walk
let page: Page
test.beforeAll(() => {
  page = walk.page
})

const finding = (kind: string): Locator => page.locator(`[data-testid="finding"][data-kind="${kind}"]`)

/** Walks the folder picker from the roots to a folder, a click at a time. */
async function pickFolder(...names: string[]): Promise<void> {
  const picker = page.getByTestId('folder-picker')
  for (const name of names) await picker.getByRole('button', { name, exact: true }).click()
}

async function chooseCut(name: string): Promise<void> {
  await page.getByLabel('Cut', { exact: true }).selectOption({ label: name })
}

test('Today answers: what is away, what is wrong, what next', async () => {
  await expect(heading()).toContainText('1 volume away')
  await expect(page.getByText('Needed by Low Water, mill scene, version 2')).toBeVisible()
  await expect(page.getByRole('link', { name: '3 files cannot be read' })).toBeVisible()
})

test('a card is put in: here without a restart, and scanned', async () => {
  await stop('Intake')
  await page.getByRole('button', { name: 'Put in A002' }).click()
  const volume = page.getByTestId('volume-A002')
  await expect(volume.getByText('here', { exact: true })).toBeVisible()
  await volume.getByRole('button', { name: 'Scan again' }).click()
  await expect(volume.getByRole('button', { name: 'Scan again' })).toBeEnabled()
  await expect(heading()).toHaveText('Every volume is here')
  await page.getByTestId('volume-TIDE-1').getByRole('button', { name: '3 files cannot be read' }).click()
  for (const reason of ['a text file', 'zero bytes', 'cut off'])
    await expect(dialog().getByText(reason).first()).toBeVisible()
  await page.keyboard.press('Escape')
})

test('a reel is taken from the file name, after a preview', async () => {
  await stop('Clips')
  await page.getByLabel('Show only').selectOption('no reel')
  await expect(heading()).toHaveText('2 of 25 clips')
  await row('B001C004.mov').getByRole('checkbox').check()
  await page.getByRole('button', { name: 'Set reel of 1' }).click()
  await expect(dialog().getByRole('cell', { name: 'B001', exact: true })).toBeVisible()
  await dialog().getByRole('button', { name: 'Set 1 reel', exact: true }).click()
  await expect(heading()).toHaveText('1 of 25 clips')
  await page.getByLabel('Show only').selectOption('')
  await expect(row('B001C004.mov')).toContainText('B001')
})

test('a clip tells everything that its file says', async () => {
  await page.getByLabel('Filter clips').fill('DR01')
  await expect(heading()).toHaveText('1 of 25 clips')
  await row('DR01_0007.mov').locator('[data-field=name]').click()
  for (const fact of ['12:59:58;00', 'drop-frame', '29.97', '1920 × 1080', 'none: silent'])
    await expect(dialog().getByText(fact, { exact: true }).first()).toBeVisible()
  await expect(dialog().getByRole('slider', { name: 'Filmstrip' })).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByLabel('Filter clips').fill('')
})

test('proxies are planned, made, and proven against their originals', async () => {
  await page.reload()
  for (const name of ['A001C001_1104.mov', 'DR01_0007.mov', 'R07_wheel_1961.mov']) {
    await page.getByLabel('Filter clips').fill(name.slice(0, 8))
    await row(name).getByRole('checkbox').check()
  }
  // The clip whose reel was set stays marked from before: marks last until they are used.
  await page.getByLabel('Filter clips').fill('B001C004')
  await row('B001C004.mov').getByRole('checkbox').uncheck()
  await page.getByRole('button', { name: 'Plan proxies of 3' }).click()
  await expect(row('A001C001_1104')).toContainText('Estuary log to display')
  await expect(row('DR01_0007')).toContainText('no LUT')
  // To somewhere else it goes over a line that only who has it knows.
  await expect(page.getByTestId('send-time')).toHaveText('Mbit/s up: say what your line carries')
  await page.getByLabel('What the line carries, in Mbit/s').fill('0.5')
  await expect(page.getByTestId('send-time')).toHaveText(/^Mbit\/s, it takes (\d+ s|\d+ min|a few seconds)$/)
  await page.getByRole('button', { name: 'Make 3 proxies' }).click()
  // Until it is proven there is none, and the clip says that one is on its way.
  await stop('Clips')
  await page.getByLabel('Filter clips').fill('A001C001')
  await expect(row('A001C001_1104.mov')).toContainText(/being made|waits to be made|proven/)
  await stop('Make')
  await page.getByRole('tab', { name: 'Queue' }).click()
  await expect(page.locator('[data-testid="job"][data-state="done"]').filter({ hasText: 'Half size' })).toHaveCount(3, {
    timeout: 400_000,
  })
  const batch = page.getByTestId('batch').first()
  await expect(batch).toContainText('Half size, H.264 intra: 3 of 3 made')
  await batch.getByRole('button', { name: 'Details' }).click()
  await expect(batch).toContainText('Nothing failed, and nothing was skipped.')
  // The receiving room lists what it has: one of the three is not there, and one starts elsewhere.
  const room = ['Name,Start', 'A001C001_1104_proxy,', 'DR01_0007_proxy,12:00:00;00'].join('\n')
  await batch
    .getByLabel('List of what the receiving room has')
    .setInputFiles({ name: 'room.csv', mimeType: 'text/csv', buffer: Buffer.from(room) })
  await expect(batch).toContainText('1 of 3 taken in, 1 differs, 1 not named')
  await expect(batch).toContainText('DR01_0007_proxy: starts at 12:00:00;00 instead of 12:59:58;00')
  await batch.getByRole('button', { name: 'Forget room.csv' }).click()
  await expect(batch).not.toContainText('taken in,')
  // Three of three rates and shapes are no one file, and it is said in what they differ.
  await batch.getByRole('button', { name: 'Join into one file…' }).click()
  await expect(dialog()).toContainText('These cannot be one file without being encoded again.')
  await expect(dialog()).toContainText(/DR01_0007_proxy\.mov is .* in (raster|rate)/)
  await expect(dialog().getByRole('button', { name: 'Join 3 items' })).toBeDisabled()
  await page.keyboard.press('Escape')
  await stop('Pairs')
  await page.getByLabel('Filter the ledger').fill('DR01_0007_proxy')
  await expect(row('DR01_0007_proxy.mov')).toContainText('proven')
  await row('DR01_0007_proxy.mov').click()
  await expect(dialog().getByText('12:59:58;00').first()).toBeVisible()
  await expect(dialog().getByText(/facts agree with the original, and so do its pictures\.$/)).toBeVisible()
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Decode every frame of 1' }).click()
  await expect(row('DR01_0007_proxy.mov')).toContainText('and every frame decodes')
  await expect(page.getByRole('button', { name: 'Decode all 1 again' })).toBeEnabled()
})

test('a list with a fault is refused with its line, and the cutting room’s list is read', async () => {
  await stop('Cuts')
  await page.getByRole('button', { name: 'Read a cut' }).click()
  await page.getByLabel('List file').setInputFiles({
    name: 'broken.edl',
    mimeType: 'text/plain',
    buffer: Buffer.from('TITLE: X\n\n001  A V C 01:00:00:00 01:00:01:30 10:00:00:00 10:00:01:00\n'),
  })
  await expect(dialog().getByRole('alert')).toContainText('line 3: "01:00:01:30" has frame 30')
  await dialog().getByRole('button', { name: 'Read EDL' }).click()
  await expect(page.getByLabel('Cut', { exact: true })).toHaveValue(/.+/)
  await expect(heading()).toContainText('1 unresolved')
  await expect(page.getByText('CMX 3600 EDL, 8 events on 2 tracks')).toBeVisible()
  await expect(row('C001C009.mov')).toContainText('unresolved')
  await page.getByRole('button', { name: 'Add to the map' }).first().click()
  await page.getByRole('tab', { name: 'Paths' }).click()
  await expect(page.getByRole('button', { name: 'Remove' }).first()).toBeVisible()
  await page.getByRole('tab', { name: 'Events' }).click()
})

test('every finding has its evidence, and an ambiguous one is settled by a person', async () => {
  await stop('Mend')
  await chooseCut('Low Water, mill scene, version 2')
  await expect(heading()).toContainText('block the handoff')
  for (const kind of ['ambiguous', 'moved', 'file gone', 'proxy plays, original lost', 'too short', 'length mismatch'])
    await expect(finding(kind)).toHaveCount(1)
  await expect(finding('volume away')).toHaveCount(0)
  await finding('too short').getByRole('button', { name: 'Evidence' }).click()
  await expect(finding('too short')).toContainText('0.4 frame')
  await finding('too short').getByLabel('Reason to leave open: too short').fill('told to the mixer')
  await finding('too short').getByRole('button', { name: 'Leave it open' }).click()
  await expect(finding('too short')).toContainText('Left open by decision: told to the mixer')
  await finding('too short').getByRole('button', { name: 'Withdraw' }).click()
  await expect(finding('too short')).not.toContainText('Left open by decision')
  await page
    .getByTestId('step')
    .filter({ hasText: 'Offload “A001”' })
    .getByRole('link', { name: 'Offload A001…' })
    .click()
  await expect(dialog().getByText('Offload A001 to storage')).toBeVisible()
  await page.keyboard.press('Escape')
  await stop('Mend')
  // A sound file that ends 0.4 frame early: another is looked for and refused, and the use can give a frame up instead.
  await finding('too short').getByRole('button', { name: 'Find its file…' }).click()
  await searchBelow(demo)
  await expect(dialog().getByTestId('repoint-row')).toHaveAttribute('data-outcome', 'refused', { timeout: 200_000 })
  await page.keyboard.press('Escape')
  const step = page.getByTestId('step').filter({ hasText: 'Trim 1 use by what is not there' })
  await step.getByRole('button', { name: 'Trim 1 use…' }).click()
  await expect(dialog().getByText('gives up 1 frame at the tail')).toBeVisible()
  await dialog().getByRole('button', { name: 'Trim 1 use as the next version' }).click()
  await expect(finding('too short')).toHaveCount(0)
  await expect(page.getByLabel('Cut', { exact: true }).locator('option:checked')).toContainText('(2 of 2)')
  await tab('Mends')
  await page.getByTestId('mend').filter({ hasText: 'Trim 1 use' }).getByRole('button', { name: 'Take back' }).click()
  await expect(page.getByTestId('mend').filter({ hasText: 'Trim 1 use' })).toHaveAttribute('data-state', 'undone')
  await chooseCut('Low Water, mill scene, version 2')
  await expect(finding('too short')).toHaveCount(1)
  await page
    .getByRole('button', { name: /^Show findings of step/ })
    .first()
    .click()
  await expect(page.getByText(/^\d+ of \d+ findings$/)).toBeVisible()
  await page
    .getByRole('button', { name: /^Show findings of step/ })
    .first()
    .click()
  await finding('ambiguous').getByRole('button', { name: 'Choose…' }).click()
  await finding('ambiguous').getByRole('button', { name: 'Use this one' }).first().click()
  await expect(finding('ambiguous')).toHaveCount(0)
})

/** Chooses a folder in the open dialog, and searches it and all below. */
async function searchBelow(...names: string[]): Promise<void> {
  await dialog().getByLabel('A folder and all below it').check()
  await pickFolder(...names)
  await dialog().getByRole('button', { name: 'Search', exact: true }).click()
}

/** What was mended; back to the findings with `findings`. */
const tab = (name: 'Mends' | 'Findings') => page.getByRole('tab', { name: new RegExp(`^${name}`) }).click()

/** Searches the whole demo for what is lost and accepts the plan. */
async function repointAll(): Promise<void> {
  await page.getByRole('button', { name: /^Search for \d+…/ }).click()
  await searchBelow(demo)
  await expect(dialog().getByText(/files compared\. Of/)).toBeVisible({ timeout: 200_000 })
}

test('lost originals are found by their content, previewed, repointed, taken back, and repointed again', async () => {
  const lost = async () =>
    Promise.all(['moved', 'file gone', 'proxy plays, original lost'].map((kind) => finding(kind).count()))
  const before = await lost()
  await repointAll()
  const wanted = (name: string) => dialog().locator('[data-testid="repoint-row"]').filter({ hasText: name })
  await expect(wanted('B001C002.mov').first()).toHaveAttribute('data-outcome', 'fits')
  await expect(wanted('A001C004_1104.mov').first()).toContainText('old project')
  // What is wanted, and what was found at the same timecode, are seen before anything is decided.
  await wanted('B001C002.mov').first().getByRole('button', { name: 'Evidence' }).first().click()
  const pictures = wanted('B001C002.mov').first().getByTestId('candidate-pictures').locator('img')
  await expect
    .poll(() => pictures.evaluateAll((all) => all.map((each) => (each as HTMLImageElement).naturalWidth > 0)))
    .toEqual([true, true, true, true])
  await expect(wanted('B001C002.mov').first().getByTestId('candidate-pictures')).toContainText(
    /wanted, as last seen.*found, the same timecode: .*found, head: .*found, tail: /,
  )
  await dialog().getByRole('button', { name: 'Repoint 2 sources' }).click()
  await expect(finding('moved')).toHaveCount(0)
  await expect(finding('file gone')).toHaveCount(0)
  await expect(finding('proxy plays, original lost')).toHaveCount(0)
  await tab('Mends')
  const mend = page.getByTestId('mend').filter({ hasText: 'Repoint 2 originals' })
  // Looked at anew: each lies where it was found, its uses are on original, its proxy shows the same pictures.
  await mend.getByRole('button', { name: 'What came of it' }).click()
  await expect(mend.getByTestId('mend-proof')).toContainText(/\d+ of \d+ uses? on original/)
  await expect(mend.getByText('lies there now, with the size and time that are known')).toHaveCount(2)
  await mend.getByRole('button', { name: 'Take back' }).click()
  await expect(mend).toHaveAttribute('data-state', 'undone')
  await tab('Findings')
  // Both are lost again, as they were: the shelf that the mend had brought in is not known any more either.
  await expect.poll(lost).toEqual(before)
  await repointAll()
  await dialog().getByRole('button', { name: 'Repoint 2 sources' }).click()
  await expect(finding('moved')).toHaveCount(0)
})

test('a short proxy is made again and becomes a twin', async () => {
  await finding('length mismatch').getByRole('button', { name: 'Make the proxy again' }).click()
  await expect(finding('length mismatch')).toHaveCount(0, { timeout: 200_000 })
  await tab('Mends')
  await expect(page.getByTestId('mend').filter({ hasText: 'Make the proxy of B001C003 again' })).toHaveAttribute(
    'data-state',
    'done',
  )
})

test('what stays open needs a reason, and the mill scene is handed off', async () => {
  // The cut that was mended is the one that is handed off.
  await stop('Handoff')
  await expect(heading()).toHaveText('4 findings in the way')
  // What is on a card alone would be pointed at there: it is offloaded, and the cut follows to the copies.
  for (const [index, card] of ['A001', 'A002', 'MIX-01'].entries()) {
    await page.getByRole('link', { name: `Offload ${card}…` }).click()
    const to = dialog().getByLabel('To', { exact: true })
    await to.selectOption({ label: (await to.locator('option').filter({ hasText: 'TIDE-1' }).textContent()) as string })
    await dialog()
      .getByRole('button', { name: /^Copy and verify \d/ })
      .click()
    await expect(page.getByTestId(`volume-${card}`)).toContainText('Offloaded:')
    await stop('Handoff')
    await expect(heading()).toHaveText(index === 2 ? '1 finding in the way' : `${3 - index} findings in the way`)
  }
  await expect(page.getByRole('button', { name: /^Hand off/ })).toBeDisabled()
  await page.getByLabel('Reason to leave open: too short').fill('The mix covers the last half frame')
  await page.getByRole('button', { name: 'Leave it open' }).click()
  await expect(heading()).toHaveText('Ready to hand off')
  await page.getByRole('button', { name: 'Hand off 11 events on originals' }).click()
  await expect(page.getByTestId('handoff')).toContainText('CMX 3600 EDL was left out: event 004')
})

interface Exported {
  readonly path: string | null
  readonly reel: string | null
  readonly name: string
  readonly start: string
}

const exportedText = async (name: RegExp): Promise<string> => {
  const address = await page.getByTestId('handoff').first().getByRole('link', { name }).getAttribute('href')
  return (await page.request.get(address as string)).text()
}

/** Reads a written OTIO with nothing of Ennick's own. */
function readOtio(text: string): Exported[] {
  interface Clip {
    OTIO_SCHEMA: string
    name: string
    metadata: { cmx_3600: { reel?: string } }
    media_reference: { target_url?: string }
    source_range: { start_time: { value: number } }
  }
  const tracks = JSON.parse(text).tracks.children as { children: Clip[] }[]
  return tracks.flatMap((track) =>
    track.children
      .filter((item) => item.OTIO_SCHEMA.startsWith('Clip'))
      .map((clip) => ({
        path: clip.media_reference.target_url ? fileURLToPath(clip.media_reference.target_url) : null,
        reel: clip.metadata.cmx_3600.reel ?? null,
        name: clip.name,
        start: String(clip.source_range.start_time.value),
      })),
  )
}

function provePathsAreOriginals(events: readonly Exported[]): void {
  for (const event of events) {
    expect(event.path).not.toBeNull()
    expect(existsSync(event.path as string)).toBe(true)
    expect(event.path).not.toMatch(/proxy|\/made\//i)
  }
}

test('the exported OTIO points at originals, at their reels and timecodes', async () => {
  const events = readOtio(await exportedText(/\.otio$/))
  expect(events).toHaveLength(11)
  provePathsAreOriginals(events)
  expect(events.find((event) => event.name === 'A001C004_1104.mov')).toMatchObject({
    path: join(demo, 'shelf/unsorted/A001C004_1104.mov'),
    reel: 'A001',
  })
  expect(events.find((event) => event.name.startsWith('wheel close'))).toMatchObject({
    path: join(demo, 'bay/TIDE-1/day 1/B001/wheel close, take 2.mov'),
    reel: 'B001',
    start: String((9 * 3600 + 22 * 60 + 1) * 25),
  })
  const report = await exportedText(/report\.html$/)
  for (const words of ['The mix covers the last half frame', 'A001C004_1104.mov', 'Repoint', 'on original'])
    expect(report).toContain(words)
})

test('the second cut: an unknown pickup is found on the shelf, and both formats leave on originals', async () => {
  await stop('Mend')
  await chooseCut('Low Water, reel 1, version 5')
  // A clip without the cut's timecode could stand there from its first frame on; it is tried, and taken back.
  await finding('unresolved').getByRole('button', { name: 'Evidence' }).click()
  await finding('unresolved').getByRole('button', { name: 'Replace from the start…' }).click()
  await dialog().getByLabel('Find the clip').fill('A001C004')
  const clips = dialog().getByLabel('The clip in its place')
  await expect(clips.locator('option')).not.toHaveCount(1)
  await clips.selectOption({ index: 1 })
  await expect(dialog().getByText(/event 006 on V1 shows 50 frames of A001C004.* from its first on/)).toBeVisible()
  await dialog().getByRole('button', { name: 'Replace 1 use as the next version' }).click()
  await expect(finding('unresolved')).toHaveCount(0)
  await tab('Mends')
  const replaced = page.getByTestId('mend').filter({ hasText: 'from the start of A001C004' })
  await replaced.getByRole('button', { name: 'Take back' }).click()
  await expect(replaced).toHaveAttribute('data-state', 'undone')
  await chooseCut('Low Water, reel 1, version 5')
  await finding('unresolved').getByRole('button', { name: 'Find its file…' }).click()
  await searchBelow(demo, 'shelf')
  await dialog().getByRole('button', { name: 'Repoint 1 source' }).click({ timeout: 200_000 })
  await expect(finding('unresolved')).toHaveCount(0)
  await finding('rate mismatch').getByRole('button', { name: 'Make the proxy again' }).click()
  await expect(finding('rate mismatch')).toHaveCount(0, { timeout: 200_000 })
  await stop('Handoff')
  await page.getByLabel('Reason to leave open: too short').fill('Held for two frames in the finish')
  await page.getByRole('button', { name: 'Leave it open' }).click()
  await page.getByRole('button', { name: 'Hand off 8 events on originals' }).click()
  await expect(page.getByTestId('handoff')).toHaveCount(1)
  provePathsAreOriginals(readOtio(await exportedText(/\.otio$/)))
  const list = await exportedText(/\.edl$/)
  const paths = [...list.matchAll(/^\* SOURCE FILE: (.*?)\r?$/gm)].map((match) => match[1] as string)
  expect(paths).toHaveLength(8)
  provePathsAreOriginals(paths.map((path) => ({ path, reel: null, name: '', start: '' })))
  expect(list).toMatch(/^006 {2}C001 {4} V {5}C {8}14:20:01:00 14:20:03:00/m)
  expect(list).not.toMatch(/proxy/i)
})

test('a folder that claims to hold everything is compared with what the cut needs', async () => {
  await stop('Mend')
  await expect(page.getByLabel('Cut', { exact: true })).toHaveValue(/.+/)
  // In one breath: what is clicked while another cut is on its way is meant for that.
  await page.evaluate((name) => {
    const select = document.querySelector<HTMLSelectElement>('select[aria-label="Cut"]')
    const tabs = [...document.querySelectorAll<HTMLElement>('[role="tab"]')]
    if (!select) throw new Error('There is no choice of cuts.')
    select.value = [...select.options].find((option) => option.text === name)?.value ?? ''
    select.dispatchEvent(new Event('change', { bubbles: true }))
    tabs.find((each) => each.textContent === 'Check a folder')?.click()
  }, 'Low Water, mill scene, version 2')
  await pickFolder(demo, 'bay')
  await page.getByRole('button', { name: 'Check it for this cut' }).click()
  await expect(page.getByText(/^\d+ of \d+ files are there; \d+ missing, \d+ another of that name\.$/)).toBeVisible()
  await expect(page.getByTestId('collected').filter({ hasText: 'not there' }).first()).toBeVisible()
  await expect(page.getByTestId('collected').filter({ hasText: 'its content is there' }).first()).toBeVisible()
  await page.reload()
  await expect(page.getByTestId('collected').filter({ hasText: 'not there' }).first()).toBeVisible()
})
