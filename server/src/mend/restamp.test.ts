import { readFile, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let worker: { stop(): Promise<void> }
const original = (name: string) => join(ennick.media, `card/${name}.mov`)
const proxy = (name: string) => join(ennick.media, `vendor/${name}_proxy.mov`)

beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  worker = await ennick.startWorker()
  productionId = await ennick.addProduction('Copies')
  const [frames, size] = [25, '160x90']
  for (const [index, name] of ['C1', 'C2', 'C3', 'C4'].entries()) {
    const shot = { frames, timecode: `1${index}:00:00:00`, seed: index }
    await makePicture(original(name), { ...shot, channels: 4 })
    const channels = { C1: 4, C2: 1, C3: 0, C4: 4 }[name] ?? 0
    await makePicture(`${proxy(name)}.made.mov`, { ...shot, size, channels })
    const words = {
      // Four tracks in one stream, a track of four, no sound at all, and half a frame of sound too few.
      C1: ['-filter_complex', '[0:a:0][0:a:1][0:a:2][0:a:3]amerge=inputs=4[a]', '-map', '0:v', '-map', '[a]'],
      C2: ['-map', '0', '-map', '-0:d', '-c:a', 'copy'],
      C3: ['-map', '0:v'],
      C4: ['-map', '0:v', '-map', '0:a', '-af', 'atrim=end_sample=47000'],
    }[name] as string[]
    const from = ['-nostdin', '-v', 'error', '-i', `${proxy(name)}.made.mov`, ...words, '-c:v', 'copy']
    const sound = name === 'C2' ? [] : ['-c:a', 'pcm_s24le']
    const { exitCode, stderr } = await run('ffmpeg', [
      ...[...from, ...sound, '-timecode', shot.timecode, '-metadata', 'reel_name=A001'],
      ...['-metadata:s:v:0', 'reel_name=A001', '-y', proxy(name)],
    ])
    expect([exitCode, stderr]).toEqual([0, ''])
    await run('rm', [`${proxy(name)}.made.mov`])
  }
  await ennick.addVolume(productionId, 'CARD', join(ennick.media, 'card'))
  const vendorId = await ennick.addVolume(productionId, 'VENDOR', join(ennick.media, 'vendor'))
  await ennick.call('declareRole', { params: { volumeId: vendorId }, body: { path: '', role: 'proxy' } })
  const offers = await ennick.call('listOffers', { params: { productionId } })
  const choices = offers.map(({ fileId, clipId, rivals }) => ({ fileId, clipId: clipId ?? rivals[0]?.clipId }))
  await ennick.call('acceptOffers', { params: { productionId }, body: { fileIds: [], choices } })
})
afterAll(async () => {
  await worker.stop()
  await ennick.stop()
})

const pairOf = async (name: string) =>
  (await ennick.call('listPairs', { params: { productionId } })).find((row) => row.name === `${name}.mov`)?.pairs[0]
const detail = async (name: string) => ennick.call('readPair', { params: { pairId: (await pairOf(name))?.id ?? '' } })
/** The samples of one channel, counted over all streams of a file of streams of one channel. */
async function samplesOf(path: string, stream: number, channel = 0): Promise<string> {
  const pan = ['-map', `0:a:${stream}`, '-af', `pan=mono|c0=c${channel}`, '-f', 'md5', '-c:a', 'pcm_s24le', '-']
  const { stdout } = await run('ffmpeg', ['-nostdin', '-v', 'error', '-i', path, ...pan])
  return stdout.trim()
}
async function askToRestamp(name: string): Promise<string> {
  const [mend] = await ennick.call('restamp', {
    ...{ params: { productionId }, body: { pairIds: [(await pairOf(name))?.id] } },
  })
  return mend?.id ?? ''
}
const stateOf = async (mendId: string) =>
  (await ennick.call('listMends', { params: { productionId } })).find(({ id }) => id === mendId)?.state
async function restamp(name: string): Promise<string> {
  const mendId = await askToRestamp(name)
  while ((await stateOf(mendId)) === 'waiting') await new Promise((done) => setTimeout(done, 50))
  expect(await stateOf(mendId)).toBe('done')
  return mendId
}

test('what a cut uses is offered a copy where that cures it', async () => {
  const list = `TITLE: Copies
001  A001 V C 11:00:00:00 11:00:00:10 01:00:00:00 01:00:00:10
* FROM CLIP NAME: C2.mov
`
  const { id } = await ennick.call('addCut', {
    ...{ params: { productionId }, body: { fileName: 'copies.edl', text: list } },
  })
  const findings = await ennick.call('listFindings', { params: { cutId: id } })
  const found = findings.find(({ kind }) => kind === 'channels mismatch')
  expect(found).toMatchObject({ pairIds: [(await pairOf('C2'))?.id], mends: ['restamp', 'make again'] })
  await ennick.call('removeCut', { params: { cutId: id } })
})

test('channels that are grouped otherwise are grouped as the original’s, each with its very samples', async () => {
  expect((await detail('C1')).copy).toBe('with the original’s timecode, reel and channels')
  const before = await readFile(proxy('C1'))
  const mendId = await restamp('C1')
  const copy = await detail('C1')
  expect(copy.pair).toMatchObject({ verdict: 'matched', origin: 'made' })
  const path = copy.madeFiles[0]?.path as string
  for (const channel of [0, 1, 2, 3])
    expect(await samplesOf(path, channel)).toBe(await samplesOf(proxy('C1'), 0, channel))
  expect((await readFile(proxy('C1'))).equals(before)).toBe(true)
  await ennick.call('undoMend', { params: { mendId } })
  expect((await detail('C1')).pair).toMatchObject({ verdict: 'mismatched', origin: 'adopted' })
})

test('channels that are missing are silent in the copy, and its evidence says which', async () => {
  for (const [name, silent] of [
    ['C2', 'channels 2, 3, 4 of the copy are silent'],
    ['C3', 'channels 1, 2, 3, 4 of the copy are silent'],
  ] as const) {
    await restamp(name)
    const { pair, comparison } = await detail(name)
    expect(pair).toMatchObject({ verdict: 'matched', origin: 'made' })
    expect(comparison?.find(({ aspect }) => aspect === 'channels')).toMatchObject({ agrees: true, found: '4 × mono' })
    expect(comparison?.find(({ aspect }) => aspect === 'sound')).toMatchObject({ agrees: true, difference: silent })
  }
  const path = (await detail('C2')).madeFiles[0]?.path as string
  expect(await samplesOf(path, 0)).toBe(await samplesOf(proxy('C2'), 0))
  expect(await samplesOf(path, 1)).not.toBe(await samplesOf(path, 0))
})

test('sound that is less than a frame short is filled up with silence, also when its disk was out', async () => {
  expect((await detail('C4')).copy).toMatch(/, 1000 samples of silence at the end$/)
  await worker.stop()
  const mendId = await askToRestamp('C4')
  const [shelf, bag] = ['vendor', 'bag'].map((name) => join(ennick.media, name)) as [string, string]
  await rename(shelf, bag)
  worker = await ennick.startWorker()
  const job = async () =>
    (await ennick.call('listJobs', { params: { productionId } })).find(({ title }) => title === 'Restamp C4_proxy.mov')
  while (!(await job())?.goesOnByItself) await new Promise((done) => setTimeout(done, 50))
  expect((await job())?.error).toMatch(/^“VENDOR” is away: .* It is restamped by itself when that is back\.$/)
  expect(await stateOf(mendId)).toBe('waiting')
  await rename(bag, shelf)
  while ((await stateOf(mendId)) === 'waiting') await new Promise((done) => setTimeout(done, 50))
  expect(await stateOf(mendId)).toBe('done')
  const { pair, comparison } = await detail('C4')
  expect(pair.verdict).toBe('matched')
  expect(comparison?.find(({ aspect }) => aspect === 'sound length')).toMatchObject({ found: '48000 samples' })
})
