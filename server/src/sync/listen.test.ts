import { join } from 'node:path'
import { readSoundLink, soundLinkKey } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { echoed, music, noise, speech, withNoise } from '../../../core/src/testing/sounds.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeRecording, makeShot } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const rate = 48_000
const tenHours = 10 * 3600 * rate
const [takeOne, takeTwo] = [speech(24, rate, 1), speech(24, rate, 2)]
/** What a camera hears of a take: the room, noise and little of it, from a sample on. */
const scratch = (take: Float32Array, from: number, seconds: number) =>
  withNoise(echoed(take.slice(from, from + seconds * rate), 0.2, rate), 12, from).map((sample) => sample * -0.2)

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Heard')
  const card = (name: string) => join(ennick.media, `card/${name}.mov`)
  // The clock of the card is an hour and four frames behind: 09:00:00:00 is 10:00:00:04.
  await makeShot(card('P1'), scratch(takeOne, 100_001, 6), { timecode: '09:00:01:23', reel: 'A001' })
  await makeShot(card('P2'), scratch(takeTwo, 333_333, 5), { timecode: '09:10:06:20', reel: 'A001' })
  await makeShot(card('P3'), noise(4, rate, 9).fill(0), { timecode: '09:10:14:21', reel: 'A001' })
  await makeShot(card('P4'), speech(5, rate, 40), { timecode: '18:00:00:00', reel: 'B001' })
  await makePicture(card('P5'), { frames: 25, channels: 0, timecode: null, reel: 'B001' })
  // T2 ran meanwhile, and something else is heard.
  await makeShot(card('P6'), speech(5, rate, 60), { timecode: '10:10:02:00', reel: 'B001' })
  // Somebody had the radio on.
  await makeShot(card('P7'), music(13, rate, 70), { timecode: '20:00:00:00', reel: 'B001' })
  const recorder = (name: string) => join(ennick.media, `recorder/${name}.wav`)
  const quiet = (take: Float32Array) => take.map((sample) => sample * 0.3)
  await makeRecording(recorder('T1'), [takeOne, quiet(takeOne)], { timeReference: tenHours })
  await makeRecording(recorder('T2'), [takeTwo, quiet(takeTwo)], { timeReference: tenHours + 600 * rate })
  for (const label of ['card', 'recorder'])
    await ennick.addVolume(productionId, label, join(ennick.media, label), label)
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const clip = async (name: string) => {
  const found = (await ennick.clips(productionId)).find((each) => each.title === name)
  if (!found) throw new Error(`There is no ${name}.`)
  return found
}
/** Listening is done once: what was heard stays true. */
let heard: Promise<string> | null = null
const listen = (): Promise<string> => {
  heard ??= listenOnce()
  return heard
}
const listenOnce = async (): Promise<string> => {
  const { id } = await ennick.call('listenToClips', { ...params(), body: { clipIds: [] } })
  expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done', summary: '2 of 7 pictures found in a recording' })
  return id
}
const sync = (by: object, more: object = {}) =>
  ennick.call('syncSound', { ...params(), body: { clipIds: [], apply: false, by, ...more } })
const link = async (name: string) => {
  const [row] = await ennick.query<{ link: string }>(
    `select described->'${soundLinkKey}'->>'value' as link from clips where id = $1`,
    [(await clip(name)).id],
  )
  return readSoundLink(row?.link)
}

test('scratch tracks are found in their recordings to the sample, and a clock that was wrong is told', async () => {
  const jobId = await listen()
  const by = { method: 'waveform', jobId }
  const found = await sync(by)
  const offsets = found.synced.map(({ name, offset }) => [name, Number(/^(-?\d+) samples/.exec(offset)?.[1])] as const)
  expect(offsets.map(([name]) => name)).toEqual(['P1', 'P2'])
  // A room moves the peak by a sample or two.
  expect(Math.abs((offsets[0]?.[1] ?? 0) - 100_001)).toBeLessThanOrEqual(2)
  expect(Math.abs((offsets[1]?.[1] ?? 0) - 333_333)).toBeLessThanOrEqual(2)
  expect(found.synced[0]).toMatchObject({ names: ['T1'], timecode: '10:00:02:02', method: 'waveform', lacks: null })
  expect(found.synced[0]?.likeness).toBeGreaterThan(0.6)
  expect(found.unsynced.map(({ name, why }) => [name, why])).toEqual([
    ['P3', 'nothing is heard on its scratch track'],
    ['P4', 'no recording sounds like it'],
    ['P5', 'it has no scratch track'],
    ['P6', expect.stringMatching(/^no recording sounds like it, though T2 ran meanwhile .*: is that music/)],
    ['P7', 'no recording sounds like it'],
  ])
  expect(found.clocks).toEqual([
    {
      ...{ group: 'A001', agreeing: 2, others: 1 },
      words: 'its timecode is 01:00:00:04 behind the recorder’s',
    },
  ])
  // By timecode alone none of these would be found, and the silent picture has nothing else.
  expect((await sync({ method: 'timecode' })).synced.map(({ name }) => name)).toEqual(['P6'])
  const right = await sync(by, { clocks: ['A001'] })
  expect(right.synced.map(({ name, method }) => [name, method])).toEqual([
    ['P1', 'waveform'],
    ['P2', 'waveform'],
    ['P3', 'clock'],
  ])
  expect(right.synced[2]).toMatchObject({ names: ['T2'], timecode: '10:10:15:00' })
})

test('what is kept knows both sides: moved by hand, tracks and camera sound as chosen, taken back', async () => {
  const jobId = await listen()
  const p1 = await clip('P1')
  const body = {
    ...{ clipIds: [p1.id], by: { method: 'waveform', jobId }, apply: true },
    ...{ nudges: [{ clipId: p1.id, samples: -480 }], tracks: [1], cameraSound: 'dropped' },
  }
  const kept = await ennick.call('syncSound', { ...params(), body })
  expect(kept.synced[0]?.nudged).toBe(-480)
  const known = await link('P1')
  expect(known).toMatchObject({ soundIds: [(await clip('T1')).id], tracks: [1], cameraSound: 'dropped' })
  expect(Math.abs(Number(known?.offsetSamples.numerator) - 99_521)).toBeLessThanOrEqual(2)
  const detail = await ennick.call('readClip', { params: { clipId: p1.id } })
  expect(detail.syncedSound).toMatchObject({
    recordings: [{ name: 'T1', presence: 'here' }],
    ...{ missing: 0, method: 'waveform', tracks: ['track 2'], cameraSound: 'dropped' },
  })
  expect(detail.described.map(({ field }) => field)).not.toContain(soundLinkKey)
  await ennick.call('undoEdit', params())
  expect(await link('P1')).toBeNull()
  expect((await ennick.call('readClip', { params: { clipId: p1.id } })).syncedSound).toBeNull()
})

test('synced clips go out as a list that is read again, each picture and its recording on its own file', async () => {
  const by = { method: 'waveform', jobId: await listen() }
  const write = (format: string, names: string[] = ['P1', 'P2', 'P4']) =>
    Promise.all(names.map(clip)).then((clips) =>
      ennick.call('writeSyncedList', { ...params(), body: { clipIds: clips.map(({ id }) => id), format } }),
    )
  await expect(write('otio')).rejects.toThrow('None of these clips is synced with a recording that is known here.')
  await ennick.call('syncSound', { ...params(), body: { clipIds: [], by, apply: true, tracks: null } })
  for (const format of ['otio', 'xmeml']) {
    const list = await write(format)
    expect(list).toMatchObject({ clips: 2, leftOut: ['1 of the chosen clips is not synced.'], notHere: [] })
    const { id } = await ennick.call('addCut', { ...params(), body: { fileName: list.fileName, text: list.text } })
    const { events } = await ennick.call('readCut', { params: { cutId: id } })
    expect(events.map(({ state }) => state)).toEqual(events.map(() => 'on original'))
    expect(new Set(events.map(({ clipName }) => clipName))).toEqual(new Set(['P1.mov', 'P2.mov', 'T1.wav', 'T2.wav']))
    // What each cannot say is told: one has no links, the other no parts of frames.
    const lost = list.losses.map(({ becomes }) => becomes)
    expect(lost.includes('Stand one above the other, not linked.')).toBe(format === 'otio')
    expect(lost.includes('Begins and ends on a frame.')).toBe(format === 'xmeml')
  }
  await ennick.call('undoEdit', params())
})

test('what each track holds is measured, and a silent one is told', async () => {
  await listen()
  const detail = async (name: string) => ennick.call('readClip', { params: { clipId: (await clip(name)).id } })
  expect((await detail('T1')).levels).toEqual([
    expect.stringMatching(/^−\d+\.\d dBFS on the mean/),
    expect.stringMatching(/^−\d+\.\d dBFS on the mean/),
  ])
  const silent = await detail('P3')
  expect(silent.levels).toEqual(['silence'])
  // A guide that is promised on it is told in the cut that uses it, once it was heard.
  const text = 'TITLE: Quiet\n001  A001 V C 09:10:15:00 09:10:16:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: P3.mov\n'
  const cut = await ennick.call('addCut', { ...params(), body: { fileName: 'quiet.edl', text } })
  const guides = async () =>
    (await ennick.call('listFindings', { params: { cutId: cut.id } })).filter(({ kind }) => kind === 'no guide')
  expect(await guides()).toEqual([])
  const said = { kind: 'set', clipIds: [(await clip('P3')).id], field: 'soundUse', value: 'guide' }
  await ennick.call('editClips', { ...params(), body: { action: said, apply: true } })
  expect((await guides())[0]?.message).toBe(
    'A guide is promised on P3.mov, and its track holds silence. It serves event 001.',
  )
  expect(silent.notices).toContainEqual({ kind: 'no sound on a track', message: 'Track 1 of it holds silence.' })
  expect((await detail('P5')).levels).toBeNull()
})

test('music where a guide is promised is told, in the clip and in the cut that uses it', async () => {
  await listen()
  const { id } = await clip('P7')
  const { levels, notices } = await ennick.call('readClip', { params: { clipId: id } })
  const words = /what sounds like music \(notes are held in \d+ % of it\), −\d+\.\d dBFS on the mean, −\d+\.\d at most/
  expect(levels).toEqual([expect.stringMatching(words)])
  expect(notices).toContainEqual({ kind: 'music on a track', message: `Track 1 of it holds ${levels?.[0]}.` })
  const said = { kind: 'set', clipIds: [id], field: 'soundUse', value: 'guide' }
  await ennick.call('editClips', { ...params(), body: { action: said, apply: true } })
  const text = 'TITLE: Loud\n001  B001 V C 20:00:01:00 20:00:02:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: P7.mov\n'
  const cut = await ennick.call('addCut', { ...params(), body: { fileName: 'loud.edl', text } })
  const findings = await ennick.call('listFindings', { params: { cutId: cut.id } })
  expect(findings.find(({ kind }) => kind === 'no guide')?.message).toBe(
    'A guide is promised on P7.mov, and its track holds what sounds like music. It serves event 001.',
  )
})

test('what was measured in an older way is measured anew, and no sooner than somebody listens', async () => {
  await listen()
  const measured = () =>
    ennick.query<{ version: number; tracks: unknown[] }>(
      'select version, tracks from sound_envelopes order by fingerprint',
    )
  const before = await measured()
  await ennick.query("update sound_envelopes set version = 1, tracks = '[]'", [])
  await ennick.waitForJob((await ennick.call('listenToClips', { ...params(), body: { clipIds: [] } })).id)
  expect(await measured()).toEqual(before)
})

test('marked points: the frame of a clap lies on its sample', async () => {
  const mark = async (name: string, inFrame: number) =>
    ennick.call('setMarks', { params: { clipId: (await clip(name)).id }, body: { inFrame, outFrame: null } })
  await mark('P5', 10)
  await mark('T2', 50)
  const found = await sync({ method: 'points' })
  expect(found.synced).toMatchObject([{ name: 'P5', names: ['T2'], offset: `${40 * 1920} samples at 48 kHz` }])
  expect(found.unsynced.find(({ name }) => name === 'P1')?.why).toBe('it has no in point')
  await mark('T1', 40)
  expect((await sync({ method: 'points' })).several).toMatchObject([{ name: 'P5', candidates: [{}, {}] }])
})

test('what was heard in another production, or not yet, is no answer', async () => {
  const other = await ennick.addProduction('Elsewhere')
  const jobId = await listen()
  const body = { clipIds: [], apply: false, by: { method: 'waveform', jobId } }
  await expect(ennick.call('syncSound', { params: { productionId: other }, body })).rejects.toThrow(/not here/)
  const check = await ennick.call('check', params())
  await ennick.waitForJob(check.id)
  await expect(sync({ method: 'waveform', jobId: check.id })).rejects.toThrow('The clips were not listened to yet.')
})
