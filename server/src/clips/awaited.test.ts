import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const card = (name: string) => join(ennick.media, `card/${name}.mov`)
let volumeId: string

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Awaited')
  await makePicture(card('A001C001'), { frames: 10 })
  volumeId = await ennick.addVolume(productionId, 'A001', join(ennick.media, 'card'))
})
afterAll(() => ennick.stop())

const log = (...rows: string[]) => Buffer.from(['Name,Tape,Start,Scene', ...rows].join('\n')).toString('base64')
const params = () => ({ params: { productionId } })
const hold = (content: string) => ennick.call('holdPlaces', { ...params(), body: { fileName: 'day 4.csv', content } })
const awaited = () => ennick.call('listAwaited', params())
const [here, next, other] = [
  'A001C001,A001,10:00:00:00,1',
  'A001C002,A001,10:05:00:00,2',
  'A001C003,A001,10:09:00:00,3',
]

test('what a log names and is not here holds a place until it comes', async () => {
  const content = log(here, next, other)
  const preview = await ennick.call('importLog', {
    ...{ ...params(), body: { fileName: 'day 4.csv', content, mapping: null, apply: false } },
  })
  expect(preview).toMatchObject({ matched: 1, unmatchedTotal: 2, nowhereTotal: 2 })
  expect(await awaited()).toEqual([])
  const places = [
    { line: 3, label: 'A001C002', doubt: null },
    { line: 4, label: 'A001C003', doubt: null },
  ]
  expect(await hold(content)).toMatchObject({
    fileName: 'day 4.csv',
    awaitedTotal: 2,
    awaited: places,
    arrivedTotal: 0,
  })

  // One comes as it was announced, one under its name and with another timecode: that is told, and not taken for it.
  await makePicture(card('A001C002'), { frames: 10, seed: 1, timecode: '10:05:00:00' })
  await makePicture(card('A001C003'), { frames: 10, seed: 2, timecode: '17:00:00:00' })
  await ennick.scan(volumeId)
  const [kept] = await awaited()
  expect(kept).toMatchObject({
    ...{ awaitedTotal: 1, arrivedTotal: 1, arrived: [{ label: 'A001C002', name: 'A001C002.mov' }] },
    awaited: [{ label: 'A001C003', doubt: expect.stringContaining('17:00:00:00') }],
  })
  await ennick.call('dropAwaited', { params: { awaitedId: kept?.id ?? '' } })
  expect(await awaited()).toEqual([])
  await expect(ennick.call('dropAwaited', { params: { awaitedId: kept?.id ?? '' } })).rejects.toMatchObject({
    status: 404,
  })
})

test('a log of what is known, or may be, holds no place', async () => {
  await expect(hold(log(here))).rejects.toMatchObject({ code: 'nothing-awaited' })
  // Of that name is a clip, at another timecode: a doubt, and nothing to wait for.
  await expect(hold(log('A001C001,A001,19:00:00:00,1'))).rejects.toMatchObject({ code: 'nothing-awaited' })
  // A row that names nothing is about nothing that could come.
  await expect(hold(log(',,,4'))).rejects.toMatchObject({ code: 'nothing-awaited' })
})
