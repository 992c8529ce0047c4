import { copyFile, mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let cardId: string
let bay: string
let bayId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('From the card')
  const card = join(ennick.media, 'card')
  bay = join(ennick.media, 'bay')
  for (const [seed, name] of ['A001C001', 'A001C002', 'A001C003'].entries())
    await makePicture(join(card, `${name}.mov`), { seed, timecode: `10:0${seed}:00:00` })
  await mkdir(bay)
  for (const name of ['A001C001', 'A001C002']) await copyFile(join(card, `${name}.mov`), join(bay, `${name}.mov`))
  bayId = await ennick.addVolume(productionId, 'BAY', bay)
  cardId = await ennick.addVolume(productionId, 'A001', card, 'card')
  for (const name of ['A001C001', 'A001C002']) await rm(join(bay, `${name}.mov`))
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  const text = `TITLE: From the card
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
002  A001 V C 10:01:00:10 10:01:01:10 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C002.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'card.edl', text } })).id
})
afterAll(() => ennick.stop())

const states = async () => (await ennick.call('readCut', { params: { cutId } })).events.map((event) => event.state)
const steps = async () => ennick.call('readOrderOfWork', { params: { cutId } })
const lost = async () => (await ennick.call('listLostHere', { params: { volumeId: cardId } })).map(({ name }) => name)
const offload = async (mendsLost: boolean, folder: string) => {
  const body = { destinationId: bayId, folder, hash: 'xxh64' as const, leave: [], mendsLost }
  return ennick.waitForJob((await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })).id)
}

test('what is lost and lies on a card that is here is a step of its own; saying so changes nothing', async () => {
  expect(await states()).toEqual(['original gone', 'original gone'])
  expect((await steps())[0]).toMatchObject({
    kind: 'from the card',
    volumeLabel: 'A001',
    blocking: 2,
    blockingAfter: 0,
  })
  expect(await lost()).toEqual(['A001C001', 'A001C002'])
})

test('an offload alone points at nothing; with the mend asked for, what was lost is on original', async () => {
  expect(await offload(false, 'aside')).toMatchObject({ state: 'done', error: null })
  expect(await states()).toEqual(['original gone', 'original gone'])
  const job = await offload(true, 'day 1/A001')
  expect(job).toMatchObject({ state: 'done', summary: expect.stringContaining('2 lost originals point at them') })
  expect(await states()).toEqual(['on original', 'on original'])
  expect(await lost()).toEqual([])
  const clip = (await ennick.clips(productionId)).find(({ name }) => name === 'A001C001.mov')
  expect(clip).toMatchObject({ path: 'day 1/A001/A001C001.mov', volumeLabel: 'BAY', presence: 'here' })
})

test('it is one mend, and taken back it leaves the copies where they are', async () => {
  const [mend] = await ennick.call('listMends', { params: { productionId } })
  expect(mend).toMatchObject({
    kind: 'repoint',
    title: 'Repoint 2 originals to their copies in day 1/A001',
    state: 'done',
  })
  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  expect(await states()).toEqual(['original gone', 'original gone'])
  expect(await lost()).toEqual(['A001C001', 'A001C002'])
  // A copy that changed since it was verified is not pointed at.
  await makePicture(join(bay, 'day 1/A001/A001C002.mov'), { seed: 7, timecode: '10:01:00:00' })
  const job = await offload(true, 'day 1/A001')
  expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining('A001C002.mov') })
  expect(await states()).toEqual(['original gone', 'original gone'])
})
