import { copyFile, mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let plates: string
let volumeId: string
let cutId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Plates')
  plates = join(ennick.media, 'plates')
  await makePicture(join(plates, 'SH010.mov'), { seed: 1, reel: null })
  await makePicture(join(plates, 'SH020.mov'), { seed: 2, reel: null, timecode: '11:00:00:00' })
  volumeId = await ennick.addVolume(productionId, 'PLATES', plates)
  const second = join(ennick.media, 'second')
  await mkdir(second)
  await copyFile(join(plates, 'SH010.mov'), join(second, 'SH010.mov'))
  await ennick.addVolume(productionId, 'SECOND', second)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [await idOf('SH010.mov')], recipeId: 'half-h264-intra' },
  })
  await ennick.waitForJob(jobs[0]?.id ?? '')
  const text = `TITLE: Mill
001  AX V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: SH010.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'mill.edl', text } })).id
})
afterAll(() => ennick.stop())

const clips = async () =>
  (await ennick.clips(productionId)).map(({ name, volumeLabel, notice, proxy }) => [name, volumeLabel, notice, proxy])
const idOf = async (name: string) =>
  (await ennick.clips(productionId)).find((clip) => clip.name === name && clip.volumeLabel === 'PLATES')?.id ?? ''
const blocking = async () =>
  (await ennick.call('listFindings', { params: { cutId } }))
    .filter(({ severity }) => severity === 'blocks handoff')
    .map(({ kind, mends }) => [kind, mends])
const accept = async (name: string, body: { reason?: string; apply: boolean }) =>
  ennick.call('acceptRedelivered', { params: { productionId }, body: { clipIds: [await idOf(name)], ...body } })
const deliver = async (seed: number) => {
  await makePicture(join(plates, 'SH010.mov'), { seed, reel: null })
  await ennick.scan(volumeId)
}
const copiesOf = async (name: string) =>
  (await ennick.call('readClip', { params: { clipId: await idOf(name) } })).copies.map((copy) => copy.volumeLabel)

test('what is as it was first seen is not accepted anew', async () => {
  expect(await copiesOf('SH010.mov')).toEqual(['SECOND'])
  await expect(accept('SH010.mov', { reason: 'a second delivery', apply: true })).rejects.toThrow(/nothing to accept/)
})

test('a plate that was delivered again is the original while it is accepted', async () => {
  expect(await blocking()).toEqual([])
  await deliver(3)
  expect(await blocking()).toEqual([['original changed', ['repoint', 'accept redelivery']]])
  const asked = await accept('SH010.mov', { apply: false })
  expect(asked.clips).toEqual([
    {
      ...{ clipId: await idOf('SH010.mov'), name: 'SH010', path: 'SH010.mov', volumeLabel: 'PLATES', made: 1 },
      saidPixelAspect: null,
    },
  ])
  expect([asked.mend, (await blocking()).length]).toEqual([null, 1])
  await expect(accept('SH010.mov', { reason: ' ', apply: true })).rejects.toThrow(/who delivered it/)

  const { mend } = await accept('SH010.mov', { reason: 'grain matched, from the tank', apply: true })
  expect(mend).toMatchObject({
    kind: 'accept redelivery',
    title: 'Accepted as delivered again: SH010',
    changeCount: 1,
  })
  expect(await blocking()).toEqual([])
  // Its proxy shows what it was; a copy of that is none of it any more.
  expect(await clips()).toEqual([
    ['SH010.mov', 'PLATES', '', 'stale'],
    ['SH020.mov', 'PLATES', '', 'no proxy'],
  ])
  expect(await copiesOf('SH010.mov')).toEqual([])
  const { history } = await ennick.call('readClip', { params: { clipId: await idOf('SH010.mov') } })
  expect(history[0]?.what).toBe(
    'SH010.mov on “PLATES” was accepted as it was delivered again: grain matched, from the tank',
  )

  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  expect(await blocking()).toEqual([['original changed', ['repoint', 'accept redelivery']]])
  await expect(ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })).rejects.toThrow(/taken back already/)
})

test('each delivery is accepted for itself, and the newest is taken back first', async () => {
  const first = await accept('SH010.mov', { reason: 'version two', apply: true })
  await deliver(5)
  // Whoever has accepted one content has not accepted the next.
  expect((await blocking()).map(([kind]) => kind)).toEqual(['original changed'])
  const second = await accept('SH010.mov', { reason: 'version three', apply: true })
  expect(await blocking()).toEqual([])
  const undo = (mend: typeof first.mend) => ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  await expect(undo(first.mend)).rejects.toThrow(/A later mend rests on this one/)
  await undo(second.mend)
  await undo(first.mend)
  expect((await blocking()).map(([kind]) => kind)).toEqual(['original changed'])
})

test('what a person said of the pixels that it held before is told, as it stays', async () => {
  const edit = async (value: string) =>
    ennick.call('editClips', {
      params: { productionId },
      body: { action: { kind: 'set', clipIds: [await idOf('SH020.mov')], field: 'pixelAspect', value }, apply: true },
    })
  await edit('2:1')
  await makePicture(join(plates, 'SH020.mov'), { seed: 22, reel: null, timecode: '11:00:00:00' })
  await ennick.scan(volumeId)
  expect((await accept('SH020.mov', { apply: false })).clips).toMatchObject([{ saidPixelAspect: '2:1' }])
})
