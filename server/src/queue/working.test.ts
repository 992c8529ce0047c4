import { spawn } from 'node:child_process'
import { once } from 'node:events'
import { mkdir, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { madeFolder } from '../config.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { unhurried } from '../testing/unhurried.ts'
import { makesAtOnceOn } from './workers.ts'

let ennick: Harness
let productionId: string
const clipIds = new Map<string, string>()
beforeAll(async () => {
  ennick = await startHarness({ withWorker: false })
  productionId = await ennick.addProduction('Working')
  const folder = join(ennick.media, 'card')
  await makePicture(join(folder, 'long.mov'), { size: '1280x720', frames: 250, channels: 0 })
  await makePicture(join(folder, 'half.mov'), { size: '1280x720', frames: 100, channels: 0, seed: 1 })
  await makePicture(join(folder, 'short.mov'), { frames: 10, channels: 0, seed: 2 })
  await makePicture(join(folder, 'third.mov'), { frames: 10, channels: 0, seed: 3 })
  const worker = await ennick.startWorker()
  await ennick.addVolume(productionId, 'card', folder)
  await worker.stop()
  for (const clip of await ennick.clips(productionId)) clipIds.set(clip.name.replace('.mov', ''), clip.id)
})
afterAll(() => ennick.stop())

const moment = () => new Promise((resolve) => setTimeout(resolve, 50))
const read = (jobId: string) => ennick.call('readJob', { params: { jobId } })
const hold = (jobId: string, isHeld: boolean) =>
  ennick.call('holdJobs', { params: { productionId }, body: { jobIds: [jobId], isHeld } })
async function order(names: readonly string[], recipeId: string): Promise<string[]> {
  const body = { clipIds: names.map((name) => clipIds.get(name)), recipeId }
  return (await ennick.call('make', { params: { productionId }, body })).jobs.map((job) => job.id)
}

async function startAndHold(): Promise<string> {
  return unhurried(1, async () => {
    const [half] = (await order(['half'], 'vc3-lb-op-atom')) as [string]
    await ennick.untilWriting()
    await hold(half, true)
    return half
  })
}

describe('a job that stands still', () => {
  test('gives its turn to the next, goes on where it was, and its time does not count', async () => {
    const worker = await ennick.startWorker({ makesAtOnce: 1 })
    const [long, short] = await unhurried(1, async () => {
      const [first, second] = (await order(['long', 'short'], 'half-h264-intra')) as [string, string]
      while (((await read(first)).progress?.done ?? 0) === 0) await moment()
      await hold(first, true)
      return [first, second]
    })
    expect((await ennick.waitForJob(short)).state).toBe('done')
    const standing = await read(long)
    expect(standing).toMatchObject({ state: 'running', isHeld: true, attempts: 1 })
    // Its clip says so, and no more: what is made of the other is proven already.
    expect(await ennick.call('listUnderWay', { params: { productionId } })).toEqual([
      { clipId: clipIds.get('long'), state: 'being made' },
    ])
    expect(standing.progress?.done).toBeLessThan(250)
    expect((await ennick.call('listWorkers', {}))[0]?.jobs).toEqual([
      { id: long, title: standing.title, isPaused: true },
    ])
    await new Promise((resolve) => setTimeout(resolve, 700))
    expect((await read(long)).progress).toEqual(standing.progress)
    await hold(long, false)
    const ended = await ennick.waitForJob(long)
    expect(ended).toMatchObject({
      state: 'done',
      isHeld: false,
      attempts: 1,
      progress: { done: 250, step: 'checking' },
    })
    expect(ended.files?.outputs).toEqual([expect.stringMatching(/card\/long_proxy\.mov$/)])
    expect(await ennick.call('listUnderWay', { params: { productionId } })).toEqual([])
    expect(ended.progress?.realTime).toBeCloseTo((ended.progress?.unitsPerSecond ?? 0) / 25, 5)
    await worker.stop()
  })

  test('can be stopped, and nothing of it is left', async () => {
    const worker = await ennick.startWorker({ makesAtOnce: 1 })
    const half = await startAndHold()
    while (!(await read(half)).isHeld) await moment()
    await ennick.call('cancelJob', { params: { jobId: half } })
    expect(await ennick.waitForJob(half)).toMatchObject({ state: 'cancelled', isHeld: false })
    expect(await ennick.unfinished()).toEqual([])
    await worker.stop()
  })

  test('waits on when its worker ends, and begins again when it is let go', async () => {
    const first = await ennick.startWorker({ makesAtOnce: 1 })
    const half = await startAndHold()
    await first.stop()
    const second = await ennick.startWorker({ makesAtOnce: 1 })
    while ((await read(half)).state !== 'waiting') await moment()
    expect(await read(half)).toMatchObject({ isHeld: true, progress: null })
    await hold(half, false)
    expect(await ennick.waitForJob(half)).toMatchObject({ state: 'done', attempts: 2 })
    expect(await ennick.unfinished()).toEqual([])
    await second.stop()
  })
})

test('a worker takes what it can encode; the rest waits for one that can', async () => {
  const limited = await ennick.startWorker({ codecs: ['prores-proxy'] })
  expect(await ennick.call('listWorkers', {})).toEqual([expect.objectContaining({ codecs: ['prores-proxy'] })])
  const [other] = (await order(['third'], 'half-h264-intra')) as [string]
  const [own] = (await order(['third'], 'production-prores-proxy')) as [string]
  expect(await read(other)).toMatchObject({ codecs: ['h264-intra'] })
  expect((await ennick.waitForJob(own)).state).toBe('done')
  expect((await read(other)).state).toBe('waiting')
  const able = await ennick.startWorker()
  expect((await ennick.waitForJob(other)).state).toBe('done')
  await able.stop()
  await limited.stop()
})

test('a worker that has the storage elsewhere says so where it has it not', async () => {
  const made = madeFolder(ennick.config.dataFolder)
  const worker = await ennick.startWorker({ pathMap: [{ from: made, to: join(ennick.media, 'nowhere') }] })
  const [first] = (await order(['short'], 'review-h264')) as [string]
  expect((await ennick.waitForJob(first)).error).toMatch(
    /^The worker on .* has no .*nowhere\/.*, where volume “.*” lies/,
  )
  await worker.stop()
})

// Another machine, as far as paths go: a process with mounts of its own, which the superuser may have.
const onAnotherMachine = process.getuid?.() === 0 ? test : test.skip
onAnotherMachine(
  'a worker that has the storage at other paths reads and writes nothing at those of the server',
  async () => {
    const [card, made] = [join(ennick.media, 'card'), madeFolder(ennick.config.dataFolder)]
    const there = join(ennick.media, 'there')
    await Promise.all(['card', 'made', 'data'].map((name) => mkdir(join(there, name), { recursive: true })))
    const script = [
      `mount --bind "${card}" "${there}/card" && mount --bind "${made}" "${there}/made"`,
      `mount -t tmpfs none "${card}" && mount -t tmpfs none "${ennick.config.dataFolder}"`,
      `exec "${process.execPath}" server/dist/main-worker.js`,
    ].join(' && ')
    const worker = spawn('unshare', ['--mount', 'sh', '-c', script], {
      cwd: fileURLToPath(new URL('../../..', import.meta.url)),
      env: {
        ...process.env,
        ...{ NODE_OPTIONS: '', DATABASE_URL: ennick.config.databaseUrl, ENNICK_DATA: join(there, 'data') },
        ENNICK_PATH_MAP: `${card}=${there}/card\n${made}=${there}/made`,
      },
      stdio: 'ignore',
    })
    const [short, sound] = (await order(['short', 'third'], 'vc3-lb-op-atom')) as [string, string]
    for (const job of [short, sound])
      expect(await ennick.waitForJob(job)).toMatchObject({
        state: 'done',
        files: { source: expect.stringContaining(`${there}/card/`) },
      })
    const ended = once(worker, 'exit')
    worker.kill('SIGTERM')
    await ended
    // Here it lies where the server expects it, and nowhere else.
    const ledger = await ennick.call('listPairs', { params: { productionId } })
    const pair = ledger
      .find((row) => row.clipId === clipIds.get('short'))
      ?.pairs.find((each) => each.recipe?.includes('VC-3'))
    expect(pair?.verdict).toBe('proven')
    const { madeFiles } = await ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
    expect(madeFiles.map(({ path, presence }) => [path.startsWith(made), presence])).toEqual([[true, 'here']])
    await rm(there, { recursive: true })
  },
)

test.each([
  [1, 1],
  [2, 2],
  [4, 2],
  [7, 4],
  [16, 8],
])('on %i cores %i items are made at once', (cores, items) => {
  expect(makesAtOnceOn(cores)).toBe(items)
})
