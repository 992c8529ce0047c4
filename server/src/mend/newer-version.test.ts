import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let plates: string
let volumeId: string
let cutId: string

const list = (reel = 'AX') => `TITLE: Mill
001  ${reel} V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: SH010_comp_v001.mov
002  ${reel} V C 10:00:01:20 10:00:02:10 01:00:01:00 01:00:01:15
* FROM CLIP NAME: SH010_comp_v001.mov
003  ${reel} V C 11:00:00:00 11:00:01:00 01:00:01:15 01:00:02:15
* FROM CLIP NAME: SH020_comp_v003.mov
`

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Plates')
  plates = join(ennick.media, 'plates')
  await makePicture(join(plates, 'SH010_comp_v001.mov'), { seed: 1, reel: null, frames: 75 })
  await makePicture(join(plates, 'SH020_comp_v003.mov'), { seed: 2, reel: null, timecode: '11:00:00:00' })
  volumeId = await ennick.addVolume(productionId, 'PLATES', plates)
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'mill.edl', text: list() } })).id
})
afterAll(() => ennick.stop())

const deliver = async (version: number, change: object = {}) => {
  const name = `SH010_comp_v00${version}.mov`
  await makePicture(join(plates, name), { seed: 10 + version, reel: null, frames: 75, ...change })
  await ennick.scan(volumeId)
}
const findings = async () => (await ennick.call('listFindings', { params: { cutId } })).map(({ message }) => message)
const newest = async () => {
  const { ready, checks } = await ennick.call('readPreflight', { params: { cutId } })
  return [ready, checks.find(({ id }) => id === 'newest')?.result]
}
const names = async () => (await ennick.call('readCut', { params: { cutId } })).events.map((row) => row.originalName)
const idOf = async (name: string) => (await ennick.clips(productionId)).find((clip) => clip.name === name)?.id ?? ''
const choose = async (name: string) =>
  ennick.call('chooseClips', {
    params: { cutId },
    body: { choices: [{ positions: [0, 1], clipId: await idOf(name) }] },
  })

test('a later version that comes in is told, and the cut shows what its list names', async () => {
  expect([await findings(), await newest()]).toEqual([[], [true, 'passes']])
  await deliver(2, { frames: 40 })
  await deliver(3)
  expect(await findings()).toEqual([
    'SH010_comp_v001.mov carries events 001 and 002 as version 1, and version 3 is here: SH010_comp_v003.mov. ' +
      'Choose it if the cut is to show that.',
  ])
  expect(await newest()).toEqual([true, 'needs a look'])
  const [finding] = await ennick.call('listFindings', { params: { cutId } })
  expect(finding?.rivals.map(({ path, against }) => [path.split('/').at(-1), against])).toEqual([
    ['SH010_comp_v003.mov', null],
    ['SH010_comp_v002.mov', 'it lacks 20 frames at the tail of event 002'],
  ])
  expect((await ennick.call('readOrderOfWork', { params: { cutId } })).map(({ kind }) => kind)).toEqual([
    'newer version',
  ])
  expect(await names()).toEqual(['SH010_comp_v001.mov', 'SH010_comp_v001.mov', 'SH020_comp_v003.mov'])
})

test('chosen, it is what is handed off; taken back, the list is what it was', async () => {
  const mend = await choose('SH010_comp_v003.mov')
  expect([await findings(), await newest()]).toEqual([[], [true, 'passes']])
  const { folder } = await ennick.call('handOff', { params: { cutId }, body: {} })
  const edl = await readFile(join(folder, 'Mill, online.edl'), 'utf8')
  expect(edl.match(/SH0\d0_comp_v\d+/g)).not.toContain('SH010_comp_v001')
  expect(edl).toContain('SH010_comp_v003')
  await ennick.call('undoMend', { params: { mendId: mend.id } })
  expect(await names()).toEqual(['SH010_comp_v001.mov', 'SH010_comp_v001.mov', 'SH020_comp_v003.mov'])
  expect(await findings()).toHaveLength(1)
})

test('who lets a version stand is told of the next one, and of nothing before', async () => {
  const [finding] = await ennick.call('listFindings', { params: { cutId } })
  const decide = { findingKey: finding?.key ?? '', reason: 'the editor wants the first' }
  const told = await ennick.call('decide', { params: { cutId }, body: decide })
  expect(told.checks.find(({ id }) => id === 'newest')).toMatchObject({ result: 'decided' })
  await deliver(4)
  expect(await newest()).toEqual([true, 'needs a look'])
})

test('what was chosen is chosen in the next version of the list, and told of what came since', async () => {
  await choose('SH010_comp_v003.mov')
  const next = await ennick.call('addCut', {
    params: { productionId },
    body: { fileName: 'mill.edl', text: list(), nextOf: cutId },
  })
  cutId = next.id
  expect((await names()).slice(0, 2)).toEqual(['SH010_comp_v003.mov', 'SH010_comp_v003.mov'])
  expect((await findings())[0]).toMatch(/^SH010_comp_v003.mov carries .* and version 4 is here: SH010_comp_v004.mov/)
})
