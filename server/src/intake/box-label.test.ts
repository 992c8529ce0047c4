import { mkdir, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { allowFolder } from '../config.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let card: string
let volumeId: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Boxes')
  card = join(ennick.media, 'card')
  await makePicture(join(card, 'CLIPS/A001C001.mov'), { frames: 5, reel: null, channels: 0 })
  await makePicture(join(card, 'CLIPS/A001C002.mov'), { frames: 5, reel: 'X009', channels: 0, seed: 1 })
  await makeSound(join(card, 'SOUND/take.wav'), 4800, 0)
  await writeFile(join(card, 'notes.txt'), 'not media')
  for (const path of ['CLIPS/A001C001.mov', 'CLIPS/A001C002.mov', 'SOUND/take.wav'])
    await utimes(join(card, path), new Date('2026-11-04T12:00:00'), new Date('2026-11-04T12:00:00'))
})
afterAll(() => ennick.stop())

const clips = async () => {
  const list = await ennick.clips(productionId)
  return new Map(list.map((clip) => [clip.name, { reel: clip.reel, ...clip.described }]))
}
const change = async (box: object, label = 'A001') => {
  const volume = await ennick.volume(productionId, 'A001')
  return ennick.call('changeVolume', {
    params: { volumeId },
    body: { label, kind: 'card', notes: '', isWatched: volume?.isWatched ?? false, box },
  })
}

test('a folder is counted before it is added, and says what its label may say', async () => {
  expect(await ennick.call('surveyFolder', { query: { path: card } })).toEqual({
    ...{ mediaFiles: 3, otherFiles: 1, bytes: expect.any(Number), isWhole: true },
    folders: [
      { path: '', mediaFiles: 0, otherFiles: 1, bytes: 0 },
      { path: 'CLIPS', mediaFiles: 2, otherFiles: 0, bytes: expect.any(Number) },
      { path: 'SOUND', mediaFiles: 1, otherFiles: 0, bytes: expect.any(Number) },
    ],
    suggested: { day: '2026-11-04', camera: 'A', reel: 'A001' },
  })
  await expect(ennick.call('surveyFolder', { query: { path: '/etc' } })).rejects.toThrow(/outside the folders/)
})

test('what the label on a box says is with every clip of it, beside what the files say themselves', async () => {
  const box = { day: 'Day 03', camera: 'B', reel: 'A001', unit: 'second' }
  const volume = await ennick.call('addVolume', {
    params: { productionId },
    body: { label: 'A001', kind: 'card', rootPath: card, box },
  })
  volumeId = volume.id
  expect(volume.box).toEqual({ ...box, day: 'day 3' })
  await ennick.scan(volumeId)
  const said = { day: 'day 3', camera: 'B', unit: 'second', cameFrom: 'A001' }
  const found = await clips()
  expect(found.get('A001C001.mov')).toMatchObject({ ...said, reel: 'A001' })
  expect(found.get('A001C002.mov')).toMatchObject({ ...said, reel: 'X009' })
  expect(found.get('take.wav')).toMatchObject({ ...said, reel: 'A001' })
})

test('a label that is corrected is corrected with its clips; what somebody said otherwise stays', async () => {
  const id = (await ennick.clips(productionId)).find(({ name }) => name === 'take.wav')?.id as string
  const action = { kind: 'set' as const, clipIds: [id], field: 'day', value: 'DAY_09' }
  await ennick.call('editClips', { params: { productionId }, body: { action, apply: true } })
  await change({ day: 'day 4', reel: 'A002', unit: '' }, 'A002')
  const found = await clips()
  expect(found.get('A001C001.mov')).toMatchObject({ day: 'day 4', reel: 'A002', cameFrom: 'A002' })
  expect(found.get('A001C001.mov')).not.toHaveProperty('unit')
  expect(found.get('A001C001.mov')).not.toHaveProperty('camera')
  expect(found.get('A001C002.mov')).toMatchObject({ day: 'day 4', reel: 'X009' })
  expect(found.get('take.wav')).toMatchObject({ day: 'day 9', reel: 'A002' })
})

test('where it came from stays when the clip lies elsewhere', async () => {
  const storage = join(ennick.media, 'storage')
  await mkdir(storage)
  const destinationId = await ennick.addVolume(productionId, 'STORAGE', storage)
  const job = await ennick.call('offloadVolume', {
    params: { volumeId },
    body: { destinationId, folder: 'A002', hash: 'xxh64' },
  })
  expect(await ennick.waitForJob(job.id)).toMatchObject({ state: 'done' })
  for (const clip of (await clips()).values()) expect(clip).toMatchObject({ cameFrom: 'A002' })
  // A label that is corrected after the offload, name and reel at once, reaches the clips where they lie now.
  await change({ day: 'day 4', reel: 'A005' }, 'A005')
  expect((await clips()).get('A001C001.mov')).toMatchObject({ reel: 'A005', cameFrom: 'A005' })
  // Of what came from nowhere known, another volume's new label is not said to be where it came from.
  await ennick.query(`update clips set described = described - 'cameFrom' where name = 'take'`)
  await ennick.call('changeVolume', {
    params: { volumeId: destinationId },
    body: { label: 'MILL', kind: 'drive', notes: '', isWatched: false },
  })
  expect((await clips()).get('take.wav')).not.toHaveProperty('cameFrom')
})

test('a folder that is allowed while the server runs can be used at once', async () => {
  const home = join(ennick.media, '../at home')
  await mkdir(home, { recursive: true })
  await expect(ennick.call('browseFolder', { query: { path: home } })).rejects.toThrow(/--allow FOLDER/)
  const path = allowFolder(ennick.config.dataFolder, home)
  expect((await ennick.call('browseFolder', { query: { path: home } })).path).toBe(path)
  expect((await ennick.call('browseFolder', { query: {} })).folders.map((folder) => folder.path)).toContain(path)
  expect(() => allowFolder(ennick.config.dataFolder, join(home, 'not there'))).toThrow(/no folder on this machine/)
})
