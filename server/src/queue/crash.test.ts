import type { ChildProcess } from 'node:child_process'
import { once } from 'node:events'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { madeFolder } from '../config.ts'
import { markerName } from '../disk/marker.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { kill, spawnPart } from '../testing/spawned.ts'

let ennick: Harness
const workers: ChildProcess[] = []
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
})
afterAll(async () => {
  for (const worker of workers) await kill(worker)
  await ennick.stop()
})

function startWorker(): ChildProcess {
  const worker = spawnPart(ennick, 'worker')
  workers.push(worker)
  return worker
}

const pause = () => new Promise((resolve) => setTimeout(resolve, 50))
const files = async () =>
  (await readdir(madeFolder(ennick.config.dataFolder), { recursive: true, withFileTypes: true }))
    .filter((entry) => entry.isFile() && entry.name !== markerName)
    .map((entry) => entry.name)

test('a worker killed in the middle of a job: another takes it, it is done once, and no debris is left', async () => {
  const folder = join(ennick.media, 'card')
  await makePicture(join(folder, 'long.mov'), { size: '640x360', frames: 250, channels: 1 })
  await makePicture(join(folder, 'small.mov'), { frames: 20, seed: 2 })
  const productionId = await ennick.addProduction('Crash')
  const first = startWorker()
  await ennick.addVolume(productionId, 'card', folder)
  const clipIds = (await ennick.clips(productionId)).map((clip) => clip.id)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  const long = jobs.find((job) => job.title.startsWith('long'))?.id as string
  await ennick.untilWriting('long')
  const working = () => ennick.call('listWorkers', {})
  expect(await working()).toEqual([
    expect.objectContaining({ state: 'here', jobs: expect.arrayContaining([expect.objectContaining({ id: long })]) }),
  ])
  first.kill('SIGKILL')
  while ((await working())[0]?.state !== 'lost') await pause()
  startWorker()
  const ended = await Promise.all(jobs.map((job) => ennick.waitForJob(job.id)))
  expect(ended.map((job) => job.state)).toEqual(['done', 'done'])
  expect((await ennick.call('readJob', { params: { jobId: long } })).attempts).toBe(2)
  expect((await files()).sort()).toEqual(['long_proxy.mov', 'small_proxy.mov'])
  // What the dead one had in hand for a moment is gone too, and every folder left is a living process's.
  const scratch = await readdir(join(ennick.config.dataFolder, 'scratch'))
  expect(scratch.map((name) => Number(name.split('.')[1])).sort()).toEqual(
    [ennick.processId, workers.at(-1)?.pid].sort(),
  )
  const ledger = await ennick.call('listPairs', { params: { productionId } })
  expect(ledger.map((row) => row.pairs.map((pair) => pair.verdict))).toEqual([['proven'], ['proven']])
})

test('two workers share a batch and do nothing twice', async () => {
  const folder = join(ennick.media, 'batch')
  for (let number = 1; number <= 6; number++)
    await makePicture(join(folder, `B${number}.mov`), { frames: 25, seed: number })
  const productionId = await ennick.addProduction('Batch')
  startWorker()
  while ((await ennick.call('listWorkers', {})).filter((worker) => worker.state === 'here').length < 2) await pause()
  await ennick.addVolume(productionId, 'batch', folder)
  const clipIds = (await ennick.clips(productionId)).map((clip) => clip.id)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  const ended = await Promise.all(jobs.map((job) => ennick.waitForJob(job.id)))
  expect(ended.every((job) => job.state === 'done' && job.attempts === 1)).toBe(true)
  const rows = await ennick.query(
    'select p.id from pairs p join clips c on c.id = p.clip_id where c.production_id = $1',
    [productionId],
  )
  expect(rows).toHaveLength(6)
  // Both had a hand in it.
  expect(
    await ennick.query('select distinct worker_id from jobs where production_id = $1 and worker_id is not null', [
      productionId,
    ]),
  ).toHaveLength(2)
})

describe('a worker that stands still', () => {
  const state = async (jobId: string) => (await ennick.call('readJob', { params: { jobId } })).state
  const orderOne = async (name: string) => {
    const folder = join(ennick.media, name)
    await makePicture(join(folder, `${name}.mov`), { size: '640x360', frames: 100, channels: 0, seed: name.length })
    const productionId = await ennick.addProduction(name)
    const scanning = startWorker()
    await ennick.addVolume(productionId, name, folder)
    await kill(scanning)
    const clipIds = (await ennick.clips(productionId)).map((clip) => clip.id)
    const { jobs } = await ennick.call('make', {
      params: { productionId },
      body: { clipIds, recipeId: 'half-h264-intra' },
    })
    return { productionId, jobId: jobs[0]?.id as string }
  }

  test('loses its jobs after a time, does no harm when it wakes, and ends', async () => {
    for (const worker of workers) await kill(worker)
    const { productionId, jobId } = await orderOne('frozen')
    const frozen = spawnPart(ennick, 'worker')
    workers.push(frozen)
    await ennick.untilWriting('frozen')
    frozen.kill('SIGSTOP')
    const other = spawnPart(ennick, 'worker', { environment: { ENNICK_LEASE_SECONDS: '3' } })
    workers.push(other)
    expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'done', attempts: 2 })
    const before = await ennick.query('select * from jobs where id = $1', [jobId])
    const ended = once(frozen, 'exit')
    frozen.kill('SIGCONT')
    await ended
    expect(await ennick.query('select * from jobs where id = $1', [jobId])).toEqual(before)
    expect((await files()).filter((name) => name.includes('frozen'))).toEqual(['frozen_proxy.mov'])
    expect(
      (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) =>
        row.pairs.map((pair) => pair.verdict),
      ),
    ).toEqual(['proven'])
  })

  test('whose attempt is over writes nothing of it: not its progress, its failure nor its end', async () => {
    for (const worker of workers) await kill(worker)
    const { jobId } = await orderOne('superseded')
    const worker = spawnPart(ennick, 'worker')
    workers.push(worker)
    await ennick.untilWriting('superseded')
    // As if another attempt had taken it up and ended it meanwhile.
    await ennick.query(
      `update jobs set attempts = attempts + 1, state = 'done', summary = 'by the other', progress = null where id = $1`,
      [jobId],
    )
    while ((await ennick.unfinished()).some((path) => path.includes('superseded'))) await pause()
    while ((await ennick.query('select 1 from graphile_worker._private_jobs where key = $1', [jobId])).length)
      await pause()
    expect((await ennick.query('select state, summary, progress, error from jobs where id = $1', [jobId]))[0]).toEqual({
      ...{ state: 'done', summary: 'by the other', progress: null, error: null },
    })
    expect(await state(jobId)).toBe('done')
    expect((await files()).filter((name) => name.includes('superseded'))).toEqual([])
  })
})

test('a job that is moved while a worker takes it runs once', async () => {
  for (const worker of workers) await kill(worker)
  const folder = join(ennick.media, 'taken')
  for (let number = 1; number <= 3; number++)
    await makePicture(join(folder, `T${number}.mov`), { frames: 25, seed: number })
  const productionId = await ennick.addProduction('Taken')
  const scanning = startWorker()
  await ennick.addVolume(productionId, 'taken', folder)
  await kill(scanning)
  const clipIds = (await ennick.clips(productionId)).map((clip) => clip.id)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  const [first, , last] = jobs.map((job) => job.id) as [string, string, string]
  // The queue has given it to a worker that has not said so yet.
  await ennick.query(
    `update graphile_worker._private_jobs set locked_at = now(), locked_by = 'about to begin' where key = $1`,
    [first],
  )
  await ennick.call('moveJobs', { params: { productionId }, body: { jobIds: [last], before: first } })
  await ennick.call('moveJobs', { params: { productionId }, body: { jobIds: [first], before: null } })
  // The worker that was killed may not have put away the entry of its scan.
  const ids = jobs.map((job) => job.id).sort()
  const entries = await ennick.query<{ key: string | null }>(
    'select key from graphile_worker._private_jobs where key = any($1) order by key',
    [ids],
  )
  expect(entries.map((entry) => entry.key)).toEqual(ids)
  startWorker()
  for (const { id } of jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done', attempts: 1 })
})
