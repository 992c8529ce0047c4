import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Fit')
  const card = join(ennick.media, 'card')
  await makePicture(join(card, 'a.mov'), { frames: 3 })
  await makePicture(join(card, 'b.mov'), { frames: 3, rate: '30000/1001', timecode: '10:00:00;00', size: '640x480' })
  await makeSound(join(card, 'take.wav'), 4800, 0)
  await ennick.addVolume(productionId, 'card', card)
})
afterAll(() => ennick.stop())

test('what came is told against the production, and each value finds its clips', async () => {
  const fit = await ennick.call('readFit', { params: { productionId } })
  const of = (property: string) => fit.find((row) => row.property === property)
  expect(of('Rate')).toMatchObject({ wanted: '25' })
  expect(of('Raster')?.values.map(({ value, trouble }) => [value, trouble])).toEqual(
    expect.arrayContaining([['640×480', 'another shape: pillarbox, or cut off']]),
  )
  expect(of('Sample rate')?.values).toMatchObject([{ value: '48 kHz', clips: 3, trouble: null }])
  for (const { property, values } of fit)
    for (const { value, clips, condition } of values) {
      const { ids } = await ennick.call('listClipIds', { params: { productionId }, body: { condition } })
      expect([property, value, ids.length]).toEqual([property, value, clips])
    }
})
