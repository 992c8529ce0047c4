import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { builtInRecipes } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { probe } from '../engine/probe.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
beforeAll(async () => {
  ennick = await startHarness()
})
afterAll(() => ennick.stop())

test('sound that is shorter or longer than its picture loses no picture in one MXF file, and is told', async () => {
  const productionId = await ennick.addProduction('One file')
  const card = join(ennick.media, 'card')
  const ends = { early: 'atrim=end=1', 'half a frame early': 'atrim=end=1.58', late: 'apad=pad_len=12000' }
  for (const [name, filter] of Object.entries(ends))
    await makePicture(join(card, `${name}.mov`), { frames: 40, channels: 1, extra: ['-af', filter] })
  await ennick.addVolume(productionId, 'CARD', card)
  const { id: _, version: __, ...like } = builtInRecipes[0] as (typeof builtInRecipes)[number]
  const recipe = await ennick.call('addRecipe', {
    body: { ...like, name: 'OP1a', codec: 'vc3-lb', container: 'mxf-op1a', size: { kind: 'source' } },
  })
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId: recipe.id } })
  for (const { id } of jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done', error: null })
  const rows = await ennick.call('listPairs', { params: { productionId } })
  const told = await Promise.all(
    rows.flatMap(({ pairs }) =>
      pairs.map(async ({ id, name }) => {
        const { madeFiles, comparison, pair } = await ennick.call('readPair', { params: { pairId: id } })
        const path = madeFiles[0]?.path as string
        const { picture } = await probe(path, (await stat(path)).size, { countPackets: true })
        const sound = comparison?.find(({ aspect }) => aspect === 'sound length')
        const heard = (await run('ffmpeg', ['-v', 'error', '-i', path, '-map', '0:a:0', '-f', 'md5', '-'])).exitCode
        return [name, pair.verdict, picture?.frames, heard, sound?.difference?.replace(/.*samples /, '') ?? null]
      }),
    ),
  )
  expect(told.sort()).toEqual([
    ['early_proxy.mxf', 'proven', 40, 0, 'are silence: in one MXF file sound is as long as its picture'],
    ['half a frame early_proxy.mxf', 'proven', 40, 0, null],
    ['late_proxy.mxf', 'proven', 40, 0, 'run on behind its picture, and are not in it'],
  ])
})
