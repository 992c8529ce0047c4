import { mkdir, rename, rm, symlink } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

const frames = 60
const names = [1, 2, 3, 4].map((number) => `A00${number}`)
let ennick: Harness
let productionId: string
let cutId: string
let exports: string
let card: string

/** What is rendered of a clip: from a frame on, through some filters, so many frames. */
interface Piece {
  readonly clip: number
  readonly from: number
  readonly length: number
  readonly filters?: readonly string[]
}
/** The cut: at normal speed, backwards, at double speed, and short. */
const asCut: readonly Piece[] = [
  { clip: 0, from: 5, length: 40 },
  { clip: 1, from: 10, length: 31, filters: ['reverse'] },
  { clip: 2, from: 6, length: 50, filters: ["select='not(mod(n,2))'", 'setpts=N/25/TB'] },
  { clip: 3, from: 20, length: 9 },
]
/** What grading and mastering make of a picture. */
const graded = ['eq=contrast=1.25:brightness=0.04:saturation=0.6', 'scale=320:180']

async function render(
  name: string,
  pieces: readonly Piece[],
  words: readonly string[] = [],
  { of = (clip: number) => join(card, `${names[clip]}.mov`), look = graded } = {},
): Promise<void> {
  const graph = pieces.map(({ from, length, filters = [] }, index) =>
    [`[${index}:v]trim=start_frame=${from}:end_frame=${from + length},setpts=N/25/TB`, ...filters, ...look].join(','),
  )
  const labelled = graph.map((each, index) => `${each}[v${index}]`)
  const joined = `${pieces.map((_, index) => `[v${index}]`).join('')}concat=n=${pieces.length}[v]`
  const result = await run('ffmpeg', [
    ...['-v', 'error', '-y', ...pieces.flatMap(({ clip }) => ['-i', of(clip)])],
    ...['-filter_complex', `${labelled.join(';')};${joined}`, '-map', '[v]', '-r', '25'],
    ...['-c:v', 'libx264', '-preset', 'ultrafast', '-crf', '24', '-pix_fmt', 'yuv420p', '-g', '12', ...words],
    join(exports, name),
  ])
  if (result.exitCode !== 0) throw new Error(result.stderr)
}

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Finished')
  card = join(ennick.media, 'card')
  exports = join(ennick.media, 'exports')
  await mkdir(exports)
  for (const [index, reel] of names.entries())
    await makePicture(join(card, `${reel}.mov`), {
      ...{ size: '640x360', frames, reel, timecode: `1${index}:00:00:00`, scene: { set: index + 1, movement: index } },
    })
  await ennick.addVolume(productionId, 'CARD', card)
  const text = `TITLE: Mill
001  A001 V C 10:00:00:05 10:00:01:20 01:00:00:00 01:00:01:15
* FROM CLIP NAME: A001.mov
002  A002 V C 11:00:01:15 11:00:02:21 01:00:01:15 01:00:02:21
M2   A002 -025.0 11:00:01:15
* FROM CLIP NAME: A002.mov
003  A003 V C 12:00:00:06 12:00:01:06 01:00:02:21 01:00:03:21
M2   A003 050.0 12:00:00:06
* FROM CLIP NAME: A003.mov
004  A004 V C 13:00:00:20 13:00:01:04 01:00:03:21 01:00:04:05
* FROM CLIP NAME: A004.mov
`
  const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'mill.edl', text } })
  cutId = cut.id
})
afterAll(() => ennick.stop())

const target = (name: string, start: string | null = null) => ({
  ...{ params: { cutId }, body: { folder: exports, name, start } },
})
async function check(name: string, start: string | null = null) {
  const job = await ennick.waitForJob((await ennick.call('checkFinished', target(name, start))).id)
  const [newest] = await ennick.call('listFinished', { params: { cutId } })
  return { job, outcome: newest?.outcome, start: newest?.start }
}
const rowsOf = ({ outcome }: Awaited<ReturnType<typeof check>>) =>
  outcome?.rows.map(({ number, state, record }) => [number, state, record])
const differing = (rows: readonly { aspect: string; agrees: boolean }[] = []) =>
  rows.flatMap(({ aspect, agrees }) => (agrees ? [] : [aspect]))

describe('a finished file beside the originals of its cut', () => {
  test('graded and small, backwards and at double speed: every event as cut, and its settings told', async () => {
    await render('mill_010 \\ v0.mov', asCut, ['-timecode', '01:00:00:00'])
    const plan = await ennick.call('planFinished', target('mill_010 \\ v0.mov'))
    expect(plan).toMatchObject({ start: '01:00:00:00', events: 4, comparable: 4, blocked: null })
    const { job, outcome } = await check('mill_010 \\ v0.mov')
    expect(job.state).toBe('done')
    expect(outcome).toMatchObject({ frames: 105, events: 4, asCut: 4, rows: [], allOff: null })
    expect(outcome?.toTheFrame).toBeGreaterThanOrEqual(1)
    // It is smaller than the production.
    expect(differing(outcome?.settings)).toEqual(['raster'])
  })

  test('a slate, another take, black and a slip are each told with the frame, and with both pictures', async () => {
    const [first, second, third, fourth] = asCut as [Piece, Piece, Piece, Piece]
    await render('wrong.mov', [
      { ...first, length: 17 },
      // Three frames of another clip, between the places that are looked at in any case.
      { clip: 3, from: 0, length: 3 },
      { ...first, from: 25, length: 20 },
      { ...second, clip: 2 },
      { ...third, filters: [...(third.filters ?? []), 'drawbox=t=fill:c=black:enable=gte(n\\,10)'] },
      { ...fourth, from: fourth.from },
    ])
    const checked = await check('wrong.mov')
    expect(rowsOf(checked)).toEqual([
      ['001', 'another picture', '01:00:00:17'],
      ['002', 'another picture', '01:00:01:15'],
      ['003', 'black', '01:00:03:06'],
    ])
    expect(checked.outcome).toMatchObject({ asCut: 1, events: 4 })
    const [row] = checked.outcome?.rows ?? []
    expect([row?.frame, row?.original?.frame]).toEqual([17, 22])
    const picture = await fetch(`${ennick.url}/api/jobs/${checked.job.id}/finished/17`)
    expect([picture.status, picture.headers.get('content-type')]).toEqual([200, 'image/jpeg'])
  })

  test('what runs a frame late throughout is told as that, and so where it is said to begin elsewhere', async () => {
    const [first, ...others] = asCut as [Piece, ...Piece[]]
    await render('late.mov', [{ ...first, from: 4 }, ...others])
    const late = await check('late.mov')
    expect(rowsOf(late)).toEqual([['001', 'off by frames', expect.any(String)]])
    expect(late.outcome?.rows[0]?.detail).toBe('It runs 1 frame late throughout.')
    // A leader of two seconds, by its own timecode; or said by hand.
    await render('leader.mov', [{ clip: 3, from: 0, length: 50 }, ...asCut], ['-timecode', '00:59:58:00'])
    expect(await check('leader.mov')).toMatchObject({ start: '00:59:58:00', outcome: { asCut: 4 } })
    expect((await ennick.call('planFinished', target('late.mov', '00:59:59:00'))).start).toBe('00:59:59:00')
  })

  test('what was rendered from proxies at full size is told, and what was rendered from originals too', async () => {
    const clips = await ennick.clips(productionId)
    const body = { clipIds: clips.map(({ id }) => id), recipeId: 'half-h264-intra' }
    const { jobs } = await ennick.call('make', { params: { productionId }, body })
    for (const { id } of jobs) await ennick.waitForJob(id)
    const made = (await run('find', [(await ennick.madePlace(productionId)).path, '-name', '*.mov'])).stdout.split('\n')
    const proxyOf = (clip: number): string => made.find((path) => path.includes(names[clip] as string)) as string
    const full = { look: ['eq=contrast=1.2', 'scale=640:360'] }
    await render('full.mov', asCut, ['-crf', '20'], full)
    expect((await check('full.mov')).outcome).toMatchObject({ asCut: 4, ofOriginal: 4, rows: [] })
    await render('soft.mov', asCut.slice(0, 2), ['-crf', '20'], { ...full, of: proxyOf })
    const soft = await check('soft.mov')
    expect(rowsOf(soft)?.map(([number, state]) => [number, state])).toEqual([
      ['001', 'soft'],
      ['002', 'soft'],
      ['003', 'not compared'],
      ['004', 'not compared'],
    ])
    expect(soft.outcome?.rows[0]?.detail).toMatch(
      /no more fine detail than its proxy A001.* was it rendered from the proxy/,
    )
  })

  test('what it does not hold, and an original that is away, is not said to be as cut', async () => {
    await render('short.mov', asCut.slice(0, 2))
    const short = await check('short.mov')
    expect(rowsOf(short)?.map(([number, state]) => [number, state])).toEqual([
      ['003', 'not compared'],
      ['004', 'not compared'],
    ])
    expect(differing(short.outcome?.settings)).toEqual(['raster', 'timecode', 'coverage'])
    await rename(join(card, 'A001.mov'), join(card, 'A001.aside'))
    expect(rowsOf(await check('short.mov'))?.[0]).toEqual(['001', 'not compared', '01:00:00:00'])
    await rename(join(card, 'A001.aside'), join(card, 'A001.mov'))
  })

  test('what was checked is told apart from what lies there since, and from what the cut says since', async () => {
    await render('since.mov', asCut, ['-timecode', '01:00:00:00'])
    const { job } = await check('since.mov')
    const fileNow = async () => (await ennick.call('listFinished', { params: { cutId } }))[0]?.outcome?.fileNow
    const changes = async () =>
      (await ennick.call('readSinceJob', { params: { jobId: job.id } })).changes?.map(({ number }) => number)
    expect([await fileNow(), await changes()]).toEqual(['as checked', []])
    await render('since.mov', asCut.slice(0, 2), ['-timecode', '01:00:00:00'])
    expect(await fileNow()).toBe('changed since')
    await rm(join(exports, 'since.mov'))
    expect(await fileNow()).toBe('not found')
    const other = (await ennick.clips(productionId)).find(({ name }) => name === 'A003.mov')?.id ?? ''
    const choose = (clipId: string) =>
      ennick.call('chooseClips', { params: { cutId }, body: { choices: [{ positions: [3], clipId }] } })
    const mend = await choose(other)
    expect(await changes()).toEqual(['004'])
    await ennick.call('undoMend', { params: { mendId: mend.id } })
    expect(await changes()).toEqual([])
  })

  test('another rate, sound alone, a link, and what lies elsewhere are refused with their reason', async () => {
    await render('fast.mov', asCut, ['-r', '50'])
    expect((await ennick.call('planFinished', target('fast.mov'))).blocked).toMatch(/50 frames a second.*25/)
    await expect(ennick.call('checkFinished', target('fast.mov'))).rejects.toThrow(/50 frames a second/)
    await symlink(join(card, 'A001.mov'), join(exports, 'link.mov'))
    await expect(ennick.call('planFinished', target('link.mov'))).rejects.toThrow(/link is not followed/)
    await rm(join(exports, 'link.mov'))
    await expect(ennick.call('planFinished', target('nothing.mov'))).rejects.toThrow(/not there/)
    await expect(ennick.call('planFinished', target('../card/A001.mov'))).rejects.toThrow(/no name of a file/)
    await expect(
      ennick.call('planFinished', { params: { cutId }, body: { folder: '/etc', name: 'passwd', start: null } }),
    ).rejects.toThrow(/outside the folders/)
    await expect(ennick.call('planFinished', target('short.mov', 'soon'))).rejects.toThrow(/no timecode/)
  })
})
