import { mkdir, readdir, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { execa } from 'execa'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let volumeId: string
let destinationId: string
let storage: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Subsets')
  const card = join(ennick.media, 'card')
  for (const [seed, name] of ['S001C001', 'S001C002', 'S001C003'].entries())
    await makePicture(join(card, `CLIPS/${name}.mov`), { frames: 5, channels: 0, seed, reel: 'S001' })
  await mkdir(join(card, 'LAPSE'))
  await execa('ffmpeg', [
    ...['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=64x36:r=25,trim=end_frame=16'],
    `file:${card}/LAPSE/mist_%04d.png`,
  ])
  await writeFile(join(card, 'CLIPS/notes.txt'), 'what the card says beside its media')
  volumeId = await ennick.addVolume(productionId, 'S001', card, 'card')
  storage = join(ennick.media, 'storage')
  await mkdir(storage)
  destinationId = await ennick.addVolume(productionId, 'STORAGE', storage)
})
afterAll(() => ennick.stop())

const listed = () => ennick.call('listVolumeClips', { params: { volumeId } })
const request = (leave: string[], folder = 'day 1/S001') => ({
  params: { volumeId },
  body: { destinationId, folder, hash: 'xxh64' as const, leave },
})
const copied = async () =>
  (await readdir(storage, { recursive: true, withFileTypes: true }))
    .filter((entry) => entry.isFile() && !entry.parentPath.includes('ascmhl'))
    .map((entry) => join(entry.parentPath, entry.name).slice(storage.length + 1))
    .sort()

test('chosen clips of a card are copied, with all that is no clip; the rest is left, and listed', async () => {
  const clips = await listed()
  expect(clips.map(({ name, isSafe }) => [name, isSafe])).toEqual([
    ['S001C001', false],
    ['S001C002', false],
    ['S001C003', false],
    ['mist', false],
  ])
  const leave = clips.filter(({ name }) => name === 'S001C002' || name === 'mist').map(({ clipId }) => clipId)
  expect(await ennick.call('planOffload', request(leave))).toMatchObject({ files: 3, left: 17, blocked: null })
  const { id } = await ennick.call('offloadVolume', request(leave))
  const job = await ennick.waitForJob(id)
  expect(job).toMatchObject({ state: 'done', summary: '3 files copied and read back · 17 left by choice' })
  expect(await copied()).toEqual([
    'day 1/S001/CLIPS/S001C001.mov',
    'day 1/S001/CLIPS/S001C003.mov',
    'day 1/S001/CLIPS/notes.txt',
  ])
  const { lines } = await ennick.call('readJobDetails', { params: { jobId: id } })
  expect(lines.map(({ path, state }) => [path, state])).toContainEqual(['CLIPS/S001C002.mov', 'left'])
  expect((await ennick.volume(productionId, 'S001'))?.onlyHere).toBe(2)
  expect((await listed()).filter(({ isSafe }) => !isSafe).map(({ name }) => name)).toEqual(['S001C002', 'mist'])
})

test('what was left comes with a later offload into the same folder, as the next generation of its manifest', async () => {
  const safe = (await listed()).filter(({ isSafe }) => isSafe).map(({ clipId }) => clipId)
  const job = await ennick.waitForJob((await ennick.call('offloadVolume', request(safe))).id)
  expect(job).toMatchObject({ state: 'done', error: null })
  expect(await copied()).toHaveLength(20)
  expect((await ennick.volume(productionId, 'S001'))?.onlyHere).toBe(0)
  const manifests = await readdir(join(storage, 'day 1/S001/ascmhl'))
  expect(manifests.filter((name) => name.endsWith('.mhl'))).toHaveLength(2)
})

test('nothing at all cannot be offloaded, and a folder leads nowhere else', async () => {
  const all = (await listed()).map(({ clipId }) => clipId)
  // Something that is no clip goes along whatever is chosen.
  expect(await ennick.call('planOffload', request(all, 'none'))).toMatchObject({ files: 1, left: 19 })
  for (const folder of ['../up', '/etc', 'a//b', 'a/../../b', 'a/.hidden', 'a\\b', 'a /b'])
    await expect(ennick.call('planOffload', request([], folder))).rejects.toThrow(
      /folder of the copy|hidden from scans/,
    )
})
