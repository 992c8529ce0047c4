import { appendFile, copyFile, cp, link, open, rm, utimes } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound, makeStills } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let root: string
let cardId: string
let storageId: string
let number = 0
beforeAll(async () => {
  ennick = await startHarness()
})
afterAll(() => ennick.stop())

/** A card that somebody copied to storage by other means than an offload. */
beforeEach(async () => {
  productionId = await ennick.addProduction(`Copied by hand ${++number}`)
  root = join(ennick.media, String(number))
  await makePicture(join(root, 'card/C001.mov'), { seed: 4, frames: 100, reel: 'C001' })
  await makeSound(join(root, 'card/T001.wav'), 96_000, 1000, 2)
  await makeStills(join(root, 'card/stills'), 'S')
  await cp(join(root, 'card'), join(root, 'storage/day 1'), { recursive: true })
  cardId = await ennick.addVolume(productionId, 'C001', join(root, 'card'), 'card')
})
const addStorage = async () => {
  storageId = await ennick.addVolume(productionId, 'STORAGE', join(root, 'storage'))
}

const clips = async () => {
  const all = await ennick.clips(productionId)
  const said = await Promise.all(
    all.map(async ({ id, name, volumeLabel }) => {
      const { copies, notices } = await ennick.call('readClip', { params: { clipId: id } })
      const others = copies.map((copy) => `${copy.volumeLabel}${copy.isVerified ? ', read back' : ''}`)
      return [name, volumeLabel, others.join(), notices.map(({ kind }) => kind).join(', ')]
    }),
  )
  return said.sort()
}
const compare = async (volumeId: string) =>
  ennick.waitForJob((await ennick.call('compareCopies', { params: { volumeId } })).id)
const notCompared = async () => {
  const all = await ennick.call('listVolumes', { params: { productionId } })
  return Object.fromEntries(all.map((volume) => [volume.label, volume.notCompared.clips]))
}
const toldToday = async () =>
  (await ennick.call('today', { params: { productionId } })).onlyOnCard.map((line) => [line.clips, line.notCompared])
/** Clips of the card that may be left, as they are safe. */
const safe = async () =>
  (await ennick.call('listVolumeClips', { params: { volumeId: cardId } })).filter(({ isSafe }) => isSafe).length
/** Another byte in the middle between what a fingerprint reads, with the time as it was. */
async function damage(path: string): Promise<void> {
  const file = await open(path, 'r+')
  const { size, mtime } = await file.stat()
  await file.write(Buffer.from([0x5a]), 0, 1, Math.floor(size / 4))
  await file.close()
  await utimes(path, mtime, mtime)
}

test('what is the same byte for byte is as an offload had read it back, and the card may go', async () => {
  expect(await toldToday()).toEqual([[3, 0]])
  await addStorage()
  expect(await toldToday()).toEqual([[3, 3]])
  const onCard = (kind: string) => ['C001', 'STORAGE', kind]
  expect(await clips()).toEqual([
    ['C001.mov', ...onCard('only on a card')],
    ['S.####.png', ...onCard('only on a card')],
    ['T001.wav', ...onCard('only on a card')],
  ])
  expect([await notCompared(), await safe()]).toEqual([{ C001: 3, STORAGE: 3 }, 0])
  expect(await compare(cardId)).toMatchObject({
    state: 'done',
    summary: 'All 3 copies are the same, byte for byte',
  })
  expect(await clips()).toEqual([
    ['C001.mov', 'STORAGE', 'C001, read back', ''],
    ['S.####.png', 'STORAGE', 'C001, read back', ''],
    ['T001.wav', 'STORAGE', 'C001, read back', ''],
  ])
  expect([await notCompared(), await safe()]).toEqual([{ C001: 0, STORAGE: 0 }, 3])
  expect(await toldToday()).toEqual([])
})

test('what is alike by size and fingerprint alone is told, and is no copy from then on', async () => {
  const path = join(root, 'storage/day 1/C001.mov')
  await damage(path)
  await addStorage()
  const job = await compare(storageId)
  expect(job).toMatchObject({ state: 'failed', summary: '2 copies are the same, byte for byte · 1 not' })
  expect(job.error).toMatch(
    /^1 copy is not what the ledger took it for: .*C001\.mov, not the same as C001\.mov on “C001”/,
  )
  const { lines } = await ennick.call('readJobDetails', { params: { jobId: job.id } })
  expect(lines).toMatchObject([{ path, state: 'differs' }])
  const known = ['C001.mov', 'C001', '', 'only on a card, copy differs']
  expect((await clips())[0]).toEqual(known)
  // It stays told, whoever looks; and an offload into that folder does not take it for there.
  await ennick.scan(storageId)
  await ennick.scan(cardId)
  expect([(await clips())[0], (await notCompared()).C001]).toEqual([known, 0])
  const body = { destinationId: storageId, folder: 'day 1', hash: 'xxh64' as const }
  const again = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  expect((await ennick.waitForJob(again.id)).error).toMatch(/C001\.mov/)
  expect((await clips())[0]).toEqual(known)
  // Copied once more it is compared once more.
  await copyFile(join(root, 'card/C001.mov'), path)
  await ennick.scan(storageId)
  expect([(await clips())[0], (await notCompared()).C001]).toEqual([
    ['C001.mov', 'C001', 'STORAGE', 'only on a card'],
    1,
  ])
  expect(await compare(cardId)).toMatchObject({ state: 'done', summary: 'The one copy is the same, byte for byte' })
  expect((await clips())[0]).toEqual(['C001.mov', 'STORAGE', 'C001, read back', ''])
})

test('what has changed since its scan is not compared', async () => {
  await addStorage()
  await appendFile(join(root, 'storage/day 1/T001.wav'), 'more')
  const job = await compare(cardId)
  expect(job).toMatchObject({ state: 'failed', summary: '2 copies are the same, byte for byte · 1 not' })
  expect(job.error).toMatch(/1 copy could not be compared: .*T001\.wav, It or its original has changed/)
  expect((await clips()).find(([name]) => name === 'T001.wav')).toEqual([
    ...['T001.wav', 'C001', 'STORAGE', 'only on a card'],
  ])
})

test('a hard link, as of a folder that is mounted twice, is no copy: not at a scan, nor for an offload', async () => {
  const storage = join(root, 'storage')
  await rm(join(storage, 'day 1/C001.mov'))
  await link(join(root, 'card/C001.mov'), join(storage, 'day 1/C001.mov'))
  await addStorage()
  const known = ['C001.mov', 'C001', '', 'only on a card']
  expect([(await clips())[0], (await clips()).length, await notCompared()]).toEqual([known, 3, { C001: 2, STORAGE: 2 }])
  const body = { destinationId: storageId, folder: 'day 1', hash: 'xxh64' as const }
  const { id } = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  const job = await ennick.waitForJob(id)
  expect(job).toMatchObject({ state: 'failed', summary: expect.stringContaining('1 not copied') })
  const { lines } = await ennick.call('readJobDetails', { params: { jobId: id } })
  expect(lines).toMatchObject([{ path: 'C001.mov', detail: expect.stringContaining('this very file') }])
  expect((await clips())[0]).toEqual(known)
})
