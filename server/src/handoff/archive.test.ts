import { mkdir, readdir, readFile, rename } from 'node:fs/promises'
import { join } from 'node:path'
import { parseDelimited } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let shelf: string
const list = `TITLE: Mill
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
`
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Done')
  const card = join(ennick.media, 'card')
  shelf = join(ennick.media, 'shelf')
  await mkdir(shelf)
  await makePicture(join(card, 'A001C001.mov'), { seed: 1 })
  await makePicture(join(card, 'A001C002.mov'), { seed: 2, timecode: '11:00:00:00' })
  await makeSound(join(ennick.media, 'mixer', 'T1.wav'), 48_000, 10 * 3600 * 48_000)
  await ennick.addVolume(productionId, 'A001', card)
  await ennick.addVolume(productionId, 'MIXER', join(ennick.media, 'mixer'))
  const clips = await ennick.clips(productionId)
  const clipIds = clips.filter(({ path }) => path === 'A001C001.mov').map(({ id }) => id)
  const made = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId: 'half-h264-intra' } })
  await ennick.waitForJob(made.jobs[0]?.id ?? '')
  for (const fileName of ['mill.edl', 'mill.edl'])
    await ennick.call('addCut', { params: { productionId }, body: { fileName, text: list } })
})
afterAll(() => ennick.stop())

const archive = async (name: string) => {
  const body = { folder: shelf, name }
  const job = await ennick.waitForJob((await ennick.call('archive', { params: { productionId }, body })).id)
  const [newest] = await ennick.call('listArchives', { params: { productionId } })
  expect(newest?.job.id).toBe(job.id)
  return { job, outcome: newest?.outcome }
}

test('every original is in it, and a production can begin again with what it holds', async () => {
  const planned = await ennick.call('planArchive', { params: { productionId }, body: { folder: shelf, name: 'Whole' } })
  expect(planned).toMatchObject({ clips: 3, files: 3, outstanding: [], blocked: null })
  const { job, outcome } = await archive('Whole')
  expect([job.state, outcome?.copied, outcome?.outstandingCount]).toEqual(['done', 3, 0])
  // Two cuts of one event each.
  expect(outcome?.events).toEqual({ of: 2, covered: 2, short: 0, damaged: 0 })
  const folder = join(shelf, 'Whole')
  expect((await readdir(join(folder, 'A001'))).sort()).toEqual(['A001C001.mov', 'A001C002.mov'])
  const along = join(folder, outcome?.lists ?? '')
  expect((await readdir(along)).sort()).toEqual([
    ...['cut 1, version 1, mill.edl', 'cut 2, version 1, mill.edl', 'history.csv', 'ledger.csv', 'log.csv'],
    ...['production.json', 'recipes.json', 'what is in it.csv'],
  ])
  expect(await readFile(join(along, 'cut 2, version 1, mill.edl'), 'utf8')).toBe(list)
  const ledger = parseDelimited(await readFile(join(along, 'ledger.csv'), 'utf8'))
  expect(ledger.rows.map(({ cells }) => cells.slice(0, 3))).toEqual([
    ['A001C001', 'A001', 'A001/A001C001.mov'],
    ['A001C002', 'A001', 'A001/A001C002.mov'],
    ['T1', '', 'MIXER/T1.wav'],
  ])
  expect(ledger.rows[0]?.cells.slice(5, 8)).toEqual(['proxy', 'half-h264-intra', '1'])
  const recipes = JSON.parse(await readFile(join(along, 'recipes.json'), 'utf8'))
  expect(recipes.map(({ id }: { id: string }) => id)).toEqual(['half-h264-intra'])
  expect(await readFile(join(along, 'history.csv'), 'utf8')).toMatch(/Read “Mill” from mill.edl/)
  expect(await readFile(join(along, 'log.csv'), 'utf8')).toMatch(/A001C002/)

  const back = await ennick.addProduction('Back')
  for (const label of ['A001', 'MIXER']) await ennick.addVolume(back, label, join(folder, label))
  const body = { fileName: 'mill.edl', text: await readFile(join(along, 'cut 1, version 1, mill.edl'), 'utf8') }
  const cut = await ennick.call('addCut', { params: { productionId: back }, body })
  const { events } = await ennick.call('readCut', { params: { cutId: cut.id } })
  expect(events.map(({ state }) => state)).toEqual(['on original'])
})

test('an original that is not where it was, or an event of no original, keeps an archive from being whole', async () => {
  const path = join(ennick.media, 'card', 'A001C002.mov')
  await rename(path, join(ennick.media, 'A001C002.mov'))
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  const text = `${list}002  B001 V C 10:00:00:00 10:00:01:00 01:00:01:00 01:00:02:00\n* FROM CLIP NAME: B001C001.mov\n`
  await ennick.call('addCut', { params: { productionId }, body: { fileName: 'open.edl', text } })
  const { job, outcome } = await archive('Part')
  expect(job.summary).toMatch(/2 outstanding · 3 of 4 events covered/)
  expect(outcome?.outstanding).toEqual([
    { name: 'A001C002', reason: 'A001C002.mov is not on “A001” any more: mend it.' },
    { name: 'B001C001.mov', reason: 'It is on no original yet, in event 002 of “Mill”: mend it.' },
  ])
  // What another file has taken the place of is not what it was when the archive comes back.
  await makePicture(join(ennick.media, 'card', 'A001C001.mov'), { seed: 3 })
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
  const changed = await archive('Changed')
  expect(changed.job.summary).toMatch(/3 outstanding · 0 of 4 events covered/)
  // What it lacks is said before it comes back, and after.
  const plan = await ennick.call('planRestore', { body: { folder: join(shelf, 'Changed') } })
  expect(plan).toMatchObject({ lacks: changed.outcome?.outstanding, lacksCount: 3 })
  expect(changed.outcome?.outstanding[0]).toMatchObject({
    name: 'A001C001',
    reason: expect.stringMatching(/else than/),
  })
})

test('what an archive lacks is not what else is called so when it comes back', async () => {
  const id = await ennick.addProduction('Two of a name')
  const params = { productionId: id }
  const folders = ['one', 'other'].map((name) => join(ennick.media, name))
  for (const [index, folder] of folders.entries()) {
    await makePicture(join(folder, 'A001C001.mov'), { seed: 10 + index })
    await ennick.addVolume(id, index ? 'OTHER' : 'ONE', folder, 'drive')
  }
  const text = `${list}002  A001 V C 10:00:00:10 10:00:01:10 01:00:01:00 01:00:02:00\n* FROM CLIP NAME: A001C001.mov\n`
  const { id: cutId } = await ennick.call('addCut', { params, body: { fileName: 'two.edl', text } })
  const one = (await ennick.clips(id)).find(({ volumeLabel }) => volumeLabel === 'ONE')
  const choices = [{ positions: [0], clipId: one?.id ?? '' }]
  await ennick.call('chooseClips', { params: { cutId }, body: { choices } })
  await rename(folders[0] as string, join(ennick.media, 'lent'))
  while ((await ennick.volume(id, 'ONE'))?.isHere) await new Promise((done) => setTimeout(done, 50))
  const job = await ennick.call('archive', { params, body: { folder: shelf, name: 'Two' } })
  expect((await ennick.waitForJob(job.id)).summary).toMatch(/0 of 2 events covered/)

  const body = { folder: join(shelf, 'Two'), name: 'Two again', verifies: false }
  const made = await ennick.call('restore', { body })
  await ennick.waitForJob(made.job.id)
  const back = { params: { productionId: made.productionId } }
  expect((await ennick.call('readRestore', back))?.outcome?.cuts).toMatchObject([{ events: 2, onOriginal: 0 }])
  const [cut] = await ennick.call('listCuts', back)
  const there = { params: { cutId: cut?.id ?? '' } }
  const told = async () => (await ennick.call('listFindings', there)).map(({ kind, events }) => [kind, events])
  expect(await told()).toEqual([
    ['another original', [0]],
    ['another original', [1]],
  ])
  // A next version of it lacks the same.
  const next = await ennick.call('addCut', { ...back, body: { fileName: 'two.edl', text, nextOf: cut?.id ?? '' } })
  const states = async () =>
    (await ennick.call('readCut', { params: { cutId: next.id } })).events.map(({ state }) => state)
  expect(await states()).toEqual(['unresolved', 'unresolved'])
  // The one that was chosen lands when it comes back; which is meant by the other nobody has said.
  await ennick.addVolume(made.productionId, 'ONE', join(ennick.media, 'lent'), 'drive')
  expect(await states()).toEqual(['on original', 'unresolved'])
  expect(await told()).toEqual([
    ['ambiguous', [1]],
    ['equal names', [0]],
  ])
})
