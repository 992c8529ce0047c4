import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { RecipeDraft } from '@ennick/contract'
import { builtInRecipes, type Recipe } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const clipIds = new Map<string, string>()
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Sizes')
  const folder = join(ennick.media, 'drive')
  await makePicture(join(folder, 'plain.mov'), { size: '640x360', frames: 40, channels: 2 })
  await makePicture(join(folder, 'drop.mov'), {
    size: '480x270',
    rate: '30000/1001',
    timecode: '12:59:58;00',
    frames: 61,
    channels: 4,
  })
  await makePicture(join(folder, 'silent.mov'), { size: '640x360', frames: 30, channels: 0, seed: 2 })
  await makePicture(join(folder, 'long.mov'), { size: '480x270', frames: 200, channels: 2, seed: 3 })
  await ennick.addVolume(productionId, 'drive', folder)
  for (const clip of await ennick.clips(productionId)) clipIds.set(clip.name, clip.id)
})
afterAll(() => ennick.stop())

const request = (names: readonly string[], recipeId: string, alsoRecipeIds: readonly string[] = []) => ({
  params: { productionId },
  body: { clipIds: names.map((name) => clipIds.get(name)), recipeId, alsoRecipeIds },
})
/** Bytes of what was made of one clip with a recipe. */
async function made(name: string, recipe: string): Promise<number> {
  const ledger = await ennick.call('listPairs', { params: { productionId } })
  const pair = ledger
    .find((row) => row.clipId === clipIds.get(name))
    ?.pairs.find((each) => each.recipe?.startsWith(recipe))
  const { madeFiles } = await ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
  const sizes = await Promise.all(madeFiles.map(async ({ path }) => (await stat(path)).size))
  return sizes.reduce((sum, size) => sum + size, 0)
}
function variant(id: string, change: Partial<RecipeDraft>): RecipeDraft {
  const { id: _, version: __, ...draft } = builtInRecipes.find((recipe) => recipe.id === id) as Recipe
  return { ...draft, tracks: { ...draft.tracks, keep: null }, ...change } as RecipeDraft
}

test('sizes of codecs whose frames are all alike are right to a thousandth, with heads, tables and sound', async () => {
  const other = { purpose: 'cutting, one file per clip', suffix: '_sq' } as const
  const inMov = await ennick.call('addRecipe', {
    body: variant('vc3-lb-op-atom', { ...other, name: 'SQ, MOV', codec: 'vc3-sq', container: 'mov' }),
  })
  const inMxf = await ennick.call('addRecipe', {
    body: variant('vc3-lb-op-atom', { ...other, name: 'LB, OP1a', container: 'mxf-op1a', suffix: '_op1a' }),
  })
  const names = ['plain.mov', 'drop.mov', 'silent.mov']
  const also = [inMov.id, inMxf.id]
  const plan = await ennick.call('planMake', request(names, 'vc3-lb-op-atom', also))
  expect(plan).toMatchObject({ basis: 'exact', samples: { of: 0, wanting: [] } })
  const { jobs } = await ennick.call('make', request(names, 'vc3-lb-op-atom', also))
  for (const { id } of jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done', error: null })
  const lists = [{ name: 'Source size, VC-3 LB', items: plan.items }, ...plan.also]
  for (const { name, items } of lists)
    for (const [index, clip] of names.entries()) {
      const bytes = await made(clip, name)
      expect([name, clip, Math.abs((items[index]?.bytes ?? 0) - bytes) / bytes <= 0.001]).toEqual([name, clip, true])
    }
})

test('other sizes are told from encoded parts of the originals, and of others like them, to within fifteen hundredths', async () => {
  const recipes = ['half-h264-intra', 'review-h264', 'production-prores-proxy'] as const
  const [first, ...also] = recipes
  const before = await ennick.call('planMake', request(['long.mov'], first, also))
  const clipId = clipIds.get('long.mov') as string
  expect(before).toMatchObject({
    basis: 'typical',
    samples: { of: 3, wanting: recipes.map((recipeId) => ({ clipId, recipeId })) },
  })
  const sample = (recipeId: string) => ennick.call('sampleSize', { params: { clipId }, body: { recipeId } })
  // Two that ask for the same at once have it sampled once.
  const spent = () => ennick.query('select milliseconds, xmin from size_samples')
  await Promise.all([sample(first), sample(first)])
  const once = await spent()
  await sample(first)
  expect(await spent()).toEqual(once)
  expect(
    (await ennick.call('planMake', request(['long.mov'], first, also))).samples.wanting.map(({ recipeId }) => recipeId),
  ).toEqual(also)
  for (const recipeId of also) await sample(recipeId)
  const plan = await ennick.call('planMake', request(['long.mov'], first, also))
  expect(plan).toMatchObject({ basis: 'sampled', samples: { of: 3, wanting: [] } })
  expect(plan.minutes).toBeGreaterThan(0)
  const { jobs } = await ennick.call('make', request(['long.mov'], first, also))
  expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({ state: 'done', error: null })
  for (const { name, items } of [{ name: 'Half size', items: plan.items }, ...plan.also]) {
    const bytes = await made('long.mov', name)
    expect([name, Math.abs((items[0]?.bytes ?? 0) - bytes) / bytes <= 0.15]).toEqual([name, true])
  }
  // Clips that were not sampled are told by those that were.
  expect((await ennick.call('planMake', request(['plain.mov'], first))).items[0]?.basis).toBe('sampled')
})
