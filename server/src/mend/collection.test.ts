import { copyFile, mkdir, readdir, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let card: string
let box: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Collections')
  card = join(ennick.media, 'card')
  box = join(ennick.media, 'box')
  for (const number of [1, 2, 3, 4])
    await makePicture(join(card, `A001C00${number}.mov`), { seed: number, timecode: `10:0${number}:00:00`, frames: 30 })
  await ennick.addVolume(productionId, 'A001', card)
  const lines = [1, 2, 3, 5].map((number) => {
    const name = number === 5 ? 'nobody.mov' : `A001C00${number}.mov`
    const times = `10:0${number}:00:00 10:0${number}:01:00 01:00:0${number}:00 01:00:0${number + 1}:00`
    return `00${number}  A001 V C ${times}\n* FROM CLIP NAME: ${name}\n`
  })
  const text = `TITLE: Box\n${lines.join('')}`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'box.edl', text } })).id
  await mkdir(join(box, 'day 1'), { recursive: true })
  await copyFile(join(card, 'A001C001.mov'), join(box, 'day 1/A001C001.mov'))
  await copyFile(join(card, 'A001C002.mov'), join(box, 'renamed.mov'))
  await makePicture(join(box, 'A001C003.mov'), { seed: 9, timecode: '10:03:00:00', frames: 20 })
  await writeFile(join(box, 'notes.txt'), 'not a medium')
  await copyFile(join(card, 'A001C004.mov'), join(box, 'A001C004.mov'))
})
afterAll(() => ennick.stop())

const check = async (of: string | null) => {
  const job = await ennick.call('checkCollection', { params: { productionId }, body: { folder: box, cutId: of } })
  expect((await ennick.waitForJob(job.id)).state).toBe('done')
  return ennick.call('readCollection', { params: { jobId: job.id } })
}

test('a folder is compared with what a cut needs, by content, then by name; what is extra is told', async () => {
  const before = await readdir(box, { recursive: true })
  const result = await check(cutId)
  expect(result.needed.map(({ name, outcome, path }) => [name, outcome, path])).toEqual([
    ['A001C001.mov', 'there', 'day 1/A001C001.mov'],
    ['A001C002.mov', 'there', 'renamed.mov'],
    ['A001C003.mov', 'another', 'A001C003.mov'],
  ])
  expect(result).toMatchObject({ looked: 4, extraCount: 1, unknown: 1, stills: 0, unreadable: [] })
  expect(result.extra.map(({ path }) => path)).toEqual(['A001C004.mov'])
  expect(await readdir(box, { recursive: true })).toEqual(before)
  expect(
    await ennick.query('select label from volumes where production_id = $1 and kind <> $2', [productionId, 'made']),
  ).toHaveLength(1)
})

test('all of the production is asked for too; a folder that is gone, and a cut of another, are told', async () => {
  const result = await check(null)
  expect(result.needed.map(({ outcome }) => outcome)).toEqual(['there', 'there', 'another', 'there'])
  expect(result.extraCount).toBe(0)
  // The one in the box is the original still, when another was written over the card's.
  await makePicture(join(card, 'A001C001.mov'), { seed: 77, timecode: '10:01:00:00', frames: 33 })
  await ennick.scan((await ennick.volume(productionId, 'A001'))?.id ?? '')
  expect((await check(cutId)).needed[0]).toMatchObject({ name: 'A001C001.mov', outcome: 'there' })
  const other = await ennick.addProduction('Other')
  await expect(
    ennick.call('checkCollection', { params: { productionId: other }, body: { folder: box, cutId } }),
  ).rejects.toMatchObject({ status: 404 })
  await rm(box, { recursive: true })
  await expect(check(null)).rejects.toThrow()
})
