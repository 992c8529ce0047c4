import { mkdir, readdir, rename } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { dropUnfinished } from '../placements/unfinished-files.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let card: string
let made: string
let worker: { stop(): Promise<void> }
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  worker = await ennick.startWorker()
  productionId = await ennick.addProduction('Night')
  card = join(ennick.media, 'card')
  for (const [seed, name] of ['one', 'two'].entries())
    await makePicture(join(card, `${name}.mov`), { frames: 10, channels: 0, seed })
  await ennick.addVolume(productionId, 'CARD', card)
  made = (await ennick.madePlace(productionId)).path
  await mkdir(join(ennick.media, 'bag'))
})
afterAll(async () => {
  await worker.stop()
  await ennick.stop()
})

const read = (jobId: string) => ennick.call('readJob', { params: { jobId } })
async function until(jobId: string, isSo: (job: Awaited<ReturnType<typeof read>>) => boolean) {
  for (;;) {
    const job = await read(jobId)
    if (isSo(job)) return job
    await new Promise((done) => setTimeout(done, 50))
  }
}

test.each([
  ['the card of the original', 'one.mov', () => card, /^“CARD” is away: .* It is made by itself when/],
  ['the place of what is made', 'two.mov', () => made, /^“Made by Ennick” is away: .* It is made by itself when/],
] as const)(
  'what is to be made waits while %s is away, and is made when that is back',
  async (_, name, place, told) => {
    await worker.stop()
    const clip = (await ennick.clips(productionId)).find((each) => each.name === name)
    const { jobs } = await ennick.call('make', {
      ...{ params: { productionId }, body: { clipIds: [clip?.id], recipeId: 'half-h264-intra' } },
    })
    const jobId = jobs[0]?.id as string
    const bag = join(ennick.media, 'bag', name)
    await rename(place(), bag)
    worker = await ennick.startWorker()
    const waiting = await until(jobId, ({ state }) => state === 'failed')
    expect(waiting).toMatchObject({ goesOnByItself: true, error: expect.stringMatching(told) })
    const [batch] = await ennick.call('listBatches', { params: { productionId } })
    expect(batch).toMatchObject({
      ...{ counts: { asked: 1, failed: 0, waits: 1, toCome: 0 }, seconds: null, failed: [] },
      waiting: [{ reason: expect.stringMatching(told) }],
    })
    expect(await readdir(dirname(place()))).not.toContain(name)
    await rename(bag, place())
    expect(
      await until(jobId, ({ state }) => state !== 'failed' && state !== 'waiting' && state !== 'running'),
    ).toMatchObject({ state: 'done' })
  },
)

test('a batch that is to stop at a failure does not stop at what waits', async () => {
  await worker.stop()
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const { jobs } = await ennick.call('make', {
    ...{ params: { productionId }, body: { clipIds, recipeId: 'review-h264', holdsAtFailure: true } },
  })
  const bag = join(ennick.media, 'bag/card')
  await rename(card, bag)
  worker = await ennick.startWorker({ makesAtOnce: 1 })
  const ids = jobs.map(({ id }) => id)
  const [first] = await Promise.race(ids.map((id) => until(id, ({ state }) => state === 'failed').then((job) => [job])))
  expect(first).toMatchObject({ goesOnByItself: true })
  for (const id of ids) expect(await read(id)).toMatchObject({ isHeld: false })
  await rename(bag, card)
  for (const id of ids) expect(await until(id, ({ state }) => state === 'done')).toMatchObject({ state: 'done' })
})

test('what is to be joined waits while its place is away', async () => {
  const batches = await ennick.call('listBatches', { params: { productionId } })
  const batchId = batches.find(({ counts }) => counts.asked === 2)?.id ?? ''
  await worker.stop()
  const { id } = await ennick.call('joinBatch', {
    ...{ params: { batchId }, body: { recipeId: 'review-h264', name: 'Night' } },
  })
  const bag = join(ennick.media, 'bag/made')
  await rename(made, bag)
  worker = await ennick.startWorker()
  expect(await until(id, ({ state }) => state === 'failed')).toMatchObject({
    ...{ goesOnByItself: true, error: expect.stringMatching(/“Made by Ennick” is away: .* They are joined by them/) },
  })
  await rename(bag, made)
  await until(id, ({ state }) => state === 'done')
  expect(await readdir(join(made, 'joined'))).toEqual(['Night.mp4'])
})

test('what cannot be removed, as its disk has gone, keeps nothing else from being put in order', async () => {
  // Below a file nothing can be removed, and the system says so.
  await expect(dropUnfinished(join(card, 'one.mov/part'), join(card, 'none'))).resolves.toBeUndefined()
})
