import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

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
  expect(await remove(wrong, false)).toEqual({ clips: 2, described: 1, reasons: [] })
  expect(await clipsOn('wrong')).toHaveLength(2)
  await remove(wrong, true)
  expect(await volumes()).not.toContain('wrong')
  expect([(await clipsOn('wrong')).length, (await clipsOn('right')).length]).toEqual([0, 2])
  expect(await readdir(join(ennick.media, 'wrong'))).toEqual(expect.arrayContaining(['A001C001.mov', 'A001C002.mov']))
  await add('wrong')
  expect(await clipsOn('wrong')).toHaveLength(2)
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
