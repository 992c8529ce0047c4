import { execFile } from 'node:child_process'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { expect, type Page, test } from '@playwright/test'
import { project } from './bench/measure.ts'
import { makeClip } from './torment/stage.ts'
import { openWalk } from './walk.ts'

const folder = join(process.env.ENNICK_TEST_DATA as string, 'demo', 'cuts')
const walk = openWalk()
const { heading, row, dialog, post } = walk
let page: Page
let productionId: string
const tab = (name: string) => page.getByRole('tab', { name }).click()

test.beforeAll(async () => {
  // Timecode from 11:01:00:00 for the first, 12:02:00:00 for the second, a hundred frames each.
  for (const seed of [1, 2]) await makeClip(join(folder, 'originals', `T00${seed}.mov`), seed, 100)
  page = walk.page
  productionId = (
    await post('/productions', { name: 'Cuts', rate: { numerator: 25, denominator: 1 }, width: 640, height: 360 })
  ).id
  const volume = await post(`/productions/${productionId}/volumes`, {
    ...{ label: 'DRIVE', kind: 'drive', rootPath: join(folder, 'originals') },
  })
  await post(`/volumes/${volume.id}/scan`, {})
  await page.goto(`/p/${productionId}/intake`)
  await expect(page.getByTestId('volume-DRIVE').getByText(/^2 clips,/)).toBeVisible()
  await page.goto(`/p/${productionId}/cuts`)
})

const rate = '<rate><timebase>25</timebase><ntsc>FALSE</ntsc></rate>'
const media = (
  seed: number,
) => `<file id="f${seed}"><pathurl>file:///X:/lw/T00${seed}.mov</pathurl>${rate}<duration>100</duration>
  <timecode>${rate}<frame>${((10 + seed) * 3600 + seed * 60) * 25}</frame><reel><name>T${seed}</name></reel></timecode>
  <media><video><samplecharacteristics><width>320</width><height>180</height></samplecharacteristics></video></media></file>`
const item = (name: string, [start, end, from, to]: number[], inside: string) =>
  `<clipitem><name>${name}</name>${rate}<start>${start}</start><end>${end}</end><in>${from}</in><out>${to}</out>${inside}</clipitem>`
const effect = (id: string, parameter: string, value: string) =>
  `<filter><effect><effectid>${id}</effectid><parameter><parameterid>${parameter}</parameterid><value>${value}</value></parameter></effect></filter>`
const dissolve = (start: number, end: number, alignment: string) =>
  `<transitionitem><start>${start}</start><end>${end}</end><alignment>${alignment}</alignment></transitionitem>`
const sequence = (video: string, name: string) => `<?xml version="1.0"?><!DOCTYPE xmeml><xmeml version="5">
<sequence id="s"><name>${name}</name>${rate}<timecode>${rate}<string>10:00:00:00</string><frame>900000</frame></timecode>
<marker><name>Tide turns</name><comment>sound follows</comment><in>30</in><out>-1</out></marker>
<media><video><format><samplecharacteristics><width>320</width><height>180</height></samplecharacteristics></format>${video}</video></media>
</sequence></xmeml>`

/** A dissolve, a retime, a held frame, a fade to black, an event that is switched off, a sequence in the sequence. */
const first = sequence(
  `<track>
  ${item('T001.mov', [0, -1, 0, 50], media(1))}
  ${dissolve(40, 50, 'center')}
  ${item('T002.mov', [-1, 80, 0, 40], media(2))}
  ${item('T001.mov', [80, 100, 10, 30], `<file id="f1"/>${effect('timeremap', 'speed', '200')}`)}
  ${item('T002.mov', [100, -1, 50, 75], `<file id="f2"/>${effect('basic', 'scale', '110')}`)}
  ${dissolve(115, 125, 'end-black')}
  </track><track>
  ${item('T001.mov', [0, 20, 60, 80], '<file id="f1"/><enabled>FALSE</enabled>')}
  <clipitem><name>Inner</name>${rate}<start>20</start><end>40</end><in>10</in><out>30</out>
    <sequence id="in"><name>Inner</name>${rate}<media><video><track>${item('T002.mov', [0, 50, 20, 70], '<file id="f2"/>')}</track></video></media></sequence>
  </clipitem></track>`,
  'Mill',
)

const readFileOf = (name: string, text: string) =>
  page.getByLabel('List file').setInputFiles({ name, mimeType: 'text/plain', buffer: Buffer.from(text) })

test('a list with bad lines is refused with all of them, and read without them on request', async () => {
  await page.getByRole('button', { name: 'Read a cut' }).click()
  await readFileOf(
    'bad.edl',
    'TITLE: Bad\n001  T1 V C 11:01:00:00 11:01:01:00 10:00:00:00 10:00:01:00\n* FROM CLIP NAME: T001.mov\nhello\n002  T1 V C 11:01:00:99 11:01:01:00 10:00:01:00 10:00:02:00\n',
  )
  await expect(dialog().getByRole('alert')).toContainText('2 parts of it are wrong')
  await expect(dialog().getByTestId('faults')).toContainText('line 4: "hello" is no line of a CMX 3600 list.')
  await expect(dialog().getByTestId('faults')).toContainText('line 5')
  await dialog().getByRole('button', { name: 'Read it without what is wrong' }).click()
  await expect(page.getByRole('heading', { name: 'Left out of the list: 2 parts' })).toBeVisible()
  await page.getByRole('button', { name: 'Take out' }).click()
  await page.getByRole('button', { name: 'Take the cut out' }).click()
  await expect(heading()).toHaveText('No cut yet')
})

test('an AAF is read, lands on the originals, and is given back as it came', async () => {
  const path = join(folder, 'mill.aaf')
  await promisify(execFile)(process.execPath, ['--import', 'tsx', 'server/src/testing/aaf-list.ts', path], {
    cwd: project,
  })
  await page.getByRole('button', { name: 'Read a cut' }).first().click()
  await page.getByLabel('List file').setInputFiles(path)
  await expect(page.getByText('AAF, 1 event on 1 track at 25, from mill.aaf')).toBeVisible()
  await expect(heading()).toHaveText('The one event is on its original')
  await expect(row('T001.mov')).toContainText('11:01:00:10')
  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'The list as it was read' }).click(),
  ])
  expect((await readFile(await download.path())).equals(await readFile(path))).toBe(true)
  await page.getByRole('button', { name: 'Take out' }).click()
  await page.getByRole('button', { name: 'Take the cut out' }).click()
  await expect(heading()).toHaveText('No cut yet')
})

test('timeline XML with everything in it is read, drawn, filtered and opened', async () => {
  await page.getByRole('button', { name: 'Read a cut' }).first().click()
  await readFileOf('mill v1.xml', first)
  await expect(page.getByText('timeline XML, 6 events on 2 tracks at 25, 320 × 180, from mill v1.xml')).toBeVisible()
  await expect(heading()).toHaveText('All 6 events are on their original')
  await expect(page.getByText('Tide turns')).toBeVisible()
  // What is chosen in the picture is shown in the table, and the playhead goes there.
  await page.locator('[data-event="003"]').click()
  await expect(page.getByTestId('playhead')).toHaveText('10:00:03:05')
  await expect(row('at 200 % speed')).toHaveAttribute('aria-current', 'true')
  await page.getByRole('button', { name: 'Zoom in' }).click()
  await page.getByRole('button', { name: 'Zoom in' }).click()
  await expect(page.locator('[data-event="005"]')).toHaveCount(0)
  await page.getByRole('button', { name: 'Whole cut' }).click()
  await expect(page.locator('[data-event="005"]')).toHaveCount(1)
  await page.getByLabel('Track', { exact: true }).selectOption('V2')
  await expect(page.getByText('2 of 6 events')).toBeVisible()
  await expect(row('switched off')).toHaveCount(1)
  await page.getByLabel('Track', { exact: true }).selectOption('')
  await page.getByLabel('Filter the events').fill('to black')
  await row('to black: dissolve, 10 frames').click()
  await expect(dialog()).toContainText('110 %: 100 % for a medium of 320 × 180, 110 % of the editor’s own')
  await page.keyboard.press('Escape')
  await expect(dialog()).toHaveCount(0)
  await page.getByLabel('Filter the events').fill('')
  await expect(page.getByText('6 events', { exact: true })).toBeVisible()
})

test('the order of tracks is flipped, with the numbering said, and back', async () => {
  await page.getByRole('button', { name: 'Flip tracks' }).click()
  await expect(dialog().getByTestId('flip-numbering')).toHaveText('V1 becomes V2, V2 becomes V1')
  await dialog().getByRole('button', { name: 'Flip V1 to V2' }).click()
  await expect(row('switched off')).toContainText('V1')
  await page.getByRole('button', { name: 'Flip tracks' }).click()
  await dialog().getByRole('button', { name: 'Flip V1 to V2' }).click()
  await expect(row('switched off')).toContainText('V2')
})

test('the next version is compared with it: what became of each event, and what it needs', async () => {
  const second = first
    .replace(item('T001.mov', [0, -1, 0, 50], media(1)), item('T001.mov', [0, -1, 45, 95], media(1)))
    .replace('<name>Mill</name>', '<name>Mill, next</name>')
  await page.getByRole('button', { name: 'Read a cut' }).click()
  await dialog().getByLabel('Next version of').selectOption({ label: 'Mill: it becomes version 2' })
  await readFileOf('mill v2.xml', second)
  await expect(page.getByText('from mill v2.xml')).toBeVisible()
  await expect(page.getByLabel('Cut', { exact: true }).locator('option:checked')).toHaveText('Mill, next (2 of 2)')
  await tab('What changed')
  await expect(page.getByText('1 event changed: 1 trimmed')).toBeVisible()
  await expect(row('trimmed: 45 frames less at the head, 45 frames more at the tail')).toHaveCount(1)
  await expect(page.getByRole('heading', { name: 'Newly needed: 1 clip' })).toBeVisible()
  // As it would come from a system that counts layers from the uppermost.
  await tab('Events')
  await page.getByRole('button', { name: 'Flip tracks' }).click()
  await dialog().getByRole('button', { name: 'Flip V1 to V2' }).click()
  await tab('What changed')
  const upsideDown = page.getByText('V1 to V2 came over in reverse order')
  await expect(upsideDown).toBeVisible()
  await page.getByRole('button', { name: 'Flip V1 to V2' }).click()
  await expect(upsideDown).toBeHidden()
  await expect(page.getByText('1 event changed: 1 trimmed')).toBeVisible()
  await tab('Events')
})

test('before a handoff each format says what it loses; what leaves agrees in every frame, read by other readers', async () => {
  await page.getByRole('link', { name: 'Handoff' }).click()
  await expect(heading()).toHaveText('Ready to hand off')
  await expect(page.getByTestId('check-format')).toHaveAttribute('data-result', 'needs a look')
  await expect(page.getByTestId('format-edl')).toContainText('events that are switched off')
  await expect(page.getByTestId('format-xmeml')).toContainText('sequences within the sequence')
  await page.getByTestId('format-edl').getByRole('button').click()
  await expect(page.getByTestId('format-edl')).toContainText('Left out: an EDL would show them.')
  await page.getByRole('button', { name: 'What formats can carry' }).click()
  await expect(dialog().getByRole('row').filter({ hasText: 'Wipes with their number' })).toContainText('as a remark')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Hand off 6 events on originals' }).click()
  const handoff = page.getByTestId('handoff').first()
  const read = async (name: string): Promise<string> => {
    const download = page.waitForEvent('download')
    await handoff.getByRole('link', { name, exact: true }).click()
    return readFile(await (await download).path(), 'utf8')
  }
  const list = await read('Mill, next, online.edl')
  // Record in, record out and source in of the events that are shown, as the columns have them.
  const lines = list.split('\r\n').flatMap((line) => {
    const words = line.trim().split(/\s+/)
    const [sourceIn, , recordIn, recordOut] = words.slice(-4)
    return /^\d/.test(line) && recordIn !== recordOut && words[1] !== 'BL'
      ? [`${recordIn} ${recordOut} ${sourceIn}`]
      : []
  })
  expect(lines).toEqual([
    '10:00:00:00 10:00:01:15 11:01:01:20',
    '10:00:01:15 10:00:03:05 12:02:00:00',
    '10:00:03:05 10:00:04:00 11:01:00:20',
    '10:00:04:00 10:00:04:15 12:02:02:00',
    '10:00:00:20 10:00:01:15 12:02:01:05',
  ])
  const timeline = JSON.parse(await read('Mill, next, online.otio'))
  const clips = timeline.tracks.children.flatMap((track: { children: { OTIO_SCHEMA: string }[] }) =>
    track.children.filter(({ OTIO_SCHEMA }) => OTIO_SCHEMA.startsWith('Clip.')),
  )
  expect(
    clips.map((clip: { source_range: { start_time: { value: number } } }) => clip.source_range.start_time.value),
  ).toEqual([991_545, 1_083_000, 991_520, 1_083_050, 991_560, 1_083_030])
  for (const clip of clips) expect(clip.media_reference.target_url).toMatch(/^file:\/\/\/.*\/originals\/T00\d\.mov$/)
  const xml = await read('Mill, next, online.xml')
  const elements = await page.evaluate((text) => {
    const document = new DOMParser().parseFromString(text, 'application/xml')
    const of = (item: Element, name: string) => Number(item.querySelector(`:scope > ${name}`)?.textContent)
    return {
      raster: document.querySelector('format width')?.textContent,
      items: [...document.querySelectorAll('clipitem')].map((each) => [
        of(each, 'start'),
        of(each, 'end'),
        of(each, 'in'),
      ]),
    }
  }, xml)
  expect(elements).toEqual({
    raster: '640',
    items: [
      [0, -1, 45],
      [-1, 80, 0],
      [80, 100, 10],
      [100, -1, 50],
      [0, 20, 60],
      [20, 40, 30],
    ],
  })
})

test('five thousand events are read and drawn while the page stays awake', async () => {
  const label = (frame: number): string =>
    [frame / 90_000, (frame / 1500) % 60, (frame / 25) % 60, frame % 25]
      .map((part) => String(Math.floor(part)).padStart(2, '0'))
      .join(':')
  const events = Array.from({ length: 5000 }, (_, index) => {
    const times = [991_500, 991_510, index * 10, index * 10 + 10].map(label).join(' ')
    return `${String(index + 1).padStart(6, '0')}  T1 V C ${times}\n* FROM CLIP NAME: T001.mov`
  })
  await page.getByRole('link', { name: 'Cuts', exact: true }).click()
  await page.getByRole('button', { name: 'Read a cut' }).click()
  await readFileOf('long.edl', `TITLE: Long\n${events.join('\n')}\n`)
  await expect(heading()).toHaveText('All 5,000 events are on their original')
  await page.evaluate(() => {
    const kept = globalThis as typeof globalThis & { longTasks: number[] }
    kept.longTasks = []
    new PerformanceObserver((list) => kept.longTasks.push(...list.getEntries().map((entry) => entry.duration))).observe(
      {
        entryTypes: ['longtask'],
      },
    )
  })
  await tab('Paths')
  await tab('Events')
  await expect(page.getByText('5,000 events', { exact: true })).toBeVisible()
  expect(await page.locator('[data-event]').count()).toBeLessThan(1500)
  for (let step = 0; step < 6; step++) await page.getByRole('button', { name: 'Zoom in' }).click()
  await page.getByLabel('Filter the events').fill('004321')
  await row('004321').click()
  await expect(dialog()).toContainText('Event 004321')
  await page.keyboard.press('Escape')
  await expect(page.getByTestId('playhead')).toHaveText(label(43_200))
  const longest = await page.evaluate(() =>
    Math.max(0, ...(globalThis as typeof globalThis & { longTasks: number[] }).longTasks),
  )
  console.log(`    longest task while 5,000 events were drawn: ${Math.round(longest)} ms (none over 100 ms is wanted)`)
})

test('a decision holds for the uses that it was made on, and is shown where more came to be used', async () => {
  const use = (number: number, from: number, at: number): string =>
    `00${number}  T9 V C 13:00:0${from}:00 13:00:0${from + 1}:00 01:00:0${at}:00 01:00:0${at + 1}:00\n* FROM CLIP NAME: T009.mov\n`
  const read = (text: string, nextOf?: string): Promise<{ id: string }> =>
    post(`/productions/${productionId}/cuts`, { fileName: 'pickup.edl', text: `TITLE: Pickup\n${text}`, nextOf })
  const { id } = await read(use(1, 0, 0))
  await page.goto(`/p/${productionId}/handoff/${id}`)
  await expect(heading()).toHaveText('1 finding in the way')
  await page.getByLabel('Reason to leave open: unresolved').fill('The pickup comes on Friday')
  await page.getByRole('button', { name: 'Leave it open' }).click()
  await expect(heading()).toHaveText('Ready to hand off')
  const next = await read(use(1, 0, 0) + use(2, 5, 1), id)
  await page.goto(`/p/${productionId}/handoff/${next.id}`)
  await expect(heading()).toHaveText('1 finding in the way')
  const open = page.getByTestId('open-finding')
  await expect(open).toContainText('when less was used: “The pickup comes on Friday”. Decide anew.')
  await page.getByLabel('Reason to leave open: unresolved').fill('Both come on Friday')
  await page.getByRole('button', { name: 'Leave it open' }).click()
  await expect(heading()).toHaveText('Ready to hand off')
  await expect(page.getByText('Reason: Both come on Friday')).toBeVisible()
})
