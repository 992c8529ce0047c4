import { join } from 'node:path'
import { fitToTarget, type Target, targetKinds } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Targets')
  const drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'A001C001.mov'), { frames: 12, reel: 'A001' })
  await makePicture(join(drive, 'mill wheel, take 2.mov'), { frames: 12, seed: 1, reel: 'B-UNIT-0001' })
  await ennick.addVolume(productionId, 'drive', drive)
})
afterAll(() => ennick.stop())

const target: Target = { ...(targetKinds[0] as Target), name: 'Loft', longestReel: 8 }
const set = (wanted: Target | null) => ennick.call('setTarget', { params: { productionId }, body: { target: wanted } })
const warnings = async (recipeId: string, alsoRecipeIds: string[] = []) => {
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const plan = await ennick.call('planMake', { params: { productionId }, body: { clipIds, recipeId, alsoRecipeIds } })
  return plan.warnings.filter((warning) => warning.includes('Loft'))
}

test('without a target nothing is held against one; with it names, reels and what is made besides are', async () => {
  expect(await warnings('vc3-lb-op-atom', ['half-h264-intra'])).toEqual([])
  expect((await set(target)).target).toEqual(target)
  expect(await warnings('vc3-lb-op-atom', ['half-h264-intra', 'review-h264'])).toEqual([
    expect.stringMatching(
      /^“Loft” does not take this\. .*mill wheel, take 2_V1\.mxf: has a blank, “,”\. So it is with/,
    ),
    '“Loft” does not take this. mill wheel, take 2 has the reel B-UNIT-0001, of more than 8 characters.',
    '“Loft” does not take this. Half size, H.264 intra: It takes MXF OP-Atom; this makes MOV.',
    ...Array.from({ length: 2 }, () => expect.stringContaining('Half size, H.264 intra: It')),
    expect.stringContaining('mill wheel, take 2_proxy.mov'),
    expect.stringContaining('B-UNIT-0001'),
  ])
})

test('a recipe that is made to fit it is kept and makes what it takes', async () => {
  const recipes = await ennick.call('listRecipes', {})
  const half = recipes.find(({ id }) => id === 'half-h264-intra')
  if (!half) throw new Error('There is no such recipe.')
  const { id: _, version: __, isBuiltIn: ___, warnings: ____, ...draft } = half
  const { id } = await ennick.call('addRecipe', {
    body: {
      ...fitToTarget(draft, target),
      ...{ name: 'For the loft', size: { kind: 'raster', width: 640, height: 360 } },
    },
  })
  const clipIds = (await ennick.clips(productionId)).map(({ id: clipId }) => clipId)
  const { items } = await ennick.call('planMake', { params: { productionId }, body: { clipIds, recipeId: id } })
  expect(items[0]?.outputs[0]).toMatch(/^managed media\/1\/A001C001_proxy_V1\.mxf$/)
})

test('it is taken away again, and each of that is history', async () => {
  expect((await set(null)).target).toBeNull()
  const lines = (await ennick.call('history', { params: { productionId } })).map(({ what }) => what)
  expect(lines).toEqual(expect.arrayContaining(['Target set: “Loft”.', 'Target removed.']))
})
