import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let here: string
beforeAll(async () => {
  ennick = await startHarness()
  here = await ennick.addProduction('High Water')
  const there = await ennick.addProduction('Low Water')
  for (const [production, label, name] of [
    [here, 'A001', 'A001C001'],
    [there, 'BOX 7', 'A001C001'],
    [there, 'BOX 8', 'B002C009'],
  ] as const) {
    const folder = join(ennick.media, label)
    await makePicture(join(folder, `${name}.mov`), { frames: 5, size: '64x36', seed: label.length })
    await ennick.addVolume(production, label, folder)
  }
})
afterAll(() => ennick.stop())

const find = async (words: string) =>
  (await ennick.call('findElsewhere', { params: { productionId: here }, query: { words } })).map(
    ({ production, name, volumeLabel, presence }) => [production, name, volumeLabel, presence],
  )

test('a clip of another production is found by its names and by its box, and none of the own', async () => {
  expect(await find('a001c001')).toEqual([['Low Water', 'A001C001.mov', 'BOX 7', 'here']])
  expect(await find('box 8 MOV')).toEqual([['Low Water', 'B002C009.mov', 'BOX 8', 'here']])
  expect(await find('box')).toHaveLength(2)
  for (const words of ['a001c002', '', ' 7 ']) expect(await find(words)).toEqual([])
})
