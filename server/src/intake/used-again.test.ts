import { mkdir, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let root: string
let card: string
let cardId: string
let storageId: string
let number = 0
beforeAll(async () => {
  ennick = await startHarness()
})
afterAll(() => ennick.stop())

/** A card with one clip, and storage; nothing is scanned of a day before a test says so. */
beforeEach(async () => {
  productionId = await ennick.addProduction(`Days ${++number}`)
  root = join(ennick.media, String(number))
  card = join(root, 'A001')
  await mkdir(join(root, 'storage'), { recursive: true })
  await shoot(1)
  cardId = await ennick.addVolume(productionId, 'A001', card, 'card')
  storageId = await ennick.addVolume(productionId, 'STORAGE', join(root, 'storage'))
})

/** The card is formatted and used on another day; its camera counts from one again. */
async function shoot(day: number): Promise<void> {
  await rm(card, { recursive: true, force: true })
  await mkdir(card)
  const shot = { seed: day, timecode: `1${day}:00:00:00` }
  await makePicture(join(card, 'C001.mov'), shot)
  await makePicture(join(card, 'SMALL/C001.mov'), { ...shot, size: '160x90' })
}
async function offload(folder: string) {
  const body = { destinationId: storageId, folder, hash: 'xxh64' as const }
  const { id } = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  return ennick.waitForJob(id)
}
/** Every clip: the day it was shot, where it lives, whether that is there, and what is noteworthy. */
const clips = async () => {
  const all = await ennick.clips(productionId)
  const said = await Promise.all(
    all.map(async ({ id, path, presence, startTimecode, volumeLabel }) => {
      const { notices } = await ennick.call('readClip', { params: { clipId: id } })
      const kinds = notices.flatMap(({ kind }) => (kind === 'reel overlap' ? [] : [kind])).join(', ')
      return [startTimecode?.slice(0, 2), `${volumeLabel}/${path}`, presence, kinds]
    }),
  )
  return said.sort()
}
/** Of which day the clip is that a camera's small file belongs to, by its volume. */
const smallOnes = async () => {
  await ennick.scan(storageId)
  const rows = await ennick.query<{ label: string; start: number }>(
    `select volumes.label, (own.facts->>'startFrame')::int as start from camera_proxies proxy
       join files small on small.id = proxy.file_id join volumes on volumes.id = small.volume_id
       join clip_files link on link.clip_id = proxy.clip_id join files own on own.id = link.file_id
     where proxy.production_id = $1`,
    [productionId],
  )
  return rows.map(({ label, start }) => [label, String(start / 90_000)]).sort()
}
const onStorage = (day: number, folder: string) => [`1${day}`, `STORAGE/${folder}/C001.mov`, 'here', '']

describe('a card that is used again', () => {
  test('brings a new clip, that is only on it, and what it was is not there any more', async () => {
    expect((await offload('day 1')).state).toBe('done')
    await shoot(2)
    await ennick.scan(cardId)
    expect(await clips()).toEqual([onStorage(1, 'day 1'), ['12', 'A001/C001.mov', 'here', 'only on a card']])
    expect((await offload('day 2')).state).toBe('done')
    expect(await clips()).toEqual([onStorage(1, 'day 1'), onStorage(2, 'day 2')])
    expect(await smallOnes()).toEqual([
      ['A001', '12'],
      ['STORAGE', '11'],
      ['STORAGE', '12'],
    ])
    await shoot(3)
    await ennick.scan(cardId)
    expect(await clips()).toContainEqual(['13', 'A001/C001.mov', 'here', 'only on a card'])
  })

  test('is scanned by its offload, where nobody did', async () => {
    expect((await offload('day 1')).state).toBe('done')
    await shoot(2)
    expect((await offload('day 2')).state).toBe('done')
    expect(await clips()).toEqual([onStorage(1, 'day 1'), onStorage(2, 'day 2')])
  })

  test('leaves its clip with the copy that another tool made of it', async () => {
    await mkdir(join(root, 'storage/by hand'))
    await makePicture(join(root, 'storage/by hand/C001.mov'), { seed: 1, timecode: '11:00:00:00' })
    await ennick.scan(storageId)
    expect(await clips()).toEqual([['11', 'A001/C001.mov', 'here', 'only on a card']])
    await shoot(2)
    await ennick.scan(cardId)
    expect(await clips()).toEqual([onStorage(1, 'by hand'), ['12', 'A001/C001.mov', 'here', 'only on a card']])
  })

  test('and was copied nowhere: it is asked whether it is that card, and what it was is gone', async () => {
    await shoot(2)
    expect((await ennick.scan(cardId)).error).toMatch(/1 clip of that was copied nowhere/)
    expect((await clips()).map(([day]) => day)).toEqual(['11'])
    await ennick.call('noteFormatted', { params: { volumeId: cardId } })
    expect((await ennick.scan(cardId)).state).toBe('done')
    const lost = ['11', 'A001/C001.mov', 'gone', '']
    expect(await clips()).toEqual([lost, ['12', 'A001/C001.mov', 'here', 'only on a card']])
    expect((await offload('day 2')).state).toBe('done')
    expect(await clips()).toEqual([lost, onStorage(2, 'day 2')])
  })
})

test('a file of a card that changes beside others is told, also of its copy', async () => {
  await makePicture(join(card, 'C002.mov'), { seed: 7, timecode: '17:00:00:00' })
  await ennick.scan(cardId)
  await makePicture(join(card, 'C001.mov'), { seed: 2, timecode: '12:00:00:00' })
  await ennick.scan(cardId)
  const other = ['17', 'A001/C002.mov', 'here', 'only on a card']
  expect(await clips()).toEqual([['12', 'A001/C001.mov', 'here', 'only on a card, original changed'], other])
  expect((await offload('day 2')).state).toBe('done')
  expect(await clips()).toContainEqual(['12', 'STORAGE/day 2/C001.mov', 'here', 'original changed'])
})

test('what is copied to a place that something else has left takes nothing from that', async () => {
  expect((await offload('A001')).state).toBe('done')
  await rename(join(root, 'storage/A001'), join(root, 'moved away'))
  await shoot(2)
  expect((await offload('A001')).state).toBe('done')
  const both = [
    ['11', 'STORAGE/A001/C001.mov', 'gone', ''],
    ['12', 'STORAGE/A001/C001.mov', 'here', ''],
  ]
  expect(await clips()).toEqual(both)
  for (const look of [() => ennick.scan(storageId), check]) {
    expect(await look()).toMatchObject({ state: 'done' })
    expect(await clips()).toEqual(both)
  }
})

const check = async () => ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)

describe('what lies in the place of a copy as another clip’s', () => {
  const there = () => join(root, 'storage/day 1/C001.mov')
  const shotOf = (day: number) => ({ seed: day, timecode: `1${day}:00:00:00` })
  beforeEach(async () => {
    await makePicture(join(card, 'C002.mov'), shotOf(7))
    await ennick.scan(cardId)
    await makePicture(there(), shotOf(5))
    await ennick.scan(storageId)
  })

  test('is not the original of a clip whose file has become the same', async () => {
    await makePicture(join(card, 'C001.mov'), shotOf(5))
    await ennick.scan(cardId)
    expect((await offload('day 1')).state).toBe('done')
    expect(await clips()).toEqual([
      ['15', 'A001/C001.mov', 'here', 'only on a card, original changed'],
      ['15', 'STORAGE/day 1/C001.mov', 'here', ''],
      ['17', 'STORAGE/day 1/C002.mov', 'here', ''],
    ])
  })

  test('and has become what is copied: that stays told of its clip alone', async () => {
    await makePicture(there(), shotOf(1))
    await ennick.scan(storageId)
    expect((await offload('day 1')).state).toBe('done')
    expect(await clips()).toEqual([
      ['11', 'A001/C001.mov', 'here', ''],
      ['11', 'STORAGE/day 1/C001.mov', 'here', 'original changed'],
      ['17', 'STORAGE/day 1/C002.mov', 'here', ''],
    ])
  })
})
