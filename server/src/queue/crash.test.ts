import { type ChildProcess, spawn } from 'node:child_process'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { madeFolder } from '../config.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
const workers: ChildProcess[] = []
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
})
afterAll(async () => {
  for (const worker of workers) worker.kill('SIGKILL')
  await ennick.stop()
})

const projectFolder = fileURLToPath(new URL('../../..', import.meta.url))
function startWorker(): ChildProcess {
  const { config } = ennick
  const environment = {
    ...process.env,
    NODE_OPTIONS: '',
    DATABASE_URL: config.databaseUrl,
    ENNICK_DATA: config.dataFolder,
    ENNICK_ROOTS: ennick.media,
  }
  const worker = spawn(process.execPath, ['--import', 'tsx', 'server/src/main-worker.ts'], {
    cwd: projectFolder,
    env: environment,
    stdio: 'ignore',
  })
  workers.push(worker)
  return worker
}
const pause = () => new Promise((resolve) => setTimeout(resolve, 50))
const files = async () =>
  (await readdir(madeFolder(ennick.config.dataFolder), { recursive: true, withFileTypes: true }))
    .filter((entry) => entry.isFile())
    .map((entry) => entry.name)

test('a worker killed in the middle of a job: another takes it, it is done once, and no debris is left', async () => {
  const folder = join(ennick.media, 'card')
  await makePicture(join(folder, 'long.mov'), { size: '640x360', frames: 250, channels: 1 })
  await makePicture(join(folder, 'small.mov'), { frames: 20, seed: 2 })
  const productionId = await ennick.addProduction('Crash')
  const first = startWorker()
  await ennick.addVolume(productionId, 'card', folder)
  const clipIds = (await ennick.clips(productionId)).map((clip) => clip.id)
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId: 'half-h264-intra' } })
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
  const ledger = await ennick.call('listPairs', { params: { productionId } })
  expect(ledger.map((row) => row.pairs.map((pair) => pair.verdict))).toEqual([['sound'], ['sound']])
})

test('two workers share a batch and do nothing twice', async () => {
  const folder = join(ennick.media, 'batch')
  for (let number = 1; number <= 6; number++) await makePicture(join(folder, `B${number}.mov`), { frames: 25, seed: number })
  const productionId = await ennick.addProduction('Batch')
  startWorker()
  while ((await ennick.call('listWorkers', {})).filter((worker) => worker.state === 'here').length < 2) await pause()
  await ennick.addVolume(productionId, 'batch', folder)
  const clipIds = (await ennick.clips(productionId)).map((clip) => clip.id)
  const { jobs } = await ennick.call('make', { params: { productionId }, body: { clipIds, recipeId: 'half-h264-intra' } })
  const ended = await Promise.all(jobs.map((job) => ennick.waitForJob(job.id)))
  expect(ended.every((job) => job.state === 'done' && job.attempts === 1)).toBe(true)
  const rows = await ennick.query('select p.id from pairs p join clips c on c.id = p.clip_id where c.production_id = $1', [productionId])
  expect(rows).toHaveLength(6)
  // Both had a hand in it.
  expect(
    await ennick.query('select distinct worker_id from jobs where production_id = $1 and worker_id is not null', [productionId]),
  ).toHaveLength(2)
})
