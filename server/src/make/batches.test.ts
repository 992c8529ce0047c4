import { mkdir, rm, stat, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
const ids = new Map<string, string>()
const recipeId = 'half-h264-intra'

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Batches')
  const card = join(ennick.media, 'card')
  for (const [index, name] of ['B1', 'B2', 'B3', 'B4'].entries())
    await makePicture(join(card, `${name}.mov`), { frames: 10, seed: index, timecode: `1${index}:00:00:00` })
  await makeSound(join(card, 'T1.wav'), 48_000, 0)
  await ennick.addVolume(productionId, 'A001', card, 'drive')
  for (const { id, name } of await ennick.clips(productionId)) ids.set(name, id)
  // B4 is of another day.
  for (const [day, names] of [
    ['2026-05-04', ['B1', 'B2', 'B3']],
    ['2026-05-05', ['B4']],
  ] as const)
    await ennick.call('editClips', {
      params: { productionId },
      body: {
        action: { kind: 'set', clipIds: names.map((name) => idOf(`${name}.mov`)), field: 'day', value: day },
        apply: true,
      },
    })
})
afterAll(() => ennick.stop())

const idOf = (name: string) => ids.get(name) ?? ''
const batches = () => ennick.call('listBatches', { params: { productionId } })
const order = (names: readonly string[]) => ({ params: { productionId }, body: { clipIds: names.map(idOf), recipeId } })

test('a batch tells what became of all that was asked for, and what of its day was not', async () => {
  expect(await batches()).toEqual([])
  // Somebody’s file lies where the second proxy belongs.
  const plan = async (...names: string[]) => (await ennick.call('planMake', order(names))).items
  const plans = [await plan('B3.mov'), await plan('B1.mov', 'B2.mov')] as const
  const inTheWay = join((await ennick.madePlace(productionId)).path, plans[1][1]?.outputs[0] ?? '')
  await mkdir(dirname(inTheWay), { recursive: true })
  await writeFile(inTheWay, 'somebody’s')
  const { jobs } = await ennick.call('make', order(['B1.mov', 'B2.mov', 'T1.wav']))
  expect((await batches())[0]?.counts).toMatchObject({ asked: 3, skipped: 1 })
  for (const { id } of jobs) await ennick.waitForJob(id)
  const [batch] = await batches()
  expect(batch).toMatchObject({
    ...{ recipes: ['Half size, H.264 intra'], clips: 3 },
    counts: { asked: 3, made: 1, failed: 1, stopped: 0, skipped: 1, toCome: 0, waits: 0 },
    failed: [{ title: 'B2 → Half size, H.264 intra', reason: expect.stringContaining('already there') }],
    skipped: [{ name: 'T1', reason: expect.stringContaining('sound alone') }],
    leftOut: { days: ['2026-05-04'], total: 1, names: ['B3'] },
  })
  expect(batch?.seconds).toBeGreaterThanOrEqual(0)
  // Tried again and made, it is told so; nothing of the day is left out when the rest is made too.
  await rm(inTheWay)
  await ennick.call('retryJob', { params: { jobId: batch?.failed[0]?.jobId ?? '' }, body: {} })
  await ennick.waitForJob(batch?.failed[0]?.jobId ?? '')
  const { jobs: more } = await ennick.call('make', order(['B3.mov']))
  await ennick.waitForJob(more[0]?.id ?? '')
  const [second, first] = await batches()
  expect(first).toMatchObject({ counts: { asked: 3, made: 2, failed: 0, skipped: 1 }, leftOut: { total: 0 } })
  expect(second).toMatchObject({ counts: { asked: 1, made: 1 }, failed: [], skipped: [] })
  // What it weighs is what lies on the disk, held against what the plan said of just that.
  const place = (await ennick.madePlace(productionId)).path
  for (const [index, each] of [second, first].entries()) {
    const planned = plans[index] ?? []
    const sizes = await Promise.all(planned.flatMap(({ outputs }) => outputs.map((path) => stat(join(place, path)))))
    const weighs = sizes.reduce((sum, { size }) => sum + size, 0)
    expect(each?.size).toMatchObject({ madeBytes: weighs, expectedBytes: weighs })
    expect(each?.size?.plannedBytes).toBe(planned.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0))
  }
})

test('where nothing goes on the queue there is no batch', async () => {
  await ennick.call('make', order(['T1.wav'])).catch(() => undefined)
  expect(await batches()).toHaveLength(2)
})

test('a list of what the receiving room has says what of a batch was taken in, and what otherwise or not', async () => {
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds: ['B1.mov', 'B2.mov', 'B3.mov', 'B4.mov'].map(idOf), recipeId: 'vc3-lb-op-atom' },
  })
  for (const { id } of jobs) await ennick.waitForJob(id)
  const [{ id: batchId } = { id: '' }] = await batches()
  const room = [
    ...[
      'Name,Start,Duration,Tracks',
      'B1,10:00:00:00,10,VA1A2',
      'B2,11:00:00:00,10,VA1',
      'MUSIC,00:00:00:00,5:00,A1A2',
    ],
    'B3,12:00:00:05,10,VA1A2',
  ]
  const read = (text: string, fileName = 'room.csv') =>
    ennick.call('readTakenIn', {
      params: { batchId },
      body: { fileName, content: Buffer.from(text).toString('base64') },
    })
  await read(room.join('\n'))
  const takenIn = async () => (await batches()).find(({ id }) => id === batchId)?.takenIn
  expect(await takenIn()).toMatchObject({
    ...{ fileName: 'room.csv', of: 4, seen: 1, others: 1, missing: ['B4'], missingTotal: 1, differingTotal: 2 },
    differing: [
      { name: 'B2', line: 3, why: 'has 1 track of sound instead of 2 tracks of sound' },
      { name: 'B3', line: 5, why: 'starts at 12:00:00:05 instead of 12:00:00:00' },
    ],
  })
  // The next list takes its place; one that is none takes nobody's.
  await expect(read('nothing in it')).rejects.toThrow(/names nothing/)
  await read('Name\nB1\nB2\nB3\nB4', 'later.csv')
  expect(await takenIn()).toMatchObject({ fileName: 'later.csv', of: 4, seen: 4, missing: [], differing: [] })
  // A room without such lists lays its clips out as a sequence: that names them too, whatever else is in it.
  const laidOut = ['B1', 'B2_proxy.mov', 'MUSIC'].map((name, index) => {
    const times = `10:00:00:00 10:00:00:10 01:00:0${index}:00 01:00:0${index}:10`
    return `00${index + 1}  AX  V  C  ${times}\n* FROM CLIP NAME: ${name}\n`
  })
  await read(`TITLE: What is here\n${laidOut.join('')}`, 'room.edl')
  expect(await takenIn()).toMatchObject({
    ...{ fileName: 'room.edl', of: 4, seen: 2, others: 1, missing: ['B3', 'B4'], differing: [] },
  })
  await expect(read('nothing in it', 'none.otio')).rejects.toThrow(/none.otio was not read/)
  await ennick.call('forgetTakenIn', { params: { batchId } })
  expect(await takenIn()).toBeNull()
})

test('what was planned of a recipe is not held against what its next version makes', async () => {
  const half = (await ennick.call('listRecipes', {})).find(({ id }) => id === recipeId)
  const draft = { ...half, name: 'Weighed', suffix: '_weighed' }
  const { id } = await ennick.call('addRecipe', { body: draft })
  const failed = async (name: string) => {
    const asked = { params: { productionId }, body: { clipIds: [idOf(name)], recipeId: id } }
    const [planned] = (await ennick.call('planMake', asked)).items
    const inTheWay = join((await ennick.madePlace(productionId)).path, planned?.outputs[0] ?? '')
    await mkdir(dirname(inTheWay), { recursive: true })
    await writeFile(inTheWay, 'somebody’s')
    const jobId = (await ennick.call('make', asked)).jobs[0]?.id ?? ''
    expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'failed' })
    await rm(inTheWay)
    return { jobId, plannedBytes: planned?.bytes }
  }
  const sizeAfterRetry = async (jobId: string) => {
    await ennick.call('retryJob', { params: { jobId }, body: { recipe: 'newest' } })
    expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'done' })
    return (await batches())[0]?.size
  }
  const { jobId, plannedBytes } = await failed('B1.mov')
  expect(await sizeAfterRetry(jobId)).toMatchObject({ plannedBytes })
  const other = await failed('B2.mov')
  await ennick.call('changeRecipe', { params: { recipeId: id }, body: { ...draft, size: { kind: 'divided', by: 4 } } })
  expect(await sizeAfterRetry(other.jobId)).toBeNull()
})
