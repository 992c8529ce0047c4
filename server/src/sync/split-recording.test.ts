import { join } from 'node:path'
import { readSoundLink, soundLinkKey } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { echoed, speech, withNoise } from '../../../core/src/testing/sounds.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makeRecording, makeShot } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const rate = 48_000
const take = speech(20, rate, 3)

/** A recorder that writes each of its tracks into a file of its own, and an older take of the same length. */
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Split')
  const scratch = withNoise(echoed(take.slice(72_000, 72_000 + 6 * rate), 0.2, rate), 14, 5)
  await makeShot(join(ennick.media, 'card/P1.mov'), scratch, { timecode: '01:00:00:00', reel: 'A001' })
  const recorder = (name: string) => join(ennick.media, `recorder/${name}.wav`)
  await makeRecording(recorder('T7_1'), [take], { timeReference: 10 * 3600 * rate })
  await makeRecording(recorder('T7_2'), [take.map((sample) => sample * 0.4)], { timeReference: 10 * 3600 * rate })
  await makeRecording(recorder('T6_1'), [speech(20, rate, 8)], { timeReference: 9 * 3600 * rate })
  for (const label of ['card', 'recorder'])
    await ennick.addVolume(productionId, label, join(ennick.media, label), label)
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

test('the files of one recording are found as one, by their sound', async () => {
  const { id: jobId } = await ennick.call('listenToClips', { ...params(), body: { clipIds: [] } })
  expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'done' })
  const body = { clipIds: [], by: { method: 'waveform', jobId }, apply: true }
  const found = await ennick.call('syncSound', { ...params(), body })
  expect(found).toMatchObject({ synced: [{ name: 'P1', names: ['T7_1', 'T7_2'] }], several: [] })
  expect(found.unusedSounds.map(({ name }) => name)).toEqual(['T6_1'])
  const link = await linkOf('P1')
  expect(link?.soundIds).toEqual([await idOf('T7_1'), await idOf('T7_2')])
  expect(Math.abs(Number(link?.offsetSamples.numerator) - 72_000)).toBeLessThanOrEqual(2)
})

test('and by the point that is marked on any of them', async () => {
  const mark = async (title: string, inFrame: number) =>
    ennick.call('setMarks', { params: { clipId: await idOf(title) }, body: { inFrame, outFrame: null } })
  // A clap at two seconds of the picture, and three and a half into the recording.
  await mark('P1', 50)
  await mark('T7_2', 88)
  const found = await ennick.call('syncSound', {
    ...params(),
    body: { clipIds: [], by: { method: 'points' }, apply: false },
  })
  expect(found).toMatchObject({ synced: [{ name: 'P1', names: ['T7_1', 'T7_2'], method: 'points' }], several: [] })
})
