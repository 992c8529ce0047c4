import { mkdir, rename, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let plates: string
let volumeId: string
let cutId: string
let handoffId: string
const list = `TITLE: Mill
001  AX V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: SH010.mov
002  AX V C 11:00:00:00 11:00:01:00 01:00:01:00 01:00:02:00
* FROM CLIP NAME: SH020_v002.mov
`
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Plates')
  plates = join(ennick.media, 'plates')
  await makePicture(join(plates, 'tank/SH010.mov'), { seed: 1, reel: null })
  await makePicture(join(plates, 'tank/SH020_v002.mov'), { seed: 2, reel: null, timecode: '11:00:00:00' })
  volumeId = await ennick.addVolume(productionId, 'PLATES', plates)
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'mill.edl', text: list } })).id
})
beforeEach(async () => {
  handoffId = (await ennick.call('handOff', { params: { cutId } })).id
  expect(await since()).toEqual({ changes: [], blocking: 0, laterVersion: null })
})
afterAll(() => ennick.stop())

const since = () => ennick.call('readSinceHandoff', { params: { handoffId } })
const today = async () => (await ennick.call('today', { params: { productionId } })).cuts.find(({ id }) => id === cutId)
const idOf = async (name: string) => (await ennick.clips(productionId)).find((clip) => clip.name === name)?.id ?? ''

test('an original that moved blocks; once it is pointed at, its path is another than the one handed off', async () => {
  await rename(join(plates, 'tank'), join(plates, 'tank, checked'))
  await ennick.scan(volumeId)
  expect(await since()).toMatchObject({ changes: [], blocking: 2 })
  const mend = await ennick.call('repointMoved', { params: { volumeId } })
  expect(await since()).toMatchObject({
    changes: [
      { number: '001', track: 'V1', words: `lies at ${join(plates, 'tank, checked/SH010.mov')} now` },
      { number: '002', track: 'V1', words: `lies at ${join(plates, 'tank, checked/SH020_v002.mov')} now` },
    ],
    blocking: 0,
  })
  expect(await today()).toMatchObject({ changedSince: 2, blocking: 0, handedOffAt: expect.any(String) })
  expect((await ennick.call('today', { params: { productionId } })).counts.handoff).toBe(1)
  // Handed off again, nothing has changed; taken back, it has.
  const again = await ennick.call('handOff', { params: { cutId } })
  expect(await today()).toMatchObject({ changedSince: 0 })
  expect((await ennick.call('today', { params: { productionId } })).counts.handoff).toBe(0)
  await ennick.call('undoMend', { params: { mendId: mend.id } })
  expect((await ennick.call('readSinceHandoff', { params: { handoffId: again.id } })).changes).toHaveLength(2)
  expect(await since()).toMatchObject({ changes: [], blocking: 2 })
  await ennick.call('repointMoved', { params: { volumeId } })
})

test('an original that was delivered again, and one whose newer version was taken', async () => {
  await makePicture(join(plates, 'tank, checked/SH010.mov'), { seed: 3, reel: null })
  await makePicture(join(plates, 'tank, checked/SH020_v003.mov'), { seed: 4, reel: null, timecode: '11:00:00:00' })
  await ennick.scan(volumeId)
  expect(await since()).toMatchObject({
    changes: [{ number: '001', words: 'shows another content by the name of SH010.mov' }],
    blocking: 1,
  })
  await ennick.call('acceptRedelivered', {
    params: { productionId },
    body: { clipIds: [await idOf('SH010.mov')], reason: 'grain matched, from the tank', apply: true },
  })
  await ennick.call('chooseClips', {
    params: { cutId },
    body: { choices: [{ positions: [1], clipId: await idOf('SH020_v003.mov') }] },
  })
  expect(await since()).toMatchObject({
    changes: [
      { number: '001', words: 'shows another content by the name of SH010.mov' },
      { number: '002', words: 'is on SH020_v003.mov now instead of SH020_v002.mov' },
    ],
    blocking: 0,
  })
})

test('a later version of the cut is told; the handoff itself is as it was', async () => {
  const text = list.replace('11:00:01:00 01:00:01:00 01:00:02:00', '11:00:00:20 01:00:01:00 01:00:01:20')
  const { id } = await ennick.call('addCut', {
    params: { productionId },
    body: { fileName: 'mill 2.edl', text, nextOf: cutId },
  })
  expect(await since()).toEqual({ changes: [], blocking: 0, laterVersion: { cutId: id, version: 2 } })
  await ennick.call('removeCut', { params: { cutId: id } })
})

test('when every cut is handed off as it stands, what was made is told to be free to go', async () => {
  const done = async () => (await ennick.call('today', { params: { productionId } })).done
  expect(await done()).toEqual({ items: 0, bytes: 0, isArchived: false })
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [await idOf('SH010.mov')], recipeId: 'half-h264-intra' },
  })
  for (const { id } of jobs) await ennick.waitForJob(id)
  const [made] = (await ennick.call('listPairs', { params: { productionId } })).flatMap(({ pairs }) => pairs)
  const { madeFiles } = await ennick.call('readPair', { params: { pairId: made?.id ?? '' } })
  expect(await done()).toMatchObject({ items: 1, bytes: (await stat(madeFiles[0]?.path ?? '')).size })
  await ennick
    .call('archive', { params: { productionId }, body: { folder: ennick.media, name: 'Archive', hash: 'xxh64' } })
    .then(({ id }) => ennick.waitForJob(id))
  expect(await done()).toMatchObject({ items: 1, isArchived: true })
  // What has come since is in no archive.
  await makePicture(join(plates, 'tank, checked/SH030.mov'), { seed: 5, reel: null, timecode: '12:00:00:00' })
  await ennick.scan(volumeId)
  expect(await done()).toMatchObject({ items: 1, isArchived: false })
  // What is to be handed off again is not done.
  await ennick.call('chooseClips', {
    params: { cutId },
    body: { choices: [{ positions: [1], clipId: await idOf('SH020_v002.mov') }] },
  })
  expect(await done()).toBeNull()
})

test('of a pull it counts what it shows, and not where the originals lie', async () => {
  const folder = join(ennick.media, 'travel')
  await mkdir(folder)
  const pull = async (of: 'originals' | 'proxies') => {
    const body = { of, folder, name: `Mill, ${of}` }
    const job = await ennick.waitForJob((await ennick.call('pull', { params: { cutId }, body })).id)
    expect(job.state).toBe('done')
    return job.id
  }
  const sincePull = (jobId: string) => ennick.call('readSinceJob', { params: { jobId } })
  const pulled = [await pull('originals'), await pull('proxies')]
  await rename(join(plates, 'tank, checked'), join(plates, 'tank'))
  await ennick.scan(volumeId)
  await ennick.call('repointMoved', { params: { volumeId } })
  for (const jobId of pulled) expect(await sincePull(jobId)).toEqual({ changes: [], blocking: 0, laterVersion: null })
  expect((await since()).changes).toHaveLength(2)
  await ennick.call('chooseClips', {
    params: { cutId },
    body: { choices: [{ positions: [1], clipId: await idOf('SH020_v003.mov') }] },
  })
  for (const jobId of pulled)
    expect((await sincePull(jobId)).changes).toEqual([
      { number: '002', track: 'V1', words: 'is on SH020_v003.mov now instead of SH020_v002.mov' },
    ])
  await expect(sincePull(handoffId)).rejects.toThrow(/This pull/)
})

test('of what was handed off before its lists were kept nothing is said', async () => {
  handoffId = (await ennick.call('handOff', { params: { cutId } })).id
  await ennick.query('delete from handed_cuts where handoff_id = $1', [handoffId])
  expect(await since()).toMatchObject({ changes: null, blocking: 0 })
  expect(await today()).toMatchObject({ changedSince: 0 })
})
