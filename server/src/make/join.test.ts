import { readFile, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { probe } from '../engine/probe.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let batchId: string
const recipeId = 'half-h264-intra'
/** Frames of each, in the order of their timecode; the second's sound ends early, the third's goes on. */
const lengths = { J1: 20, J2: 30, J3: 25 }

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Joined')
  const card = join(ennick.media, 'card')
  for (const [index, [name, frames]] of Object.entries(lengths).entries())
    await makePicture(join(card, `${name}.mov`), {
      ...{ frames, seed: index, timecode: `1${index}:00:00:00`, reel: 'A001' },
      ...(name === 'J1' ? {} : { extra: ['-af', name === 'J2' ? 'atrim=end=1' : 'apad=pad_len=9600'] }),
    })
  await makePicture(join(card, 'J4.mov'), { frames: 10, timecode: '14:00:00:00', reel: 'A001' })
  await makePicture(join(card, 'WIDE.mov'), { size: '640x360', frames: 10, timecode: '15:00:00:00', reel: 'B001' })
  await ennick.addVolume(productionId, 'A001', card)
  batchId = await make(['J1', 'J2', 'J3'])
})
afterAll(() => ennick.stop())

async function make(names: readonly string[], withRecipe = recipeId): Promise<string> {
  const clips = await ennick.clips(productionId)
  const clipIds = names.map((name) => clips.find((clip) => clip.name === `${name}.mov`)?.id)
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId: withRecipe } })
  for (const { id } of jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done' })
  return (await ennick.call('listBatches', { params: { productionId } }))[0]?.id ?? ''
}
const order = async (name: string, id = batchId) =>
  ennick.waitForJob((await ennick.call('joinBatch', { params: { batchId: id }, body: { recipeId, name } })).id)
const joined = async (id = batchId) =>
  (await ennick.call('listBatches', { params: { productionId } })).find((batch) => batch.id === id)?.joined ?? []
const samplesOf = async (path: string) =>
  (await run('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a:0', '-f', 'md5', '-c:a', 'pcm_s24le', '-'])).stdout

test('what a batch has made becomes one file, picture for picture, with every sound as long as its picture', async () => {
  const [offer] = await ennick.call('offerJoins', { params: { batchId } })
  expect(offer).toMatchObject({
    ...{ recipeId, total: 3, frames: 75, troubles: [], names: ['J1_proxy.mov', 'J2_proxy.mov', 'J3_proxy.mov'] },
  })
  expect(await order('Day 1')).toMatchObject({ state: 'done', summary: '3 items in one file of 75 frames' })
  const [file] = await joined()
  expect(file).toMatchObject({ path: 'joined/Day 1.mov', parts: 3, duration: '00:00:03:00' })
  const path = join((await ennick.madePlace(productionId)).path, file?.path ?? '')
  const facts = await probe(path, (await stat(path)).size, { countPackets: true })
  expect(facts).toMatchObject({ startFrame: 90_000, picture: { frames: 75, variableRate: false } })
  expect(facts.sound.map(({ samples }) => samples)).toEqual([144_000, 144_000])
  // The third part's sound begins at the very sample of its first frame.
  const third = join((await ennick.madePlace(productionId)).path, 'third.mov')
  await run('ffmpeg', [
    '-v',
    'error',
    '-i',
    path,
    '-map',
    '0:a:0',
    '-af',
    'atrim=start_sample=96000',
    '-c:a',
    'pcm_s24le',
    third,
  ])
  const pairs = await ennick.call('listPairs', { params: { productionId } })
  const part = (await run('find', [(await ennick.madePlace(productionId)).path, '-name', 'J3_proxy.mov'])).stdout.trim()
  await run('ffmpeg', [
    '-v',
    'error',
    '-i',
    part,
    '-map',
    '0:a:0',
    '-af',
    'atrim=end_sample=48000',
    '-c:a',
    'pcm_s24le',
    `${third}.part.mov`,
  ])
  expect(await samplesOf(third)).toBe(await samplesOf(`${third}.part.mov`))
  expect(pairs.flatMap((row) => row.pairs).map(({ verdict }) => verdict)).toEqual(Array(3).fill('proven'))
})

test('it comes with what is where in it, as a table and as a list', async () => {
  const [file] = await joined()
  const read = async (list: string) => (await fetch(`${ennick.url}/api/joined/${file?.id}/${list}`)).text()
  expect((await read('table')).split('\r\n').slice(0, 3)).toEqual([
    'Name,Clip,Tape,Start,End,Joined start,Joined end,Frames',
    'J1_proxy.mov,J1,A001,10:00:00:00,10:00:00:20,01:00:00:00,01:00:00:20,20',
    'J2_proxy.mov,J2,A001,11:00:00:00,11:00:01:05,01:00:00:20,01:00:02:00,30',
  ])
  expect(await read('edl')).toContain('11:00:00:00 11:00:01:05 01:00:00:20 01:00:02:00')
})

/** Two uses of one part each, the second retimed, and one that runs over all three parts. */
const cutText = (...lines: string[]) => ['TITLE: On a joined file', ...lines, ''].join('\n')
const uses = [
  '001  DAY1 V C 01:00:00:05 01:00:00:15 01:00:00:00 01:00:00:10',
  '* FROM CLIP NAME: Day 1',
  '002  DAY1 V C 01:00:00:22 01:00:01:22 01:00:00:10 01:00:00:22',
  'M2   DAY1       050.0                01:00:00:22',
  '* FROM CLIP NAME: Day 1',
  '003  DAY1 V C 01:00:00:10 01:00:02:10 01:00:00:22 01:00:02:22',
  '* FROM CLIP NAME: DAY 1.MOV',
]
const addCut = async (fileName: string, text: string) =>
  (await ennick.call('addCut', { params: { productionId }, body: { fileName, text } })).id
const findings = (cutId: string) => ennick.call('listFindings', { params: { cutId } })
const states = async (cutId: string) =>
  (await ennick.call('readCut', { params: { cutId } })).events.map(({ clipName, reel, state, sourceIn }) => [
    ...[clipName, reel, state, sourceIn],
  ])

test('a cut that was made with it is taken apart onto the originals of its parts, and back', async () => {
  const broken = ['004  DAY1 V C 01:00:00:10 01:00:01:10 01:00:02:22 01:00:03:09']
  const retimed = [...broken, 'M2   DAY1       050.0                01:00:00:10', '* FROM CLIP NAME: Day 1']
  const cutId = await addCut('on joined.edl', cutText(...uses, ...retimed))
  const [first, second] = await findings(cutId)
  expect([first, second].map((finding) => [finding?.kind, finding?.severity, finding?.mends])).toEqual([
    ['joined file', 'blocks handoff', ['take apart']],
    ['joined file', 'blocks handoff', ['replace from the start']],
  ])
  expect(first?.message).toBe(
    'Day 1.mov is a joined file of 3 items: taken apart, 3 uses of it will name what they show.',
  )
  expect(second?.message).toMatch(
    /^Day 1.mov is .*, and event 004 cannot be taken apart: it runs over J1 and J2, and it is/,
  )
  const [step] = await ennick.call('readOrderOfWork', { params: { cutId } })
  expect(step).toMatchObject({ kind: 'take apart', keys: [first?.key] })

  const takeApart = (apply: boolean) =>
    ennick.call('takeApart', { params: { cutId }, body: { findingKeys: [first?.key ?? ''], apply } })
  const told = [
    'event 001 on V1 shows 10 frames of J1',
    'event 002 on V1 shows 25 frames of J2',
    'event 003 on V1 shows 10 frames of J1, then 30 frames of J2, then 10 frames of J3',
  ]
  expect(await takeApart(false)).toEqual({ told, mend: null, cutId: null })
  const before = await states(cutId)
  const { mend, cutId: next } = await takeApart(true)
  expect(await states(next ?? '')).toEqual([
    ['J1', 'A001', 'on original', '10:00:00:05'],
    ['J2', 'A001', 'on original', '11:00:00:02'],
    ['J1', 'A001', 'on original', '10:00:00:10'],
    ['J2', 'A001', 'on original', '11:00:00:00'],
    ['J3', 'A001', 'on original', '12:00:00:00'],
    ['Day 1', 'DAY1', 'unresolved', '01:00:00:10'],
  ])
  expect(await states(cutId)).toEqual(before)
  await expect(takeApart(true)).rejects.toThrow(/newer version/)
  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  await expect(ennick.call('readCut', { params: { cutId: next ?? '' } })).rejects.toThrow()
})

test('a name that is taken is refused, whoever took it, and what lies there stays', async () => {
  await expect(order('Day 1')).rejects.toThrow(/was joined before is called/)
  await expect(order('../x')).rejects.toThrow(/no name that goes everywhere/)
  const { path } = await ennick.madePlace(productionId)
  await writeFile(join(path, 'joined/Theirs.mov'), 'somebody’s')
  await expect(order('Theirs')).rejects.toThrow(/is there already/)
  expect(await readFile(join(path, 'joined/Theirs.mov'), 'utf8')).toBe('somebody’s')
})

test('where it does not fit is told before it is begun', async () => {
  const which = `where path like '%J1_proxy.mov'`
  const [kept] = await ennick.query<{ size_bytes: string }>(`select size_bytes from files ${which}`)
  await ennick.query(`update files set size_bytes = 1e15 ${which}`)
  const offered = async () => (await ennick.call('offerJoins', { params: { batchId } }))[0]?.troubles
  expect(await offered()).toEqual([expect.stringMatching(/^The joined file does not fit: 1000000\.\d\d GB/)])
  await expect(order('Too large')).rejects.toThrow(/does not fit/)
  await ennick.query(`update files set size_bytes = $1 ${which}`, [kept?.size_bytes])
  expect(await offered()).toEqual([])
})

test('items that differ are told, and not joined', async () => {
  const id = await make(['J4', 'WIDE'])
  const [offer] = await ennick.call('offerJoins', { params: { batchId: id } })
  expect(offer?.troubles).toEqual(['WIDE_proxy.mov is 320 × 180 in raster, and J4_proxy.mov 160 × 90.'])
  await expect(order('Both', id)).rejects.toThrow(/in raster/)
})

test('it is no original, its place knows it, and it goes without its parts', async () => {
  const place = await ennick.madePlace(productionId)
  const listing = async () =>
    (await ennick.call('lookIntoMadePlace', { params: { volumeId: place.id } })).files.find(({ path }) =>
      path.endsWith('Day 1.mov'),
    )
  expect(await listing()).toMatchObject({ state: 'in use', clip: '3 items joined' })
  const [file] = await joined()
  await ennick.call('removeJoined', { params: { joinedId: file?.id ?? '' } })
  expect([await joined(), await listing()]).toEqual([[], undefined])
  // A cut that comes back later is of it still, so no other is called so.
  const cutId = await addCut('late.edl', cutText(...uses))
  expect((await findings(cutId)).map(({ kind }) => kind)).toEqual(['joined file'])
  await expect(order('day 1')).rejects.toThrow(/was joined before is called/)
  const pairs = await ennick.call('listPairs', { params: { productionId } })
  expect(pairs.flatMap((row) => row.pairs)).toHaveLength(5)
})

test('one that somebody has written into is left', async () => {
  expect(await order('Day 2')).toMatchObject({ state: 'done' })
  const [file] = await joined()
  const path = join((await ennick.madePlace(productionId)).path, file?.path ?? '')
  await writeFile(path, 'somebody’s now')
  await expect(ennick.call('removeJoined', { params: { joinedId: file?.id ?? '' } })).rejects.toThrow(/left as it is/)
  expect(await readFile(path, 'utf8')).toBe('somebody’s now')
})
