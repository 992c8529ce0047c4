import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { decodeSpeeds } from '../store/catalogue-schema.ts'
import { connect } from '../store/database.ts'
import { readMaterial } from '../store/material.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Conditions')
  const drive = join(ennick.media, 'drive')
  for (const [seed, name] of ['easy', 'hard', 'unmeasured'].entries())
    await makePicture(join(drive, `${name}.mov`), { frames: 12, seed })
  await ennick.addVolume(productionId, 'drive', drive)
  // As if they had been measured at 25 frames a second: four streams and one, and a fifth is left for all else.
  const connection = connect(ennick.config.databaseUrl)
  const clips = [...(await readMaterial(connection.database, productionId)).clips.values()]
  for (const [name, framesPerSecond] of [
    ['easy', 125],
    ['hard', 35],
  ] as const) {
    const { main } = clips.find((clip) => clip.name === name) as (typeof clips)[number]
    await connection.database.insert(decodeSpeeds).values({ fingerprint: main.fingerprint, framesPerSecond })
  }
  await connection.close()
})
afterAll(() => ennick.stop())

const planWith = async (change: { skipPlaying?: number | null; skipCodecs?: string[]; sound?: 'pcm 16' }) => {
  const half = (await ennick.call('listRecipes', {})).find(({ id }) => id === 'half-h264-intra')
  if (!half) throw new Error('There is no such recipe.')
  const { id: _, version: __, isBuiltIn: ___, warnings: ____, ...draft } = half
  const name = `With ${JSON.stringify(change)}`
  const { id: recipeId } = await ennick.call('addRecipe', { body: { ...draft, ...change, name } })
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const { items, warnings } = await ennick.call('planMake', { params: { productionId }, body: { clipIds, recipeId } })
  return { skipped: Object.fromEntries(items.map((item) => [item.name, item.skipped])), warnings }
}

test('what plays so often at once, as it was measured, is left; what was not measured is made, and told', async () => {
  const { skipped, warnings } = await planWith({ skipPlaying: 2 })
  expect(skipped).toEqual({
    easy: 'it plays 4 times at once here, and the recipe leaves what plays 2 times as it is',
    hard: null,
    unmeasured: null,
  })
  expect(warnings).toEqual([expect.stringMatching(/^How well one of these clips plays here was not measured/)])
})

test('what is of a codec that is left says so; without conditions everything is made, and nothing told', async () => {
  const codec = (await ennick.clips(productionId))[0]?.codec as string
  expect((await planWith({ skipCodecs: ['VC-3', codec] })).skipped.hard).toBe(
    `hard.mov is ${codec}, which the recipe leaves as it is.`,
  )
  expect(await planWith({})).toEqual({ skipped: { easy: null, hard: null, unmeasured: null }, warnings: [] })
})

test('sound that is said to be real is not made less without a word; of a guide nobody minds', async () => {
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const say = (value: string) =>
    ennick.call('editClips', {
      params: { productionId },
      body: { action: { kind: 'set', clipIds, field: 'soundUse', value }, apply: true },
    })
  await say('guide')
  expect((await planWith({ sound: 'pcm 16' })).warnings).toEqual([])
  await say('Real')
  expect((await planWith({ skipCodecs: [], skipPlaying: null })).warnings).toEqual([])
  const [first] = (await planWith({ sound: 'pcm 16', skipCodecs: [] })).warnings
  expect(first).toMatch(/^The sound of .* is real, and gets 16 bits where it has 24 in what .* So it is with 2 more\.$/)
  expect((await say('loud')).refused[0]?.reason).toBe('Own sound is one of guide, real; “loud” is not.')
  await say('')
})
