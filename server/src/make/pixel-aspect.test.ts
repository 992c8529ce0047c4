import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import type { RecipeDraft } from '@ennick/contract'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { probe } from '../engine/probe.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let clipId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Wide')
  const drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'wide.mov'), { frames: 12 })
  await ennick.addVolume(productionId, 'drive', drive)
  clipId = (await ennick.clips(productionId))[0]?.id as string
})
afterAll(() => ennick.stop())

/** As large as its original, its pixels as they are. */
const draft: RecipeDraft = {
  ...{ name: 'Kept', purpose: 'cutting, one file per clip', about: '', codec: 'mjpeg', container: 'mov' },
  ...{
    size: { kind: 'source' },
    fit: 'pad',
    pixels: 'kept',
    scaling: 'quick',
    skipUpTo: null,
    skipCodecs: [],
    skipPlaying: null,
    viewingLut: null,
  },
  ...{ burnIn: null, quality: { kind: 'step', step: 'usual' }, syncedSound: false, sound: 'pcm 16' },
  ...{ tracks: { keep: null, layout: 'as source', atLeast: 0 }, namePattern: '{source}', suffix: '_kept' },
  folders: { kind: 'mirrored', levels: null },
}

const say = (value: string) =>
  ennick.call('editClips', {
    params: { productionId },
    body: { action: { kind: 'set', clipIds: [clipId], field: 'pixelAspect', value }, apply: true },
  })
const make = async (recipeId: string) => {
  const { jobs, skipped } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: [clipId], recipeId },
  })
  return jobs[0] ? ennick.waitForJob(jobs[0].id) : { state: 'skipped', error: skipped[0] }
}
const pair = async (recipe = 'Half size') =>
  (await ennick.call('listPairs', { params: { productionId } }))[0]?.pairs.find((each) =>
    each.recipe?.startsWith(recipe),
  )
const madePicture = async (recipe?: string) => {
  const [file] = (await ennick.call('readPair', { params: { pairId: (await pair(recipe))?.id ?? '' } })).madeFiles
  const path = file?.path as string
  return (await probe(path, (await stat(path)).size)).picture
}
const shape = async () => {
  const { clip, pixelShapes, factGroups } = await ennick.call('readClip', { params: { clipId } })
  const line = factGroups.flatMap(({ facts }) => facts).find(({ label }) => label === 'Pixel aspect')
  return { column: clip.facts.squeeze, now: pixelShapes.find(({ isNow }) => isNow)?.aspect, line: line?.value }
}

test('pixels said to be wide make what was made of square ones mismatched, and the next one wide', async () => {
  expect(await make('half-h264-intra')).toMatchObject({ state: 'done', error: null })
  expect(await pair()).toMatchObject({ verdict: 'proven' })
  const before = await madePicture()

  await say('2.0')
  expect(await shape()).toEqual({
    column: '2:1',
    now: '2:1',
    line: '2:1, anamorphic, set by hand: the file says square',
  })
  expect(await pair()).toMatchObject({ verdict: 'mismatched', why: expect.stringContaining('shape') })
  expect(await make('half-h264-intra')).toMatchObject({ state: 'done', error: null })
  const after = await madePicture()
  expect(after).toMatchObject({ width: 2 * (before?.width ?? 0), height: before?.height })
  expect(await pair()).toMatchObject({ verdict: 'proven' })

  await ennick.call('undoEdit', { params: { productionId } })
  expect(await shape()).toMatchObject({ column: 'square', line: 'square' })
  expect(await pair()).toMatchObject({ verdict: 'mismatched' })
})

test('a copy that keeps its pixels says of them what was said, and is no copy of the file as it is', async () => {
  await say('4:3')
  const { id } = await ennick.call('addRecipe', { body: draft })
  expect(await make(id)).toMatchObject({ state: 'done', error: null })
  expect(await pair('Kept')).toMatchObject({ verdict: 'proven' })
  expect(await madePicture('Kept')).toMatchObject({ pixelAspect: { numerator: 4, denominator: 3 } })
})

test('what is no pixel aspect is refused in words', async () => {
  const { refused } = await say('very wide')
  expect(refused[0]?.reason).toContain('A pixel aspect is written as 2:1')
})
