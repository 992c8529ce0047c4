import { readdir, utimes } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let drive: string
let volumeId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Taken out')
  drive = join(ennick.media, 'drive')
  for (const [seed, name] of ['A001C001', 'A001C002', 'A001C003'].entries())
    await makePicture(join(drive, `${name}.mov`), { seed, timecode: `10:0${seed}:00:00` })
  volumeId = await ennick.addVolume(productionId, 'drive', drive)
  const text = `TITLE: Taken out
001  A001 V C 10:01:00:00 10:01:01:00 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C002.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'used.edl', text } })).id
})
afterAll(() => ennick.stop())

const names = async () => (await ennick.clips(productionId)).map(({ name }) => name)
const idOf = async (name: string) => (await ennick.clips(productionId)).find((clip) => clip.name === name)?.id ?? ''
const takeOut = (clipIds: string[], apply: boolean) =>
  ennick.call('takeOutClips', { params: { productionId }, body: { clipIds, apply } })
const state = async () => (await ennick.call('readCut', { params: { cutId } })).events[0]?.state
const listed = async () =>
  (await ennick.call('listTakenOut', { params: { productionId } })).map(({ name, volumeLabel }) => [name, volumeLabel])
const scan = async () => ennick.waitForJob((await ennick.call('scanVolume', { params: { volumeId } })).id)

test('what taking clips out comes to is said first, and changes nothing', async () => {
  const clipId = await idOf('A001C002.mov')
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [clipId], recipeId: 'half-h264-intra' },
  })
  await ennick.waitForJob(jobs[0]?.id ?? '')
  expect(await takeOut([clipId, await idOf('A001C003.mov')], false)).toEqual({
    ...{ clips: 2, used: 1, cuts: ['Taken out'], synced: 0, made: 1 },
    madeBytes: expect.any(Number),
  })
  expect(await names()).toHaveLength(3)
  expect(await state()).toBe('on original')
})

test('taken out, a clip is nowhere, and no scan brings it back; its file and its proxy stay', async () => {
  const clipId = await idOf('A001C002.mov')
  await ennick.call('editClips', {
    params: { productionId },
    body: { action: { kind: 'set', clipIds: [clipId], field: 'scene', value: '12A' }, apply: true },
  })
  await takeOut([clipId], true)
  expect(await names()).toEqual(['A001C001.mov', 'A001C003.mov'])
  expect(await state()).toBe('unresolved')
  await expect(ennick.call('readClip', { params: { clipId } })).rejects.toThrow('This clip')
  expect(await listed()).toEqual([['A001C002', 'drive']])
  await scan()
  expect(await names()).toEqual(['A001C001.mov', 'A001C003.mov'])
  expect(await readdir(drive)).toContain('A001C002.mov')
  await expect(takeOut([clipId], true)).rejects.toThrow('One of the clips')
})

test('brought back it is what it was: described, used, paired; and each of both can be undone', async () => {
  const [{ clipId = '' } = {}] = await ennick.call('listTakenOut', { params: { productionId } })
  await ennick.call('bringBackClips', { params: { productionId }, body: { clipIds: [clipId] } })
  expect(await names()).toContain('A001C002.mov')
  expect(await state()).toBe('on original')
  const { clip } = await ennick.call('readClip', { params: { clipId } })
  expect(clip).toMatchObject({ described: { scene: '12A' }, proxy: 'proven', uses: 1 })
  await ennick.call('undoEdit', { params: { productionId } })
  expect(await names()).not.toContain('A001C002.mov')
  await ennick.call('undoEdit', { params: { productionId } })
  expect(await names()).toContain('A001C002.mov')
  expect(await listed()).toEqual([])
})

test('what lies in its place later is another thing, and is not out', async () => {
  const clipId = await idOf('A001C001.mov')
  await takeOut([clipId], true)
  await scan()
  expect(await names()).not.toContain('A001C001.mov')
  await makePicture(join(drive, 'A001C001.mov'), { seed: 77, timecode: '15:00:00:00' })
  const past = new Date(Date.now() - 60_000)
  await utimes(join(drive, 'A001C001.mov'), past, past)
  await scan()
  expect(await names()).toContain('A001C001.mov')
  const { notices } = await ennick.call('readClip', { params: { clipId } })
  expect(notices.map(({ kind }) => kind)).toContain('original changed')
  const history = await ennick.call('history', { params: { productionId } })
  expect(history.map(({ what }) => what)).toContain(
    'A001C001, which was taken out of the production, is in again: its file holds something else by now',
  )
  // Taken out as it is now, it stays out.
  await takeOut([clipId], true)
  await scan()
  expect(await names()).not.toContain('A001C001.mov')
  await ennick.call('bringBackClips', { params: { productionId }, body: { clipIds: [clipId] } })
})

test('pictures that are synced with a recording that goes are counted, unless they go too', async () => {
  await makeSound(join(drive, 'T1.wav'), 48_000, (10 * 60 + 2) * 60 * 48_000)
  await scan()
  const [picture, sound] = [await idOf('A001C003.mov'), await idOf('T1.wav')]
  await ennick.call('syncSound', { params: { productionId }, body: { clipIds: [picture], apply: true } })
  expect(await takeOut([sound], false)).toMatchObject({ synced: 1 })
  expect(await takeOut([sound, picture], false)).toMatchObject({ synced: 0 })
  expect(await takeOut([picture], false)).toMatchObject({ synced: 0 })
})
