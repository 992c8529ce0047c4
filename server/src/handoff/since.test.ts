import { rename } from 'node:fs/promises'
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

test('of what was handed off before its lists were kept nothing is said', async () => {
  handoffId = (await ennick.call('handOff', { params: { cutId } })).id
  await ennick.query('delete from handed_cuts where handoff_id = $1', [handoffId])
  expect(await since()).toMatchObject({ changes: null, blocking: 0 })
  expect(await today()).toMatchObject({ changedSince: 0 })
})
