import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { Volume } from '@ennick/contract'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { ask } from '../disk/answering.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { askHost } from '../testing/host.ts'
import type { Performers } from './perform.ts'
import { Worker } from './worker.ts'

/** A worker whose scans wait without an end, as for a share that hangs, and hear nothing of being stopped. */
let ennick: Harness
let worker: Worker
let productionId: string
const volumes: Volume[] = []
const scanned: string[] = []
let silentCheck: string | null = null
let mayEnd = false
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false, patienceSeconds: 4 })
  productionId = await ennick.addProduction('Hanging')
  for (const label of ['FIRST', 'SECOND', 'SHARE']) {
    const rootPath = join(ennick.media, label)
    await mkdir(rootPath)
    const body = { label, kind: 'share' as const, rootPath, notes: '', isWatched: false }
    volumes.push(await ennick.call('addVolume', { params: { productionId }, body }))
  }
  const scan: Performers['scan'] = ({ job }) => {
    scanned.push(job.id)
    return new Promise(() => undefined)
  }
  // A check names no volume. The first one says nothing more; the second says how far it is until it may end.
  const check: Performers['check'] = async ({ job }, meter) => {
    scanned.push(job.id)
    if (silentCheck === null) silentCheck = job.id
    if (silentCheck === job.id) return new Promise(() => undefined)
    for (let done = 0; !mayEnd; done++) {
      meter.report(done, 1000, 'files')
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    return { kind: 'check', pairs: 0, changedFiles: 0 }
  }
  // What works with a folder that somebody named says nothing either.
  const collect: Performers['collect'] = ({ job }) => {
    scanned.push(job.id)
    return new Promise(() => undefined)
  }
  worker = new Worker(ennick.config, {
    performers: { scan, check, collect } as unknown as Performers,
    putInOrder: async () => undefined,
  })
  await worker.start(() => undefined)
})
afterAll(async () => {
  await askHost({ kind: 'hang', below: null })
  await worker.stop()
  await ennick.stop()
})

const scan = async (index: number): Promise<string> =>
  (await ennick.call('scanVolume', { params: { volumeId: volumes[index]?.id as string } })).id
const untilScanned = async (id: string): Promise<void> => {
  while (!scanned.includes(id)) await new Promise((resolve) => setTimeout(resolve, 50))
}

test('one that is stopped ends, and gives its place to the next, though it never hears of it', async () => {
  const ids = [await scan(0), await scan(1)]
  for (const id of ids) await untilScanned(id)
  const third = await scan(2)
  for (const id of ids) await ennick.call('cancelJob', { params: { jobId: id } })
  for (const id of ids) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'cancelled', error: null })
  await untilScanned(third)

  // The third works with a share that turns out to say nothing: it waits for that, and no longer for an answer.
  await askHost({ kind: 'hang', below: join(ennick.media, 'SHARE') })
  const ended = await ennick.waitForJob(third)
  expect(ended).toMatchObject({
    state: 'failed',
    error: expect.stringContaining('Volume “SHARE” does not answer: its share or disk hangs.'),
  })
  const [row] = await ennick.query('select waits_for_volume from jobs where id = $1', [third])
  expect(row).toEqual({ waits_for_volume: volumes[2]?.id })

  // What names no volume is taken to wait for the share when nothing is heard of it; what goes on goes on.
  const check = async (): Promise<string> => (await ennick.call('check', { params: { productionId }, body: {} })).id
  const silent = await check()
  await untilScanned(silent)
  const lively = await check()
  await untilScanned(lively)
  expect((await ennick.waitForJob(silent)).error).toContain('Volume “SHARE” does not answer')
  expect((await ennick.call('readJob', { params: { jobId: lively } })).state).toBe('running')
  mayEnd = true
  expect((await ennick.waitForJob(lively)).state).toBe('done')
})

test('one that was given a folder ends when that says nothing, and not because it takes long', async () => {
  // The share answers again, and what waited for it is called off.
  for (const { id, goesOnByItself } of await ennick.call('listJobs', { params: { productionId } }))
    if (goesOnByItself) await ennick.call('cancelJob', { params: { jobId: id } })
  await askHost({ kind: 'hang', below: null })
  while (!(await ennick.volume(productionId, 'SHARE'))?.isAnswering)
    await new Promise((resolve) => setTimeout(resolve, 50))
  const collect = async (name: string): Promise<string> => {
    const folder = join(ennick.media, name)
    await mkdir(folder)
    const body = { folder, cutId: null }
    const { id } = await ennick.call('checkCollection', { params: { productionId }, body })
    await untilScanned(id)
    return id
  }
  const [slow, silent] = [await collect('slow'), await collect('silent')]
  // Nobody gets an answer of it, this worker neither.
  const folder = join(ennick.media, 'silent')
  void ask(folder, () => new Promise(() => undefined)).catch(() => undefined)
  expect(await ennick.waitForJob(silent)).toMatchObject({
    ...{ state: 'failed', goesOnByItself: false },
    error: `The folder ${folder} does not answer: its share or disk hangs. What was done is kept; retry when that answers again.`,
  })
  expect((await ennick.call('readJob', { params: { jobId: slow } })).state).toBe('running')
  await ennick.call('cancelJob', { params: { jobId: slow } })
  expect((await ennick.waitForJob(slow)).state).toBe('cancelled')
})
