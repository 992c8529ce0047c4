import { rename } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
const shelf = (name: string) => join(ennick.media, 'shelves', name)
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Two shelves')
  const card = join(ennick.media, 'card')
  for (const number of [1, 2]) {
    await makePicture(join(card, `A00${number}.mov`), { seed: number, timecode: `10:0${number}:00:00` })
    // Nobody has seen it yet.
    await makePicture(shelf(`${number}/B00${number}.mov`), { seed: 4 + number, timecode: `11:0${number}:00:00` })
  }
  await ennick.addVolume(productionId, 'CARD', card)
  for (const number of [1, 2]) await rename(join(card, `A00${number}.mov`), shelf(`${number}/A00${number}.mov`))
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  const events = ['A001', 'A002', 'B001', 'B002'].map((name, index) => {
    const source = `${name.startsWith('A') ? 10 : 11}:0${name.at(-1)}:00`
    const spans = [source, `01:00:0${index}`].map((at) => `${at}:00 ${at}:20`)
    return `00${index + 1}  A001 V C ${spans.join(' ')}\n* FROM CLIP NAME: ${name}.mov\n`
  })
  const body = { fileName: 'shelves.edl', text: `TITLE: Shelves\n${events.join('')}` }
  cutId = (await ennick.call('addCut', { params: { productionId }, body })).id
})
afterAll(() => ennick.stop())

const repoint = async (...labels: string[]) => {
  const job = await ennick.call('search', {
    params: { cutId },
    body: { folder: join(ennick.media, 'shelves'), findingKeys: null },
  })
  await ennick.waitForJob(job.id)
  const { rows } = await ennick.call('readSearch', { params: { jobId: job.id } })
  const choices = rows
    .filter(({ label }) => labels.includes(label))
    .map(({ wantedId, candidateId }) => ({ wantedId, candidateId }))
  expect(choices).toHaveLength(labels.length)
  return ennick.call('repoint', { params: { cutId }, body: { searchJobId: job.id, choices } })
}
const volumes = () => ennick.query<{ root_path: string }>('select id, root_path from volumes order by root_path')
const undo = (mendId: string) => ennick.call('undoMend', { params: { mendId } })

test('every volume that a mend brought in and another found its files on goes with that other', async () => {
  const before = await volumes()
  const pickups = await repoint('B001.mov', 'B002.mov')
  const lost = await repoint('A001.mov', 'A002.mov')
  expect(await volumes()).toHaveLength(before.length + 2)
  await undo(pickups.id)
  expect(await volumes()).toHaveLength(before.length + 2)
  await undo(lost.id)
  expect(await volumes()).toEqual(before)
})
