import { execFile } from 'node:child_process'
import { mkdir, readdir, readFile, rm, statfs, symlink, truncate, writeFile } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { promisify } from 'node:util'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'
import { unhurried } from '../testing/unhurried.ts'

const execute = promisify(execFile)
let ennick: Harness
let productionId: string
let card: string
let made: string
const clipIds = new Map<string, string>()
/** What is made of it with the suffix “_proxy” has a name of 255 bytes, as many as a disk holds; and one more. */
const longest = `${'ä'.repeat(122)}x.mov`
const tooLong = `${'ä'.repeat(123)}.mov`
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Bad places')
  card = join(ennick.media, 'card')
  await makePicture(join(card, 'CLIPS/one.mov'), { frames: 10, channels: 0 })
  await makePicture(join(card, 'CLIPS/long.mov'), { size: '960x540', frames: 120, channels: 0, seed: 1 })
  await makePicture(join(card, 'CLIPS/other.mov'), { size: '960x540', frames: 120, channels: 0, seed: 2 })
  for (const name of [longest, tooLong]) await makePicture(join(card, name), { frames: 10, channels: 0, seed: 3 })
  await ennick.addVolume(productionId, 'card', card)
  for (const clip of await ennick.clips(productionId)) clipIds.set(clip.name, clip.id)
  made = (await ennick.madePlace(productionId)).path
})
afterAll(() => ennick.stop())

const request = (name: string, recipeId: string) => ({
  params: { productionId },
  body: { clipIds: [clipIds.get(name)], recipeId },
})
const start = async (name: string, recipeId: string) =>
  (await ennick.call('make', request(name, recipeId))).jobs[0]?.id as string
const make = async (name: string, recipeId: string) => ennick.waitForJob(await start(name, recipeId))
const retry = async (jobId: string) => ennick.waitForJob((await ennick.call('retryJob', { params: { jobId } })).id)
const hold = (jobId: string, isHeld: boolean) =>
  ennick.call('holdJobs', { params: { productionId }, body: { jobIds: [jobId], isHeld } })
/** Starts a job and lets it stand still as soon as its output is open. */
async function startAndStand(name: string, recipeId: string): Promise<string> {
  return unhurried(0.5, async () => {
    const jobId = await start(name, recipeId)
    await ennick.untilWriting()
    await hold(jobId, true)
    return jobId
  })
}

test('a link that leads from the destination into the source card is not followed', async () => {
  await mkdir(join(made, 'half-h264-intra'), { recursive: true })
  await symlink(card, join(made, 'half-h264-intra/card'))
  const before = await readdir(card, { recursive: true })
  const job = await make('one.mov', 'half-h264-intra')
  expect(job.error).toBe(
    `${join(made, 'half-h264-intra/card')} is a link that leads to ${card}, out of the place that it belongs to. Ennick follows no links there: remove the link, and retry.`,
  )
  expect(await readdir(card, { recursive: true })).toEqual(before)
  await rm(join(made, 'half-h264-intra/card'))
  expect((await retry(job.id)).state).toBe('done')
})

test('a link to an original under the name of an output is never written through', async () => {
  const plan = await ennick.call('planMake', request('one.mov', 'review-h264'))
  const output = join(made, plan.items[0]?.outputs[0] as string)
  const original = join(card, 'CLIPS/one.mov')
  const content = await readFile(original)
  await mkdir(dirname(output), { recursive: true })
  await symlink(original, output)
  const job = await make('one.mov', 'review-h264')
  expect(job).toMatchObject({ state: 'failed', error: expect.stringContaining('nothing is ever overwritten') })
  expect((await readFile(original)).equals(content)).toBe(true)
  await rm(output)
  expect((await retry(job.id)).state).toBe('done')
})

test('an item that was exchanged for another file is no longer said to be proven picture by picture', async () => {
  const [pair] =
    (await ennick.call('listPairs', { params: { productionId } })).find((row) => row.clipId === clipIds.get('one.mov'))
      ?.pairs ?? []
  const read = () => ennick.call('readPair', { params: { pairId: pair?.id ?? '' } })
  const proven = async () => (await read()).comparison?.some((row) => row.aspect === 'pictures')
  expect(await proven()).toBe(true)
  const path = (await read()).madeFiles[0]?.path as string
  const content = await readFile(path)
  content.writeUInt8(content.readUInt8(content.length >> 1) ^ 1, content.length >> 1)
  await writeFile(path, content)
  await ennick.call('check', { params: { productionId } }).then((job) => ennick.waitForJob(job.id))
  expect(await proven()).toBe(false)
})

test('an original that is cut off while it is read', async () => {
  const path = join(card, 'CLIPS/long.mov')
  const content = await readFile(path)
  const jobId = await startAndStand('long.mov', 'half-h264-intra')
  await truncate(path, Math.floor(content.length / 2))
  await hold(jobId, false)
  const job = await ennick.waitForJob(jobId)
  expect(job.state).toBe('failed')
  expect(job.error).toContain('long.mov')
  expect(await ennick.unfinished()).toEqual([])
  await writeFile(path, content)
  expect((await retry(jobId)).state).toBe('done')
})

// A disk of its own needs the right to mount one, which the superuser has.
const onSmallDisk = process.getuid?.() === 0 ? test : test.skip
onSmallDisk('a disk that is full before, and one that fills up in the middle; other jobs go on', async () => {
  const place = join(made, 'half-h264-intra/card')
  await execute('mount', ['-t', 'tmpfs', '-o', 'size=8m', 'tmpfs', place])
  try {
    const filler = join(place, 'filler')
    const fill = async () => {
      const { bavail, bsize } = await statfs(place)
      // What is being paused may write a little more meanwhile.
      await writeFile(filler, Buffer.alloc(Number(bavail) * Number(bsize))).catch((error: NodeJS.ErrnoException) => {
        if (error.code !== 'ENOSPC') throw error
      })
    }
    await fill()
    expect((await make('other.mov', 'half-h264-intra')).error).toMatch(
      /^There is not enough space at .*half-h264-intra\/card.*: about [\d.]+ MB are needed and 0\.\d MB are free/,
    )
    await rm(filler)
    const jobId = await startAndStand('other.mov', 'half-h264-intra')
    await fill()
    await hold(jobId, false)
    expect((await make('one.mov', 'production-prores-proxy')).state).toBe('done')
    expect(await ennick.waitForJob(jobId)).toMatchObject({
      state: 'failed',
      error: `There is no space left in ${join(place, 'CLIPS')}. Free some, and retry.`,
    })
    expect(await ennick.unfinished()).toEqual([])
    await rm(filler)
    expect((await retry(jobId)).state).toBe('done')
  } finally {
    await execute('umount', ['--lazy', place])
  }
})

test('a name may be as long as a disk holds, and what would be longer is told in the plan', async () => {
  expect(await make(longest, 'half-h264-intra')).toMatchObject({ state: 'done', error: null })
  const name = `${longest.slice(0, -4)}_proxy.mov`
  expect(Buffer.byteLength(name)).toBe(255)
  const written = (await readdir(made, { recursive: true })).map((path) => basename(path))
  expect(written).toContain(name)
  expect(written.filter((path) => path.endsWith('.ennick-part'))).toEqual([])
  const { items } = await ennick.call('planMake', request(tooLong, 'half-h264-intra'))
  expect(items[0]?.skipped).toMatch(/longer than a disk holds/)
})
