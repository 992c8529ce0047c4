import { cp, mkdir, readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Removed')
  for (const [seed, folder] of ['right', 'wrong'].entries())
    for (const name of ['A001C001', 'A001C002'])
      await makePicture(join(ennick.media, folder, `${name}.mov`), { frames: 5, seed: seed * 2 + Number(name.at(-1)) })
})
afterAll(() => ennick.stop())

const add = (label: string) => ennick.addVolume(productionId, label, join(ennick.media, label))
const remove = (volumeId: string, apply: boolean) =>
  ennick.call('removeVolume', { params: { volumeId }, body: { apply } })
const volumes = async () => (await ennick.call('listVolumes', { params: { productionId } })).map(({ label }) => label)
const clipsOn = async (label: string) =>
  (await ennick.clips(productionId)).filter(({ volumeLabel }) => volumeLabel === label)

test('a volume that was added by mistake goes with its clips; its files stay, and it can be added again', async () => {
  await add('right')
  const wrong = await add('wrong')
  const [clip] = await clipsOn('wrong')
  await ennick.call('editClips', {
    params: { productionId },
    body: { action: { kind: 'set', clipIds: [clip?.id ?? ''], field: 'scene', value: '1' }, apply: true },
  })
  expect(await remove(wrong, false)).toEqual({ clips: 2, described: 1, copies: 0, reasons: [] })
  expect(await clipsOn('wrong')).toHaveLength(2)
  await remove(wrong, true)
  expect(await volumes()).not.toContain('wrong')
  expect([(await clipsOn('wrong')).length, (await clipsOn('right')).length]).toEqual([0, 2])
  expect(await readdir(join(ennick.media, 'wrong'))).toEqual(expect.arrayContaining(['A001C001.mov', 'A001C002.mov']))
  await add('wrong')
  expect(await clipsOn('wrong')).toHaveLength(2)
})

test('what was said by a rule, at a frame or of a reel is counted; that something was taken out is not', async () => {
  for (const each of [1, 2, 3, 4, 5])
    await makePicture(join(ennick.media, 'said', `A002C00${each}.mov`), { frames: 5, seed: 10 + each })
  const said = await add('said')
  const ids = (await clipsOn('said')).map(({ id }) => id)
  const clipIds = (index: number) => [ids[index] ?? '']
  const pattern = { kind: 'fill' as const, clipIds: clipIds(0), field: 'scene', pattern: '{name}', onlyEmpty: false }
  await ennick.call('editClips', { params: { productionId }, body: { action: pattern, apply: true } })
  await ennick.call('addViewNote', {
    params: { clipId: ids[1] ?? '' },
    body: { frame: 1, text: 'soft', kind: 'note', sideId: 'original' },
  })
  const reel = { kind: 'set' as const, clipIds: clipIds(2), field: 'reel', value: 'B002' }
  await ennick.call('editClips', { params: { productionId }, body: { action: reel, apply: true } })
  await ennick.call('takeOutClips', { params: { productionId }, body: { clipIds: clipIds(3), apply: true } })
  expect(await remove(said, false)).toEqual({ clips: 5, described: 3, copies: 0, reasons: [] })
})

test('copies of what lies elsewhere are told; verified ones, and recordings in sync, keep it', async () => {
  const card = join(ennick.media, 'card')
  await makePicture(join(card, 'A003C001.mov'), { frames: 25, seed: 30, timecode: '10:00:00:00', rate: '25' })
  const cardId = await ennick.addVolume(productionId, 'card', card, 'card')
  await cp(card, join(ennick.media, 'again'), { recursive: true })
  expect(await remove(await add('again'), false)).toEqual({ clips: 0, described: 0, copies: 1, reasons: [] })
  expect((await remove(cardId, false)).reasons).toEqual(['One of its clips has files elsewhere too.'])

  await mkdir(join(ennick.media, 'storage'))
  const storage = await add('storage')
  const { id } = await ennick.call('offloadVolume', {
    params: { volumeId: cardId },
    body: { destinationId: storage, folder: 'A003', hash: 'xxh64' },
  })
  await ennick.waitForJob(id)
  expect((await remove(cardId, false)).reasons).toEqual(['One of its files is a verified copy of a clip elsewhere.'])

  await makeSound(join(ennick.media, 'recorder/T1.wav'), 48_000, 10 * 3600 * 48_000)
  const recorder = await add('recorder')
  const [picture] = await clipsOn('storage')
  await ennick.call('syncSound', { params: { productionId }, body: { clipIds: [picture?.id ?? ''], apply: true } })
  expect((await remove(recorder, false)).reasons).toEqual(['One picture elsewhere is synced with its sound.'])
})

test('one on which something rests stays, with the reasons', async () => {
  const right = (await ennick.volume(productionId, 'right'))?.id ?? ''
  const [clip] = await clipsOn('right')
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [clip?.id ?? ''], recipeId: 'half-h264-intra' },
  })
  await ennick.waitForJob(jobs[0]?.id ?? '')
  const text = `TITLE: Right
001  AX V C 10:00:00:00 10:00:00:04 01:00:00:00 01:00:00:04
* FROM CLIP NAME: A001C002.mov
* SOURCE FILE: ${join(ennick.media, 'right/A001C002.mov')}
`
  await ennick.call('addCut', { params: { productionId }, body: { fileName: 'right.edl', text } })
  const { reasons } = await remove(right, false)
  expect(reasons).toContain('One of its clips has a proxy or another copy.')
  await expect(remove(right, true)).rejects.toThrow('“right” stays')
  expect(await volumes()).toContain('right')
  const made = (await ennick.call('listVolumes', { params: { productionId } })).find(({ kind }) => kind === 'made')
  if (made) await expect(remove(made.id, true)).rejects.toThrow('the place of what Ennick makes')
})
