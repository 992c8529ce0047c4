import { cp, mkdir, rename, rm, stat, symlink, truncate, utimes, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, beforeEach, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeStills } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let root: string
let cardId: string
let number = 0
beforeAll(async () => {
  ennick = await startHarness()
})
afterAll(() => ennick.stop())

/** A card with a clip, numbered stills and a file that is no medium. */
beforeEach(async () => {
  productionId = await ennick.addProduction(`May it be formatted ${++number}`)
  root = join(ennick.media, String(number))
  await makePicture(join(root, 'card/CLIPS/F001.mov'), { reel: 'F001' })
  await makeStills(join(root, 'card/stills'), 'S')
  await writeFile(join(root, 'card/CLIPS/F001.xml'), 'what the camera says of it')
  await mkdir(join(root, 'R-1'))
  cardId = await ennick.addVolume(productionId, 'F001', join(root, 'card'), 'card')
})
const offload = async (label: string, folder: string) => {
  const known = await ennick.volume(productionId, label)
  const destinationId = known?.id ?? (await ennick.addVolume(productionId, label, join(root, label)))
  const body = { destinationId, folder, hash: 'xxh64' as const }
  const { id } = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  expect((await ennick.waitForJob(id)).state).toBe('done')
}
const held = async () => ennick.call('readHeldElsewhere', { params: { volumeId: cardId } })
const alone = async () => (await held()).alone.map(({ path }) => path)

test('nothing of a new card is elsewhere; once offloaded all of it is, as often as it was', async () => {
  expect(await held()).toMatchObject({ files: 14, aloneCount: 14, copies: [], notLookedAt: [] })
  await offload('R-1', 'day 1')
  const once = { label: 'R-1', folder: 'day 1', files: 14 }
  expect(await held()).toMatchObject({ files: 14, aloneCount: 0, alone: [] })
  expect((await held()).copies).toEqual([once])
  await mkdir(join(root, 'R-2'))
  await offload('R-2', 'F001')
  const twice = (await held()).copies.sort((a, b) => a.label.localeCompare(b.label))
  expect(twice).toEqual([once, { ...once, label: 'R-2', folder: 'F001' }])
})

test('what is filmed after the offload, written over, or gone from the copy is alone, with the reason', async () => {
  await offload('R-1', 'day 1')
  const card = join(root, 'card')
  await makePicture(join(card, 'CLIPS/F002.mov'), { seed: 2, reel: 'F001' })
  await makePicture(join(card, 'CLIPS/F001.mov'), { seed: 3, reel: 'F001' })
  await rm(join(root, 'R-1/day 1/CLIPS/F001.xml'))
  await symlink(join(card, 'CLIPS/F001.xml'), join(root, 'R-1/day 1/CLIPS/F001.xml'))
  // The ledger of somebody's Ennick, which a scan passes over, is on it as well.
  await mkdir(join(card, 'old data'))
  await writeFile(join(card, 'old data/database-secret'), 'kept')
  const { alone: found, aloneCount } = await held()
  expect(aloneCount).toBe(4)
  expect(found).toEqual([
    { path: 'CLIPS/F001.mov', reason: 'It was copied nowhere, or not as it is now.' },
    { path: 'CLIPS/F001.xml', reason: expect.stringMatching(/Its copy at day 1.CLIPS.F001.xml on “R-1” is not there/) },
    { path: 'CLIPS/F002.mov', reason: 'It was copied nowhere, or not as it is now.' },
    { path: 'old data/database-secret', reason: 'It was copied nowhere, or not as it is now.' },
  ])
})

test('a copy that was written over since is none, whether or not that was seen, and whatever its size', async () => {
  await offload('R-1', 'day 1')
  const copy = join(root, 'R-1/day 1')
  const { size, mtime } = await stat(join(copy, 'CLIPS/F001.mov'))
  await makePicture(join(root, 'another.mov'), { seed: 9, reel: 'F009' })
  await truncate(join(root, 'another.mov'), size)
  await cp(join(root, 'another.mov'), join(copy, 'CLIPS/F001.mov'))
  await writeFile(join(copy, 'CLIPS/F001.xml'), 'WHAT THE CAMERA SAYS OF IT')
  await cp(join(copy, 'stills/S.0003.png'), join(copy, 'stills/S.0003.png.new'))
  await rename(join(copy, 'stills/S.0003.png.new'), join(copy, 'stills/S.0003.png'))
  const touched = 'was touched since it was read back.'
  const clip = { path: 'CLIPS/F001.mov', reason: `Its copy at day 1/CLIPS/F001.mov on “R-1” ${touched}` }
  expect(await held()).toMatchObject({ files: 14, aloneCount: 14 })
  expect((await held()).alone).toEqual(
    expect.arrayContaining([clip, { path: 'CLIPS/F001.xml', reason: expect.stringContaining(touched) }]),
  )
  // Also what has the time of before the offload.
  await utimes(join(copy, 'CLIPS/F001.xml'), new Date(2026, 1, 1), new Date(2026, 1, 1))
  expect((await held()).aloneCount).toBe(14)
  // Somebody gives the clip the time that it had, and it is scanned: it is known to be another by then.
  await utimes(join(copy, 'CLIPS/F001.mov'), mtime, mtime)
  await ennick.scan((await ennick.volume(productionId, 'R-1'))?.id as string)
  expect((await held()).alone).toContainEqual(clip)
})

test('what only a copy that is away, or a broken history, speaks for is alone, and that is told', async () => {
  await offload('R-1', 'day 1')
  // Without the manifest the ledger still knows of the clip and the stills, and of nothing else.
  await rename(join(root, 'R-1/day 1/ascmhl'), join(root, 'R-1/manifests'))
  expect(await alone()).toEqual(['CLIPS/F001.xml'])
  await rename(join(root, 'R-1/manifests'), join(root, 'R-1/day 1/ascmhl'))
  await writeFile(join(root, 'R-1/day 1/ascmhl/0009_F001_2026-01-01_000000Z.mhl'), '<hashlist/>')
  expect(await held()).toMatchObject({
    aloneCount: 1,
    notLookedAt: [{ label: 'R-1', folder: 'day 1', reason: expect.stringContaining('not named by the chain') }],
  })
  await rename(join(root, 'R-1'), join(root, 'R-1 in a bag'))
  while ((await ennick.volume(productionId, 'R-1'))?.isHere !== false)
    await new Promise((resolve) => setTimeout(resolve, 5))
  expect(await held()).toMatchObject({
    aloneCount: 14,
    notLookedAt: [{ label: 'R-1', folder: 'day 1', reason: 'It is away.' }],
  })
})

test('copies of another tool count once they were compared, and other files by an offload alone', async () => {
  await cp(join(root, 'card'), join(root, 'R-1/by hand'), { recursive: true, preserveTimestamps: true })
  const storageId = await ennick.addVolume(productionId, 'R-1', join(root, 'R-1'))
  expect((await held()).aloneCount).toBe(14)
  const { id } = await ennick.call('compareCopies', { params: { volumeId: cardId } })
  expect((await ennick.waitForJob(id)).state).toBe('done')
  expect(await held()).toMatchObject({
    ...{ aloneCount: 1, alone: [{ path: 'CLIPS/F001.xml' }] },
    copies: [{ label: 'R-1', folder: null, files: 13 }],
  })
  // One still that was touched says that all of them are to be looked at.
  const later = new Date(Date.now() + 5000)
  await utimes(join(root, 'card/stills/S.0003.png'), later, later)
  expect((await held()).aloneCount).toBe(13)
  const body = { destinationId: storageId, folder: 'by hand', hash: 'xxh64' as const }
  const again = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  expect((await ennick.waitForJob(again.id)).summary).toMatch(/14 were there already/)
  expect((await held()).aloneCount).toBe(0)
})

test('what a manifest lists that came with the card is not copied for that', async () => {
  // Sealed on set into a folder of its own, whose history then lies on the card.
  await offload('R-1', 'sealed')
  await rename(join(root, 'R-1/sealed/ascmhl'), join(root, 'card/ascmhl'))
  await ennick.query(`delete from jobs where input->>'kind' = 'offload'`)
  await ennick.query('delete from clip_copies')
  // Another file of that name and size has its place: it is not overwritten, and the history comes along.
  await mkdir(join(root, 'R-2/F001/CLIPS'), { recursive: true })
  await writeFile(join(root, 'R-2/F001/CLIPS/F001.xml'), 'WHAT THE CAMERA SAYS OF IT')
  const destinationId = await ennick.addVolume(productionId, 'R-2', join(root, 'R-2'))
  const body = { destinationId, folder: 'F001', hash: 'xxh64' as const }
  const { id } = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  expect((await ennick.waitForJob(id)).summary).toContain('1 not copied')
  expect(await alone()).toEqual(['CLIPS/F001.xml'])
})
