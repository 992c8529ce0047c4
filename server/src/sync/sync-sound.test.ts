import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const tenHours = 10 * 3600 * 48_000
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Sound')
  const picture = (name: string, timecode: string | null, rate = '25') =>
    makePicture(join(ennick.media, `card/${name}.mov`), { frames: 25, channels: 0, timecode, rate, reel: 'A001' })
  await picture('P1', '10:00:02:05')
  await picture('P2', '10:00:09:12')
  await picture('P3', '12:00:00:00')
  await picture('P4', null)
  await picture('P5', '11:00:00:10')
  await makeSound(join(ennick.media, 'recorder/T1.wav'), 10 * 48_000, tenHours)
  await makeSound(join(ennick.media, 'recorder/T2.wav'), 10 * 48_000, tenHours + 3600 * 48_000, 2)
  await makeSound(join(ennick.media, 'recorder/T3.wav'), 9 * 48_000, tenHours + 3600 * 48_000, 2)
  await makeSound(join(ennick.media, 'recorder/T4.wav'), 48_000, 0, 1)
  for (const label of ['card', 'recorder'])
    await ennick.addVolume(productionId, label, join(ennick.media, label), label)
  await edit('T1', 'scene', '12A')
  await edit('T1', 'take', '3')
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const clip = async (name: string) => {
  const found = (await ennick.clips(productionId)).find((each) => each.title === name)
  if (!found) throw new Error(`There is no ${name}.`)
  return found
}
const edit = async (name: string, field: string, value: string) => {
  const action = { kind: 'set' as const, clipIds: [(await clip(name)).id], field, value }
  return ennick.call('editClips', { ...params(), body: { action, apply: true } })
}
const sync = (more: object = {}) =>
  ennick.call('syncSound', { ...params(), body: { clipIds: [], apply: false, ...more } })

test('pictures are shown with the recordings that ran, exact, with all that is left over', async () => {
  const found = await sync()
  expect(found).toMatchObject({ pictures: 5, sounds: 4, syncedTotal: 2, applied: false, changes: 8 })
  expect(found.synced).toMatchObject([
    {
      ...{ name: 'P1', names: ['T1'], startTimecode: '10:00:02:05', timecode: '10:00:02:05' },
      ...{ offset: `${2 * 48_000 + 5 * 1920} samples at 48 kHz`, lacks: null },
    },
    { name: 'P2', names: ['T1'], lacks: 'no sound for 12 frames at the tail' },
  ])
  expect(found.several).toMatchObject([{ name: 'P5', candidates: [{ names: ['T2'] }, { names: ['T3'] }] }])
  expect(found.unsynced.map(({ name, why }) => [name, why])).toEqual([
    ['P3', 'nothing was recorded at its timecode'],
    ['P4', 'it has no timecode'],
  ])
  expect(found.unusedSounds).toEqual([
    { clipId: (await clip('T4')).id, name: 'T4', why: 'no picture was taken while it ran' },
  ])
  expect((await clip('P1')).described).not.toHaveProperty('syncedSound')
})

test('what is kept is one edit: with the words of the sound where the picture has none, written to an ALE, taken back', async () => {
  await edit('P2', 'scene', '7')
  const before = [(await clip('P1')).described, (await clip('P2')).described]
  const [p5, t3] = [await clip('P5'), await clip('T3')]
  const choices = [{ clipId: p5.id, soundId: t3.id }]
  const kept = await sync({ choices, withWords: true, apply: true })
  expect(kept).toMatchObject({ syncedTotal: 3, several: [], applied: true })
  expect((await clip('P1')).described).toMatchObject({
    ...{ syncedSound: 'T1', soundTimecode: '10:00:02:05', soundOffset: '105600 samples at 48 kHz' },
    ...{ scene: '12A', take: '3' },
  })
  expect((await clip('P2')).described).toMatchObject({ scene: '7', take: '3' })
  expect((await clip('P5')).described).toMatchObject({ syncedSound: 'T3' })
  // They stand together in a search of their own, and where they were.
  const searches = await ennick.call('listSearches', params())
  expect(searches.map(({ name, count }) => [name, count])).toEqual([['Synced with sound', 3]])
  const clipIds = [(await clip('P1')).id]
  const fields = ['syncedSound', 'soundTimecode', 'scene']
  const logs = await ennick.call('exportLog', { ...params(), body: { clipIds, fields, format: 'ale' } })
  expect(logs[0]?.text).toMatch(/\tSynced sound\tSound TC\tScene/)
  expect(logs[0]?.text).toMatch(/\tT1\t10:00:02:05\t12A/)
  // Asked again, nothing is left to change; taken back, all is as it was.
  expect((await sync({ choices, withWords: true })).changes).toBe(0)
  await ennick.call('undoEdit', params())
  expect([(await clip('P1')).described, (await clip('P2')).described]).toEqual(before)
})

test('a selection is looked at alone, and a recording of another shoot day is not taken', async () => {
  const { id } = await clip('P1')
  expect(await sync({ clipIds: [id] })).toMatchObject({ pictures: 1, syncedTotal: 1, unusedSounds: [] })
  await edit('P1', 'day', 'day 1')
  await edit('T1', 'day', 'day 2')
  expect((await sync({ clipIds: [id] })).unsynced).toMatchObject([
    { name: 'P1', why: 'T1 has its timecode, and is of another shoot day' },
  ])
  await expect(sync({ clipIds: ['00000000-0000-4000-8000-000000000000'] })).rejects.toThrow('One of the clips')
})
