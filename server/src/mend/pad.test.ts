import { execFile } from 'node:child_process'
import { readFile, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { speech } from '../../../core/src/testing/sounds.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makeRecording } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let otherCut: string
let recorder: string
const rate = 48_000
/** Ten seconds, and less than a frame of 1920 samples. */
const samples = 10 * rate + 1500
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Pads')
  recorder = join(ennick.media, 'recorder')
  for (const [seed, name] of ['T1', 'T2'].entries())
    await makeRecording(join(recorder, `${name}.wav`), [speech(samples / rate, rate, seed + 1).subarray(0, samples)], {
      timeReference: 10 * 3600 * rate,
    })
  await ennick.addVolume(productionId, 'RECORDER', recorder, 'drive')
  const list = (title: string, end: string) => `TITLE: ${title}
001  AX A C 10:00:09:00 ${end} 01:00:00:00 01:00:01:01
* FROM CLIP NAME: T1.wav
`
  const add = async (fileName: string, text: string) =>
    (await ennick.call('addCut', { params: { productionId }, body: { fileName, text } })).id
  cutId = await add('pad.edl', list('Pad', '10:00:10:01'))
  otherCut = await add('other.edl', list('Other', '10:00:10:01'))
})
afterAll(() => ennick.stop())

const findings = async (cut = cutId) => ennick.call('listFindings', { params: { cutId: cut } })
const states = async (cut = cutId) =>
  (await ennick.call('readCut', { params: { cutId: cut } })).events.map(({ state }) => state)
const clipOf = async () => (await ennick.clips(productionId)).find(({ title }) => title === 'T1')
const pad = async () => {
  const [finding] = await findings()
  const body = { findingKeys: [finding?.key ?? ''] }
  const [mend] = await ennick.call('padRecordings', { params: { cutId }, body })
  for (;;) {
    const mends = await ennick.call('listMends', { params: { productionId } })
    const now = mends.find(({ id }) => id === mend?.id)
    if (now && now.state !== 'waiting') return now
    await new Promise((done) => setTimeout(done, 30))
  }
}
const decoded = async (path: string) => {
  const words = ['-v', 'error', '-i', path, '-f', 's24le', '-']
  return (await promisify(execFile)('ffmpeg', words, { encoding: 'buffer', maxBuffer: 1 << 28 })).stdout
}

test('less than a frame missing at the end of a recording is offered to be padded, with the samples', async () => {
  const [finding] = await findings()
  expect([await states(), finding?.kind, finding?.mends, finding?.padSamples]).toEqual([
    ...[['short'], 'too short', ['repoint', 'trim', 'pad'], 420],
  ])
})

test('the order of work offers it for all of a kind at once', async () => {
  const [finding] = await findings()
  const steps = await ennick.call('readOrderOfWork', { params: { cutId } })
  expect(steps.map(({ kind, padKeys }) => [kind, padKeys])).toEqual([['trim', [finding?.key]]])
})

test('a copy with the silence that is missing is used by every cut; the recording itself is not touched', async () => {
  const [path, before] = [join(recorder, 'T1.wav'), await readFile(join(recorder, 'T1.wav'))]
  const mend = await pad()
  expect(mend).toMatchObject({ kind: 'pad', state: 'done', title: 'Pad T1 with 420 samples of silence' })
  expect([await states(), await states(otherCut), await findings()]).toEqual([['on original'], ['on original'], []])
  expect((await readFile(path)).equals(before)).toBe(true)
  const detail = await ennick.call('readClip', { params: { clipId: (await clipOf())?.id ?? '' } })
  const copy = detail.files[0]?.path ?? ''
  expect(copy).toMatch(/padded\/RECORDER\/T1\.wav$/)
  const [sound, padded] = [await decoded(path), await decoded(copy)]
  expect(padded.subarray(0, sound.length).equals(sound)).toBe(true)
  expect([(padded.length - sound.length) / 3, padded.subarray(sound.length).every((byte) => byte === 0)]).toEqual([
    420,
    true,
  ])
  const listing = await ennick.call('lookIntoMadePlace', {
    params: { volumeId: (await ennick.madePlace(productionId)).id },
  })
  expect(listing.files).toMatchObject([{ path: 'padded/RECORDER/T1.wav', state: 'in use', clip: 'T1' }])
  // A check finds it as it is.
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  expect(await states()).toEqual(['on original'])
})

test('taken back, the clip has its recording again and the copy is gone', async () => {
  const copy = join((await ennick.madePlace(productionId)).path, 'padded/RECORDER/T1.wav')
  const [mend] = await ennick.call('listMends', { params: { productionId } })
  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  expect([await states(), (await clipOf())?.volumeLabel]).toEqual([['short'], 'RECORDER'])
  await expect(stat(copy)).rejects.toThrow()
  expect(await ennick.query(`select path from files where path like 'padded/%'`)).toEqual([])
})

test('what somebody has put in its place is not overwritten, and a recording that changed is not padded', async () => {
  const place = (await ennick.madePlace(productionId)).path
  const foreign = join(place, 'padded/RECORDER/T1.wav')
  await writeFile(foreign, 'of somebody else')
  expect(await pad()).toMatchObject({ state: 'failed' })
  expect([await readFile(foreign, 'utf8'), await states()]).toEqual(['of somebody else', ['short']])
  await rm(foreign)
  const kept = await readFile(join(recorder, 'T1.wav'))
  await writeFile(join(recorder, 'T1.wav'), kept.subarray(0, kept.length - 100))
  expect(await pad()).toMatchObject({ state: 'failed' })
  await writeFile(join(recorder, 'T1.wav'), kept)
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
})

test('a whole frame, or what is missing at the head, is no rounding and is not padded', async () => {
  const text = `TITLE: Long
001  AX A C 10:00:09:00 10:00:10:03 01:00:00:00 01:00:01:03
* FROM CLIP NAME: T2.wav
`
  const cut = await ennick.call('addCut', { params: { productionId }, body: { fileName: 'long.edl', text } })
  const [finding] = await findings(cut.id)
  expect(finding?.mends).toEqual(['repoint', 'trim'])
  await expect(
    ennick.call('padRecordings', { params: { cutId: cut.id }, body: { findingKeys: [finding?.key ?? ''] } }),
  ).rejects.toThrow(/Less than a frame at the end of a wave file is padded, and nothing else/)
})
