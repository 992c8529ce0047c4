import { execFile } from 'node:child_process'
import { writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { promisify } from 'node:util'
import { builtInRecipes, readSoundLink, soundLinkKey } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { echoed, speech, withNoise } from '../../../core/src/testing/sounds.ts'
import { channelHeight } from '../engine/waveform.ts'
import { describeFile, stampOf } from '../intake/describe-file.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makeRecording, makeShot } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const rate = 48_000
const take = speech(20, rate, 3)
const other = speech(12, rate, 21)

/**
 * A recorder that writes each of its tracks into a file of its own, and an older take of the same length; and a take
 * whose files came on two volumes.
 */
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Split')
  const scratch = withNoise(echoed(take.slice(72_000, 72_000 + 6 * rate), 0.2, rate), 14, 5)
  await makeShot(join(ennick.media, 'card/P1.mov'), scratch, { timecode: '01:00:00:00', reel: 'A001' })
  const recorder = (name: string) => join(ennick.media, `recorder/${name}.wav`)
  await makeRecording(recorder('T7_1'), [take], { timeReference: 10 * 3600 * rate })
  await makeRecording(recorder('T7_2'), [take.map((sample) => sample * 0.4)], { timeReference: 10 * 3600 * rate })
  await makeRecording(recorder('T6_1'), [speech(20, rate, 8)], { timeReference: 9 * 3600 * rate })
  await makeShot(join(ennick.media, 'card/P2.mov'), withNoise(echoed(other.slice(0, 6 * rate), 0.2, rate), 14, 6), {
    ...{ timecode: '02:00:00:00', reel: 'A001' },
  })
  for (const [index, label] of ['recorder', 'second'].entries())
    await makeRecording(join(ennick.media, label, `T8_${index + 1}.wav`), [other], { timeReference: 11 * 3600 * rate })
  for (const label of ['card', 'recorder', 'second'])
    await ennick.addVolume(productionId, label, join(ennick.media, label), 'drive')
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const idOf = async (title: string) => (await ennick.clips(productionId)).find((clip) => clip.title === title)?.id ?? ''
const linkOf = async (title: string) => {
  const [row] = await ennick.query<{ link: string }>(
    `select described->'${soundLinkKey}'->>'value' as link from clips where id = $1`,
    [await idOf(title)],
  )
  return readSoundLink(row?.link)
}

test('the files of one take come in as one recording; those on two volumes stay clips of their own', async () => {
  const sounds = (await ennick.clips(productionId)).filter(({ kind }) => kind === 'sound')
  expect(sounds.map(({ title, channels }) => `${title} ${channels}`).sort()).toEqual([
    ...['T6_1 mono', 'T7 2 × mono', 'T8_1 mono', 'T8_2 mono'],
  ])
  const detail = await ennick.call('readClip', { params: { clipId: await idOf('T7') } })
  expect(detail.files.map(({ path }) => basename(path))).toEqual(['T7_1.wav', 'T7_2.wav'])
})

test('the files of one recording are found as one, by their sound', async () => {
  const { id: jobId } = await ennick.call('listenToClips', { ...params(), body: { clipIds: [] } })
  expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'done' })
  const body = { clipIds: [], by: { method: 'waveform', jobId }, apply: true }
  const found = await ennick.call('syncSound', { ...params(), body })
  expect(Object.fromEntries(found.synced.map(({ name, names }) => [name, names]))).toEqual({
    ...{ P1: ['T7'], P2: ['T8_1', 'T8_2'] },
  })
  expect([found.several, found.unusedSounds.map(({ name }) => name)]).toEqual([[], ['T6_1']])
  expect((await linkOf('P2'))?.soundIds).toEqual([await idOf('T8_1'), await idOf('T8_2')])
  // Tracks are chosen among those of all files of a recording.
  const again = { ...body, clipIds: [await idOf('P2')], apply: false }
  expect((await ennick.call('syncSound', { ...params(), body: again })).tracks).toHaveLength(2)
  // What was heard says nothing of what a clip holds since.
  const set = (sql: string) => ennick.query(`update files set fingerprint = ${sql} where path = 'T7_1.wav'`)
  await set(`'other'`)
  const since = { ...body, clipIds: [await idOf('P1')], apply: false }
  expect((await ennick.call('syncSound', { ...params(), body: since })).unsynced).toMatchObject([
    { name: 'P1', why: 'it or its recording holds something else than was heard: listen again' },
  ])
  await set('first_fingerprint')
  const link = await linkOf('P1')
  expect(link?.soundIds).toEqual([await idOf('T7')])
  expect(Math.abs(Number(link?.offsetSamples.numerator) - 72_000)).toBeLessThanOrEqual(2)
})

test('and by the point that is marked on any of them', async () => {
  const mark = async (title: string, inFrame: number) =>
    ennick.call('setMarks', { params: { clipId: await idOf(title) }, body: { inFrame, outFrame: null } })
  // A clap at two seconds of the picture, and three and a half into the recording.
  await mark('P1', 50)
  await mark('T7', 88)
  const found = await ennick.call('syncSound', {
    ...params(),
    body: { clipIds: [], by: { method: 'points' }, apply: false },
  })
  expect(found).toMatchObject({ synced: [{ name: 'P1', names: ['T7'], method: 'points' }], several: [] })
  // A point on what a clip held before says nothing of what it holds now.
  const content = async (sql: string) => ennick.query(`update files set fingerprint = ${sql} where path = 'P1.mov'`)
  await content(`'other'`)
  const body = { clipIds: [await idOf('P1')], by: { method: 'points' }, apply: false }
  expect((await ennick.call('syncSound', { ...params(), body })).unsynced).toMatchObject([
    { name: 'P1', why: 'its in point was set when it held something else: set it anew' },
  ])
  await content('first_fingerprint')
})

test('it is heard and played track by track', async () => {
  const clipId = await idOf('T7')
  const { tracks } = await ennick.call('readClip', { params: { clipId } })
  expect(tracks).toHaveLength(2)
  // A line for each track in the picture of its sound: the height stands at the 20th byte of a PNG.
  const drawn = Buffer.from(await (await fetch(`${ennick.url}/api/clips/${clipId}/waveform.png`)).arrayBuffer())
  expect(drawn.readUInt32BE(20)).toBe(2 * channelHeight)
  const { sides } = await ennick.call('readView', { params: { clipId } })
  expect(sides.map((side) => side.tracks.length)).toEqual([2])
  const played = await fetch(`${ennick.url}/api/clips/${clipId}/sides/original/play.mp4?from=0&tracks=1`)
  const rendered = join(ennick.media, 'rendered.mp4')
  await writeFile(rendered, Buffer.from(await played.arrayBuffer()))
  const words = ['-v', 'error', '-i', rendered, '-ac', '1', '-f', 's16le', '-']
  const { stdout } = await promisify(execFile)('ffmpeg', words, { encoding: 'buffer', maxBuffer: 1 << 30 })
  // To its end, and no silence behind it.
  expect([played.status, stdout.length / 2 / rate]).toEqual([200, 20])
})

test('synced clips leave with each track from the file that holds it', async () => {
  const body = { clipIds: [await idOf('P1')], format: 'otio' }
  const list = await ennick.call('writeSyncedList', { ...params(), body })
  const paths = [...list.text.matchAll(/"target_url": "([^"]*\.wav)"/g)].map((match) => basename(match[1] as string))
  expect(paths).toEqual(['T7_1.wav', 'T7_2.wav'])
})

test('an event lands on it by any of its files, and leaves on the one that it names', async () => {
  const events = ['T7', 'T7_2.wav'].map(
    (name, index) =>
      `00${index + 1}  AX A C 10:00:01:00 10:00:02:00 01:00:0${index}:00 01:00:0${index + 1}:00\n* FROM CLIP NAME: ${name}\n`,
  )
  const body = { fileName: 'split.edl', text: `TITLE: Split\n${events.join('')}` }
  const { id: cutId } = await ennick.call('addCut', { ...params(), body })
  const cut = await ennick.call('readCut', { params: { cutId } })
  expect(cut.events.map(({ originalName }) => originalName)).toEqual(['T7', 'T7'])
  const handoff = await ennick.call('handOff', { params: { cutId }, body: {} })
  const { name = '' } = handoff.files.find((file) => file.name.endsWith('.edl')) ?? {}
  const list = await (await fetch(`${ennick.url}/api/handoffs/${handoff.id}/files/${encodeURIComponent(name)}`)).text()
  const said = [...list.matchAll(/^\* (SOURCE FILE|FROM CLIP NAME|TRACKS ARE FILES): (.*)$/gm)]
  expect(said.map(([, what, of]) => `${what} ${basename(of as string)}`)).toEqual([
    ...['FROM CLIP NAME T7_1.wav', 'SOURCE FILE T7_1.wav', 'TRACKS ARE FILES T7_1.wav, T7_2.wav'],
    ...['FROM CLIP NAME T7_2.wav', 'SOURCE FILE T7_2.wav'],
  ])
})

test('a track that comes with a later scan is one of its clip, behind those that were there', async () => {
  const file = (track: number) => join(ennick.media, `later/T9_${track}.wav`)
  const write = (track: number) => makeRecording(file(track), [other], { timeReference: 12 * 3600 * rate })
  await write(2)
  const volumeId = await ennick.addVolume(productionId, 'later', dirname(file(2)), 'recorder')
  const clipId = await idOf('T9_2')
  for (const track of [1, 3]) await write(track)
  await makeRecording(file(4), [take], { timeReference: 12 * 3600 * rate })
  await ennick.scan(volumeId)
  expect([await idOf('T9'), await idOf('T9_4')]).toEqual([clipId, expect.stringMatching(/./)])
  const { files, history } = await ennick.call('readClip', { params: { clipId } })
  expect(files.map(({ path }) => basename(path))).toEqual(['T9_2.wav', 'T9_1.wav', 'T9_3.wav'])
  expect(history.map(({ what }) => what)).toContain('T9_3.wav came later, as a track of it.')
})

test('a proxy that is made with it has each track in its place, and is stale when one of the files is another', async () => {
  const [{ id: _, version: __, ...half }] = builtInRecipes as [(typeof builtInRecipes)[number]]
  const { id: recipeId } = await ennick.call('addRecipe', { body: { ...half, name: 'With sound', syncedSound: true } })
  const body = { clipIds: [await idOf('P1')], recipeId }
  const { jobs } = await ennick.call('make', { ...params(), body })
  expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
  const pair = async () =>
    (await ennick.call('listPairs', params())).find((row) => row.name === 'P1.mov')?.pairs.find((each) => each.kind)
  const made = await ennick.call('readPair', { params: { pairId: (await pair())?.id ?? '' } })
  expect([made.pair.verdict, made.recordings]).toEqual(['proven', ['T7']])
  const { facts } = await describeFile(made.madeFiles[0]?.path ?? '', await stampOf(made.madeFiles[0]?.path ?? ''))
  expect(facts?.sound.slice(-2).map(({ channels }) => channels)).toEqual([1, 1])

  await makeRecording(join(ennick.media, 'recorder/T7_2.wav'), [other], { timeReference: 10 * 3600 * rate })
  await ennick.scan((await ennick.volume(productionId, 'recorder'))?.id ?? '')
  expect((await pair())?.verdict).toBe('stale')
})
