import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import {
  composition,
  sequence,
  shotOnTape,
  slot,
  sourceClip,
  timecode,
  writeAaf,
} from '../../../core/src/testing/aaf.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Binary lists')
  const card = join(ennick.media, 'card')
  await makePicture(join(card, 'A001C001.mov'), { seed: 1, frames: 50 })
  await makePicture(join(card, 'A001C002.mov'), { seed: 2, frames: 50, timecode: '10:01:00:00' })
  await ennick.addVolume(productionId, 'A001', card)
})
afterAll(() => ennick.stop())

const pal = [25, 1] as const
const listOf = (lastFrames: number): Uint8Array =>
  writeAaf([
    ...shotOnTape(10, 'A001C001.mov', { reel: 'A001', frames: 50, startFrame: 900_000 }),
    ...shotOnTape(20, 'A001C002.mov', { reel: 'A001', frames: 50, startFrame: 901_500 }),
    composition(1, 'Mill', [
      slot(1, pal, timecode(90_000, 25)),
      slot(
        2,
        pal,
        sequence('picture', [
          sourceClip('picture', 25, { mob: 10, start: 5 }),
          sourceClip('picture', lastFrames, { mob: 20, start: 10 }),
        ]),
      ),
    ]),
  ])
const add = (bytes: Uint8Array) =>
  ennick.call('addCut', {
    params: { productionId },
    body: { fileName: 'mill.aaf', base64: Buffer.from(bytes).toString('base64') },
  })

test('an AAF is read, its events land on the originals, and it is given back byte for byte', async () => {
  const bytes = listOf(30)
  const cut = await add(bytes)
  expect(cut).toMatchObject({ name: 'Mill', format: 'AAF', fileName: 'mill.aaf' })
  const { events } = await ennick.call('readCut', { params: { cutId: cut.id } })
  expect(events.map(({ state, clipName, reel, sourceIn }) => [state, clipName, reel, sourceIn])).toEqual([
    ['on original', 'A001C001.mov', 'A001', '10:00:00:05'],
    ['on original', 'A001C002.mov', 'A001', '10:01:00:10'],
  ])
  const response = await fetch(`${ennick.url}/api/cuts/${cut.id}/list`)
  expect(Buffer.from(await response.arrayBuffer())).toEqual(Buffer.from(bytes))
})

test('a mend of its events becomes a version in a format that can be written', async () => {
  const cut = await add(listOf(42))
  const [finding] = await ennick.call('listFindings', { params: { cutId: cut.id } })
  expect(finding).toMatchObject({ kind: 'too short', trim: '2 frames at the tail' })
  const { cutId } = await ennick.call('trim', {
    params: { cutId: cut.id },
    body: { findingKeys: [finding?.key ?? ''] },
  })
  const next = await ennick.call('readCut', { params: { cutId } })
  expect(next.cut).toMatchObject({ version: 2, format: 'OTIO', fileName: 'mill trimmed.otio' })
  expect(next.events.map(({ state }) => state)).toEqual(['on original', 'on original'])
})

test('what is no AAF, or neither text nor bytes, is refused with a reason', async () => {
  await expect(add(listOf(30).subarray(0, 3000))).rejects.toMatchObject({ code: 'bad-list' })
  await expect(add(Buffer.from('TITLE: Mill\n'))).rejects.toThrow(/none of the formats that are read here/)
  const body = { fileName: 'mill.edl' }
  await expect(ennick.call('addCut', { params: { productionId }, body })).rejects.toThrow(/as text or as base64/)
})
