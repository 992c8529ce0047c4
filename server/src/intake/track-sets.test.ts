import { execFile } from 'node:child_process'
import { cp, rename, rm } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makeTrackSet } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let volumeId: string
let cutId: string
let dailies: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Tracks')
  dailies = join(ennick.media, 'dailies')
  await makeTrackSet(join(dailies, 'one/x81'), {
    ...{ tones: [300, 700, 1100], timecode: '10:00:00:00', reel: 'A001', name: 'A001C001' },
  })
  await makeTrackSet(join(dailies, 'two/x82'), {
    ...{ tones: [500], timecode: '11:00:00:00', reel: 'A001', name: 'A001C002' },
  })
  volumeId = await ennick.addVolume(productionId, 'DAILIES', dailies)
})
afterAll(() => ennick.stop())

const clips = async () => ennick.clips(productionId)
const clipOf = async (title: string) => (await clips()).find((clip) => clip.title === title)
const made = async () => {
  const [pair] = (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) => row.pairs)
  return ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
}
/** The loudest tone of each stream of a file, in hertz. */
async function tonesOf(path: string, streams: number): Promise<number[]> {
  const tones: number[] = []
  for (let stream = 0; stream < streams; stream++) {
    const words = ['-v', 'error', '-i', path, '-map', `0:a:${stream}`, '-ac', '1', '-f', 'f32le', '-']
    const { stdout } = await promisify(execFile)('ffmpeg', words, { encoding: 'buffer', maxBuffer: 1 << 26 })
    const samples = new Float32Array(Uint8Array.from(stdout).buffer)
    let crossings = 0
    for (let index = 1; index < samples.length; index++)
      if ((samples[index - 1] as number) < 0 && (samples[index] as number) >= 0) crossings++
    tones.push(Math.round((crossings / samples.length) * 48_000))
  }
  return tones
}

test('files that say they are the tracks of one clip come in as one, called as they say', async () => {
  expect((await clips()).map(({ title, channels }) => [title, channels]).sort()).toEqual([
    ['A001C001', '3 × mono'],
    ['A001C002', 'mono'],
  ])
  const detail = await ennick.call('readClip', { params: { clipId: (await clipOf('A001C001'))?.id ?? '' } })
  expect(detail.files.map(({ path }) => basename(path))).toEqual([
    ...['x81_V1.mxf', 'x81_A1.mxf', 'x81_A2.mxf', 'x81_A3.mxf'],
  ])
  // Nothing is settled otherwise by the next scan.
  await ennick.scan(volumeId)
  expect(await clips()).toHaveLength(2)
})

test('what is made of it has all of its sound, each track in its place', async () => {
  const body = { clipIds: [(await clipOf('A001C001'))?.id ?? ''], recipeId: 'half-h264-intra' }
  const { jobs } = await ennick.call('make', { params: { productionId }, body })
  expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
  const { pair, comparison, madeFiles } = await made()
  expect([pair.name, pair.verdict]).toEqual(['A001C001_proxy.mov', 'proven'])
  expect(comparison?.find(({ aspect }) => aspect === 'channels')).toMatchObject({ found: '3 × mono', agrees: true })
  const tones = await tonesOf(madeFiles[0]?.path ?? '', 3)
  for (const [index, tone] of [300, 700, 1100].entries())
    expect(Math.abs((tones[index] as number) - tone)).toBeLessThan(9)
})

test('it is heard track by track, and played with its sound', async () => {
  const clipId = (await clipOf('A001C001'))?.id ?? ''
  const { id } = await ennick.call('listenToClips', { params: { productionId }, body: { clipIds: [clipId] } })
  expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done' })
  const { levels } = await ennick.call('readClip', { params: { clipId } })
  expect(levels).toHaveLength(3)
  const view = await ennick.call('readView', { params: { clipId } })
  const original = view.sides.find((side) => side.id === 'original')
  expect([original?.tracks.length, original?.playsAsItIs]).toEqual([3, false])
})

test('events land on it by its name and by that of any of its files, and leave as what they named', async () => {
  const text = `TITLE: Tracks
001  A001 V C 10:00:00:05 10:00:00:15 01:00:00:00 01:00:00:10
* FROM CLIP NAME: A001C001
002  A001 A2 C 10:00:00:05 10:00:00:15 01:00:00:00 01:00:00:10
* FROM CLIP NAME: x81_A2.mxf
* SOURCE FILE: /elsewhere/MXF/x81_A2.mxf
003  A001 A C 10:00:00:05 10:00:00:15 01:00:00:10 01:00:00:20
* FROM CLIP NAME: A001C001
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'tracks.edl', text } })).id
  const cut = await ennick.call('readCut', { params: { cutId } })
  expect(cut.events.map(({ state, originalName }) => [state, originalName])).toEqual(
    Array(3).fill(['on original', 'A001C001']),
  )
  const handoff = await ennick.call('handOff', { params: { cutId }, body: {} })
  const url = `${ennick.url}/api/handoffs/${handoff.id}/files/${encodeURIComponent(
    handoff.files.find(({ name }) => name.endsWith('.edl'))?.name ?? '',
  )}`
  const list = await (await fetch(url)).text()
  const paths = [...list.matchAll(/SOURCE FILE: (.*)/g)].map((match) => basename(match[1] as string))
  // What names no file of its own gets the picture's: nobody takes that for another track.
  expect(paths).toEqual(['x81_V1.mxf', 'x81_A2.mxf', 'x81_V1.mxf'])
  expect(list.match(/FROM CLIP NAME: (.*)/g)).toEqual(Array(3).fill('FROM CLIP NAME: A001C001'))
})

test('a track that is lost is told and found again by itself', async () => {
  await rename(join(dailies, 'one/x81_A2.mxf'), join(ennick.media, 'x81_A2.mxf'))
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  expect((await clipOf('A001C001'))?.presence).toBe('gone')
  const body = { folder: ennick.media, findingKeys: null }
  const job = await ennick.waitForJob((await ennick.call('search', { params: { cutId }, body })).id)
  const { rows } = await ennick.call('readSearch', { params: { jobId: job.id } })
  expect(rows.map(({ candidateId }) => candidateId)).toEqual([join(ennick.media, 'x81_A2.mxf')])
})

test('sound that comes with a later scan is its clip’s, and a proxy that was made silent is told', async () => {
  const folder = join(ennick.media, 'slow')
  const away = join(ennick.media, 'not yet')
  await makeTrackSet(join(away, 'x83'), {
    ...{ tones: [400, 900], timecode: '12:00:00:00', reel: 'A001', name: 'A001C003' },
  })
  await cp(join(away, 'x83_V1.mxf'), join(folder, 'x83_V1.mxf'))
  const other = await ennick.addProduction('Slow')
  const id = await ennick.addVolume(other, 'SLOW', folder)
  const [clip] = await ennick.clips(other)
  expect([clip?.title, clip?.channels]).toEqual(['x83_V1', 'none'])
  const body = { clipIds: [clip?.id ?? ''], recipeId: 'half-h264-intra' }
  const { jobs } = await ennick.call('make', { params: { productionId: other }, body })
  expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
  await cp(away, folder, { recursive: true })
  await ennick.scan(id)
  expect((await ennick.clips(other)).map(({ id: clipId, title, channels }) => [clipId, title, channels])).toEqual([
    [clip?.id, 'A001C003', '2 × mono'],
  ])
  const [pair] = (await ennick.call('listPairs', { params: { productionId: other } })).flatMap((row) => row.pairs)
  expect(pair?.verdict).toBe('mismatched')
})

test('a picture that comes after its sound makes one clip of what nobody has made use of', async () => {
  const away = join(ennick.media, 'sound first away')
  const at = (name: string) => join(ennick.media, 'sound first', name)
  for (const [name, timecode] of [
    ['x84', '13:00:00:00'],
    ['x85', '14:00:00:00'],
  ] as const) {
    await makeTrackSet(join(away, name), { tones: [400, 900], timecode, reel: 'A001', name: `Of ${name}` })
    for (const track of ['A1', 'A2']) await cp(join(away, `${name}_${track}.mxf`), at(`${name}_${track}.mxf`))
  }
  const other = await ennick.addProduction('Sound first')
  const id = await ennick.addVolume(other, 'SOUND FIRST', join(ennick.media, 'sound first'))
  const titles = async () => (await ennick.clips(other)).map(({ title, channels }) => `${title}: ${channels}`).sort()
  const apart = ['x84_A1: mono', 'x84_A2: mono', 'x85_A1: mono', 'x85_A2: mono']
  expect(await titles()).toEqual(apart)
  // What somebody has said of one of them is not lost.
  const said = (await ennick.clips(other)).find(({ title }) => title === 'x85_A1')?.id
  const action = { kind: 'set', clipIds: [said], field: 'notes', value: 'the boom' }
  await ennick.call('editClips', { params: { productionId: other }, body: { action, apply: true } })
  await cp(away, join(ennick.media, 'sound first'), { recursive: true })
  await ennick.scan(id)
  expect(await titles()).toEqual(['Of x84: 2 × mono', 'x85_A1: mono', 'x85_A2: mono', 'x85_V1: none'])
  const whole = (await ennick.clips(other)).find(({ title }) => title === 'Of x84')
  const detail = await ennick.call('readClip', { params: { clipId: whole?.id ?? '' } })
  expect(detail.files.map(({ path }) => basename(path))).toEqual(['x84_V1.mxf', 'x84_A1.mxf', 'x84_A2.mxf'])
  await ennick.scan(id)
  expect(await titles()).toHaveLength(4)
})

test('the same set in two folders is two clips, and one without its picture is none', async () => {
  await cp(join(dailies, 'two'), join(ennick.media, 'again/first'), { recursive: true })
  await cp(join(dailies, 'two'), join(ennick.media, 'again/second'), { recursive: true })
  await rm(join(ennick.media, 'again/second/x82_V1.mxf'))
  const other = await ennick.addProduction('Again')
  await ennick.addVolume(other, 'AGAIN', join(ennick.media, 'again'))
  expect((await ennick.clips(other)).map(({ title, channels }) => [title, channels]).sort()).toEqual([
    ['A001C002', 'mono'],
    ['x82_A1', 'mono'],
  ])
})

test('a proxy by another hand whose tracks are files of their own is offered and paired as one', async () => {
  const vendor = join(ennick.media, 'vendor')
  await makeTrackSet(join(vendor, 'p82'), {
    ...{ tones: [500], timecode: '11:00:00:00', reel: 'A001', name: 'A001C002', size: '320x180' },
  })
  const vendorId = await ennick.addVolume(productionId, 'VENDOR', vendor)
  await ennick.call('declareRole', { params: { volumeId: vendorId }, body: { path: '', role: 'proxy' } })
  await ennick.scan(vendorId)
  const offers = await ennick.call('listOffers', { params: { productionId } })
  expect(offers.map(({ path, outcome, clipName, agrees }) => [path, outcome, clipName, agrees])).toEqual([
    ['p82_V1.mxf', 'fits', 'A001C002', true],
  ])
  const body = { fileIds: [offers[0]?.fileId ?? ''], choices: [] }
  expect(await ennick.call('acceptOffers', { params: { productionId }, body })).toEqual({ paired: 1 })
  const pairs = (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) => row.pairs)
  const pair = pairs.find(({ name }) => name === 'p82_V1.mxf')
  const detail = await ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
  expect(detail.madeFiles.map(({ path, part }) => [basename(path), part])).toEqual([
    ['p82_V1.mxf', 'picture'],
    ['p82_A1.mxf', 'sound'],
  ])
  expect(detail.comparison?.find(({ aspect }) => aspect === 'channels')?.agrees).toBe(true)
})
