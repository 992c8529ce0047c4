import { readFile, rename, utimes } from 'node:fs/promises'
import { join } from 'node:path'
import { builtInRecipes } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { speech } from '../../../core/src/testing/sounds.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makeRecording, makeShot } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let recipeId: string
let otherId: string
const rate = 48_000
const frame = 1920
const [boom, ines, scratch] = [speech(6, rate, 1), speech(6, rate, 2), speech(4, rate, 3)]
const recorder = () => join(ennick.media, 'recorder/T1.wav')

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Synced')
  const card = (name: string) => join(ennick.media, `card/${name}.mov`)
  // Two seconds into the take, and a second before it.
  await makeShot(card('S1'), scratch.slice(0, 2 * rate), { timecode: '10:00:02:00', reel: 'A001' })
  await makeShot(card('S2'), scratch.slice(0, 2 * rate), { timecode: '09:59:59:00', reel: 'A001' })
  await makeShot(card('S3'), scratch.slice(0, 2 * rate), { timecode: '15:00:00:00', reel: 'A001' })
  await makeRecording(recorder(), [boom, ines], { timeReference: 10 * 3600 * rate })
  for (const label of ['card', 'recorder'])
    await ennick.addVolume(productionId, label, join(ennick.media, label), label)
  const [{ id: _, version: __, ...half }] = builtInRecipes as [(typeof builtInRecipes)[number]]
  const draft = { ...half, name: 'Half size, with sound', syncedSound: true, suffix: '_synced' }
  recipeId = (await ennick.call('addRecipe', { body: draft })).id
  otherId = (await ennick.call('addRecipe', { body: { ...draft, name: 'The same again', suffix: '_again' } })).id
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const clipId = async (title: string) =>
  (await ennick.clips(productionId)).find((clip) => clip.title === title)?.id ?? ''
const sync = async (tracks: number[] | null, cameraSound: string) =>
  ennick.call('syncSound', { ...params(), body: { clipIds: [], apply: true, tracks, cameraSound } })
async function make(title: string) {
  const body = { clipIds: [await clipId(title)], recipeId }
  const { jobs } = await ennick.call('make', { ...params(), body })
  expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
  const rows = await ennick.call('listPairs', params())
  const pair = rows.find((row) => row.name === `${title}.mov`)?.pairs.find(({ name }) => name === `${title}_synced.mov`)
  expect(pair?.verdict).toBe('proven')
  return ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
}

/** A recorder of which nothing is there any more is away, which is seen every other second. */
async function untilRecorder(isHere: boolean): Promise<void> {
  while ((await ennick.volume(productionId, 'recorder'))?.isHere !== isHere)
    await new Promise((resolve) => setTimeout(resolve, 50))
}

/** The samples of one stream of a file. */
async function samplesOf(path: string, stream: number): Promise<Float32Array> {
  const raw = join(ennick.media, `${Math.random()}.raw`)
  const words = ['-v', 'error', '-i', `file:${path}`, '-map', `0:a:${stream}`, '-f', 'f32le', raw]
  expect((await run('ffmpeg', words)).exitCode).toBe(0)
  const bytes = await readFile(raw)
  return new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength))
}
const worst = (a: Float32Array, b: Float32Array): number =>
  a.reduce((most, value, index) => Math.max(most, Math.abs(value - (b[index] ?? 1))), 0)

test('a synced proxy has the chosen track of the recording, from its very sample, not the camera’s', async () => {
  expect(await sync([1], 'dropped')).toMatchObject({ syncedTotal: 2 })
  const plan = await ennick.call('planMake', { ...params(), body: { clipIds: [await clipId('S1')], recipeId } })
  expect(plan.items).toMatchObject([{ isSoundLaid: true, skipped: null }])
  const { madeFiles, recordings, comparison } = await make('S1')
  expect(recordings).toEqual(['T1'])
  expect(comparison?.find(({ aspect }) => aspect === 'channels')).toMatchObject({ agrees: true, found: 'mono' })
  const made = await samplesOf(madeFiles[0]?.path as string, 0)
  expect(made).toHaveLength(50 * frame)
  expect(worst(made, ines.subarray(2 * rate, 2 * rate + 50 * frame))).toBeLessThan(0.00001)
})

test('what the recording does not have is silence; the camera’s sound is kept before it where chosen', async () => {
  await sync(null, 'kept')
  const { madeFiles } = await make('S2')
  const path = madeFiles[0]?.path as string
  const [camera, first] = [await samplesOf(path, 0), await samplesOf(path, 1)]
  expect(worst(camera, scratch.subarray(0, 50 * frame))).toBeLessThan(0.0001)
  expect(first.subarray(0, rate).every((sample) => sample === 0)).toBe(true)
  expect(worst(first.subarray(rate), boom.subarray(0, rate))).toBeLessThan(0.00001)
})

test('a clip without a recording keeps its own sound; one whose recording is away is skipped, saying so', async () => {
  const { recordings, comparison } = await make('S3')
  expect(recordings).toEqual([])
  expect(comparison?.find(({ aspect }) => aspect === 'channels')).toMatchObject({ agrees: true })
  await rename(recorder(), `${recorder()}.aside`)
  await untilRecorder(false)
  const plan = await ennick.call('planMake', {
    ...params(),
    body: { clipIds: [await clipId('S2')], recipeId: otherId },
  })
  expect(plan.items[0]?.skipped).toBe(
    'S2 was synced with T1, which is not here: put its volume in, or make it with its own sound.',
  )
  await rename(`${recorder()}.aside`, recorder())
  await untilRecorder(true)
})

test('what could not be made again with the sound that was laid is not released', async () => {
  const rows = await ennick.call('listPairs', params())
  const pairIds = [rows.find(({ name }) => name === 'S2.mov')?.pairs[0]?.id ?? '']
  const kept = async () =>
    (await ennick.call('release', { ...params(), body: { pairIds, apply: false } })).kept[0]?.reason
  const kinds = (card: string, recording: string) =>
    ennick.query(`update volumes set kind = case label when 'card' then $1 when 'recorder' then $2 else kind end`, [
      ...[card, recording],
    ])
  await kinds('drive', 'recorder')
  expect(await kept()).toBe('Its recording T1 is only on “recorder”, which leaves again.')
  await kinds('drive', 'drive')
  expect(await kept()).toBeUndefined()
  const touched = new Date(2026, 1, 1)
  await utimes(recorder(), touched, touched)
  expect(await kept()).toMatch(/T1\.wav on “recorder”, which it was made of, is not as it was/)
  await ennick.query(`update files set mtime_micros = $1 where path = 'T1.wav'`, [touched.getTime() * 1000])
  expect(await kept()).toBeUndefined()
  await kinds('drive', 'recorder')
  await rename(recorder(), `${recorder()}.aside`)
  await untilRecorder(false)
  expect(await kept()).toBe('Its recording T1 is on volume “recorder”, which is away.')
  await rename(`${recorder()}.aside`, recorder())
  await untilRecorder(true)
  await kinds('drive', 'drive')
  await ennick.query(`update files set fingerprint = 'other' where path = 'T1.wav'`)
  expect(await kept()).toBe('Its recording T1 is another than was laid: it could not be made again as it is.')
  await ennick.query(`update files set fingerprint = first_fingerprint where path = 'T1.wav'`)
  expect(await kept()).toBeUndefined()
  await kinds('card', 'recorder')
})

test('a synced item is stale once its clip is synced otherwise or its recording is another; made anew it is well', async () => {
  const stands = async () => {
    const rows = await ennick.call('listPairs', params())
    const { id, verdict, why } = rows.find(({ name }) => name === 'S1.mov')?.pairs[0] ?? {}
    const shown = (await ennick.clips(productionId)).find(({ title }) => title === 'S1')?.proxy
    return { id, verdict, why, shown }
  }
  const check = async () => ennick.waitForJob((await ennick.call('check', params())).id)
  await check()
  await sync([1], 'dropped')
  expect(await stands()).toMatchObject({ verdict: 'proven', shown: 'proven' })
  await sync([0], 'dropped')
  const other = {
    verdict: 'stale',
    why: 'Other tracks of its recording were chosen since this was made.',
    shown: 'stale',
  }
  expect(await stands()).toMatchObject(other)
  await ennick.call('makePairsAgain', { ...params(), body: { pairIds: [(await stands()).id ?? ''] } })
  const [job] = await ennick.query<{ id: string }>('select id from jobs order by created_at desc limit 1')
  expect(await ennick.waitForJob(job?.id ?? '')).toMatchObject({ state: 'done', error: null })
  expect(await stands()).toMatchObject({ verdict: 'proven', shown: 'proven' })
  // Another take under the same name, and as long; by the one beside it it is known to be that recorder.
  await makeRecording(join(ennick.media, 'recorder/T2.wav'), [boom], { timeReference: 20 * 3600 * rate })
  await ennick.scan((await ennick.volume(productionId, 'recorder'))?.id ?? '')
  await makeRecording(recorder(), [ines, boom], { timeReference: 10 * 3600 * rate })
  await check()
  const changed = { verdict: 'stale', why: 'Its recording has changed since this was made.', shown: 'stale' }
  expect(await stands()).toMatchObject(changed)
})

test('a sync does not hold for another recording in the place of the one that was synced, until it is made anew', async () => {
  const id = await clipId('S1')
  const why = 'Its recording holds something else than when they were synced: sync them anew.'
  const notice = async () => (await ennick.call('readClip', { params: { clipId: id } })).notices.map(({ kind }) => kind)
  const isFound = async () =>
    (
      await ennick.call('searchClips', {
        ...params(),
        body: { condition: { all: [{ field: 'notice', operator: 'contains', value: 'stale sync' }] }, after: null },
      })
    ).rows.map(({ title }) => title)
  const skipped = async () =>
    (await ennick.call('planMake', { ...params(), body: { clipIds: [id], recipeId } })).items[0]?.skipped
  const text = 'TITLE: Mill\n001  A001 A C 10:00:02:05 10:00:03:05 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: S1.mov\n'
  const { id: cutId } = await ennick.call('addCut', { ...params(), body: { fileName: 'mill.edl', text } })
  const blocking = async () =>
    (await ennick.call('listFindings', { params: { cutId } })).flatMap(({ kind, severity, message }) =>
      severity === 'blocks handoff' && kind !== 'only on a card' ? [[kind, message]] : [],
    )
  const list = () => ennick.call('writeSyncedList', { ...params(), body: { clipIds: [id], format: 'otio' } })
  expect([await notice(), await isFound()]).toEqual([
    expect.arrayContaining(['stale sync']),
    expect.arrayContaining(['S1', 'S2']),
  ])
  expect(await skipped()).toBe(`S1: ${why} Or make it with its own sound.`)
  expect(await blocking()).toEqual([['stale sync', `S1.mov carries event 001. ${why}`]])
  await expect(list()).rejects.toThrow(`S1: ${why}`)
  await sync([0], 'dropped')
  expect([await notice(), await isFound(), await skipped(), await blocking()]).toEqual([
    expect.not.arrayContaining(['stale sync']),
    ...[[], null, []],
  ])
  expect((await list()).clips).toBe(1)
  // The picture is delivered again.
  await makeShot(join(ennick.media, 'card/S1.mov'), boom.slice(0, 2 * rate), { timecode: '10:00:02:00', reel: 'A001' })
  await ennick.waitForJob((await ennick.call('check', params())).id)
  const body = { clipIds: [id], reason: 'delivered again', apply: true }
  await ennick.call('acceptRedelivered', { ...params(), body })
  expect(await blocking()).toEqual([
    ['stale sync', expect.stringMatching(/The picture holds something else than when it was synced/)],
  ])
})
