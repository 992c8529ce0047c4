import { mkdir, readdir, rename, stat, truncate, utimes } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let root: string
let slot: string
let firstId: string
let number = 0
beforeAll(async () => {
  ennick = await startHarness()
})
afterAll(() => ennick.stop())

/** A reader under whose one name every card is mounted, with the first card in. */
beforeEach(async () => {
  productionId = await ennick.addProduction(`Reader ${++number}`)
  root = join(ennick.media, String(number))
  slot = join(root, 'NO NAME')
  for (const folder of ['first', 'second', 'NO NAME', 'storage']) await mkdir(join(root, folder), { recursive: true })
  await makePicture(join(root, 'first/C001.mov'), { seed: 1 })
  await makePicture(join(root, 'second/D001.mov'), { seed: 2, timecode: '11:00:00:00' })
  isIn = null
  await putIn('first')
  firstId = await ennick.addVolume(productionId, 'A001', slot, 'card')
})

type Card = 'first' | 'second' | 'alike'
let isIn: Card | null = null
/** As a card's root has the same inode whichever it is, what is in the slot is exchanged and not the slot. */
async function putIn(card: Card): Promise<void> {
  for (const name of await readdir(slot)) await rename(join(slot, name), join(root, isIn ?? card, name))
  for (const name of await readdir(join(root, card))) await rename(join(root, card, name), join(slot, name))
  isIn = card
}
/** A card whose camera counts from one as well, and writes as many bytes. */
async function makeAlike(): Promise<void> {
  const { size } = await stat(join(slot, 'C001.mov'))
  await makePicture(join(root, 'alike/C001.mov'), { seed: 3, timecode: '12:00:00:00', frames: 10 })
  await truncate(join(root, 'alike/C001.mov'), size)
  await utimes(join(root, 'alike/C001.mov'), new Date(2026, 9, 1), new Date(2026, 9, 1, 14, 31, 7))
}
const clips = async () =>
  (await ennick.clips(productionId)).map(({ name, volumeLabel, presence }) => [name, volumeLabel, presence]).sort()
async function untilHere(label: string, isHere: boolean): Promise<void> {
  while ((await ennick.volume(productionId, label))?.isHere !== isHere)
    await new Promise((resolve) => setTimeout(resolve, 50))
}
const add = (label: string) =>
  ennick.call('addVolume', { params: { productionId }, body: { label, kind: 'card', rootPath: slot } })

test('another card at the place of one that was copied nowhere is not taken for it', async () => {
  await putIn('second')
  const scan = await ennick.scan(firstId)
  expect(scan).toMatchObject({ state: 'failed', error: expect.stringMatching(/1 clip of that was copied nowhere/) })
  const storage = await ennick.addVolume(productionId, 'STORAGE', join(root, 'storage'))
  const body = { destinationId: storage, folder: 'A001', hash: 'xxh64' as const }
  const offload = await ennick.call('offloadVolume', { params: { volumeId: firstId }, body })
  expect(await ennick.waitForJob(offload.id)).toMatchObject({ state: 'failed', error: scan.error })
  expect(await readdir(join(root, 'storage'))).toEqual([])
  await untilHere('A001', false)
  expect(await clips()).toEqual([['C001.mov', 'A001', 'away']])
  await putIn('first')
  await untilHere('A001', true)
  expect((await ennick.scan(firstId)).state).toBe('done')
})

test('nor is one whose files have the same names and sizes', async () => {
  await makeAlike()
  await putIn('alike')
  const { state, error } = await ennick.scan(firstId)
  expect([state, error]).toEqual(['failed', expect.stringMatching(/1 clip of that was copied nowhere/)])
  await untilHere('A001', false)
  expect(await ennick.volume(productionId, 'A001')).toMatchObject({ goneFiles: 0, isTaken: true })
  const { id: secondId } = await add('A002')
  expect((await ennick.scan(secondId)).state).toBe('done')
  expect(await clips()).toEqual([
    ['C001.mov', 'A001', 'away'],
    ['C001.mov', 'A002', 'here'],
  ])
  expect((await ennick.volume(productionId, 'A001'))?.isTaken).toBe(false)
  await putIn('first')
  await Promise.all([untilHere('A001', true), untilHere('A002', false)])
  expect((await ennick.volume(productionId, 'A001'))?.isTaken).toBe(false)
})

test('the same card is known again where its times are read in another zone', async () => {
  const { atime, mtime } = await stat(join(slot, 'C001.mov'))
  await utimes(join(slot, 'C001.mov'), atime, new Date(mtime.getTime() - 5.5 * 3600 * 1000))
  expect((await ennick.scan(firstId)).state).toBe('done')
  expect(await clips()).toEqual([['C001.mov', 'A001', 'here']])
})

test('it is a volume of its own there, and each is in when what is known of it is', async () => {
  await expect(add('A002')).rejects.toThrow('is volume “A001” already')
  await putIn('second')
  const { id: secondId } = await add('A002')
  expect((await ennick.scan(secondId)).state).toBe('done')
  await untilHere('A001', false)
  const [first, second] = [
    ['C001.mov', 'A001'],
    ['D001.mov', 'A002'],
  ] as const
  expect(await clips()).toEqual([
    [...first, 'away'],
    [...second, 'here'],
  ])
  await putIn('first')
  await Promise.all([untilHere('A001', true), untilHere('A002', false)])
  expect(await clips()).toEqual([
    [...first, 'here'],
    [...second, 'away'],
  ])
  expect((await ennick.scan(secondId)).error).toMatch(/“A002” is away/)
})

test('one of which nothing is known yet is not in while another is', async () => {
  await putIn('second')
  await add('A002')
  await putIn('first')
  await Promise.all([untilHere('A001', true), untilHere('A002', false)])
  await putIn('second')
  await Promise.all([untilHere('A001', false), untilHere('A002', true)])
})

test('that a card was formatted is said by a person, where nothing of it is there', async () => {
  const say = () => ennick.call('noteFormatted', { params: { volumeId: firstId } })
  await expect(say()).rejects.toThrow(/Something of what is known of “A001” is there/)
  await putIn('second')
  await say()
  expect(await clips()).toEqual([['C001.mov', 'A001', 'gone']])
  expect((await ennick.scan(firstId)).state).toBe('done')
  expect(await clips()).toEqual([
    ['C001.mov', 'A001', 'gone'],
    ['D001.mov', 'A001', 'here'],
  ])
})
