import { cp, mkdir, readdir, rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { eq } from 'drizzle-orm'
import { lookAtVolumes } from '../intake/presence.ts'
import { connect } from '../store/database.ts'
import { volumes } from '../store/schema.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let drive: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Placed')
  drive = join(ennick.media, 'drive')
  await makePicture(join(drive, 'rushes/D1.mov'), { frames: 12 })
  await makePicture(join(drive, 'rushes/D2.mov'), { frames: 12, seed: 1, timecode: '11:00:00:00' })
  await ennick.addVolume(productionId, 'DRIVE', drive)
})
afterAll(() => ennick.stop())

const params = () => ({ params: { productionId } })
const place = () => ennick.call('readMadePlace', params())
const change = (folder: string) => ennick.call('changeMadePlace', { ...params(), body: { folder } })
const isThere = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  )
async function make(title: string): Promise<void> {
  const clipIds = (await ennick.clips(productionId)).filter((clip) => clip.title === title).map(({ id }) => id)
  const { jobs } = await ennick.call('make', { ...params(), body: { clipIds, recipeId: 'half-h264-intra' } })
  for (const { id } of jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done' })
}

test('while nothing was made a folder of its own is made where it is wanted, and the empty one goes', async () => {
  const before = (await place()).path
  const edit = join(drive, 'edit')
  await mkdir(edit)
  const now = await change(edit)
  expect(now).toMatchObject({ path: join(edit, basename(before)), isHere: true, files: 0, bytes: 0 })
  expect(now.freeBytes).toBeGreaterThan(0)
  expect(await isThere(before)).toBe(false)
  await expect(change(join(ennick.media, '..'))).rejects.toThrow(/outside the folders that Ennick may use/)
  await make('D1')
  expect((await place()).files).toBe(1)
  expect(await readdir(now.path)).toContain('half-h264-intra')
})

test('a look that began before the place was changed does not call the new one away', async () => {
  const other = (await ennick.addProduction('Raced')) as string
  const read = () => ennick.call('readMadePlace', { params: { productionId: other } })
  const connection = connect(ennick.config.databaseUrl)
  const before = await connection.database.select().from(volumes).where(eq(volumes.productionId, other))
  const folder = join(ennick.media, 'raced')
  await mkdir(folder)
  await ennick.call('changeMadePlace', { params: { productionId: other }, body: { folder } })
  await lookAtVolumes(connection.database, before)
  expect(await read()).toMatchObject({ isHere: true, path: expect.stringContaining(folder) })
  await connection.close()
})

test('the place is looked into: what is in use, what is nobody’s, what is gone', async () => {
  const look = () => ennick.call('lookIntoMadePlace', params())
  const { path } = await place()
  await writeFile(join(path, 'half-h264-intra', 'notes of somebody.txt'), 'mine')
  const found = await look()
  expect(found.files.map(({ path: below, state, clip, isNew }) => [basename(below), state, clip, isNew])).toEqual([
    ['notes of somebody.txt', 'not in the ledger', null, false],
    ['D1_proxy.mov', 'in use', 'D1', true],
  ])
  expect(found.counts).toContainEqual({ state: 'not in the ledger', files: 1, bytes: 4 })
  const made = join(path, found.files[1]?.path ?? '')
  await rename(made, `${made}.aside`)
  const states = (await look()).files.map(({ path: below, state }) => [basename(below), state])
  expect(states).toEqual(
    expect.arrayContaining([
      ['D1_proxy.mov', 'gone'],
      ['D1_proxy.mov.aside', 'not in the ledger'],
    ]),
  )
  await writeFile(made, 'another under its name')
  expect((await look()).files.map(({ state }) => state)).toContain('changed')
  await rename(`${made}.aside`, made)
  const clipIds = (await ennick.clips(productionId)).filter(({ title }) => title === 'D1').map(({ id }) => id)
  await ennick.call('takeOutClips', { ...params(), body: { clipIds, apply: true } })
  expect((await look()).files.map(({ state }) => state)).toEqual(['not in the ledger', 'set aside'])
  await ennick.call('bringBackClips', { ...params(), body: { clipIds } })
  await rm(join(path, 'half-h264-intra', 'notes of somebody.txt'))
})

test('what lies in a folder of somebody’s is passed over by the scan of that folder', async () => {
  await ennick.scan((await ennick.volume(productionId, 'DRIVE'))?.id ?? '')
  expect((await ennick.clips(productionId)).map(({ title }) => title)).toEqual(['D1', 'D2'])
})

test('Ennick moves nothing: a folder with files in it is moved by a person, and known by its marker', async () => {
  const { path } = await place()
  const elsewhere = join(ennick.media, 'other')
  await mkdir(elsewhere)
  await expect(change(elsewhere)).rejects.toThrow(/Files lie in .* already, and Ennick moves nobody’s files/)
  expect(await readdir(elsewhere)).toEqual([])
  // A copy is not the place: both would claim to be it.
  await cp(path, join(elsewhere, 'copy'), { recursive: true })
  await expect(change(join(elsewhere, 'copy'))).rejects.toThrow(/is a copy: .* is still there/)
  await rm(join(elsewhere, 'copy'), { recursive: true })

  const moved = join(elsewhere, 'moved by hand')
  await rename(path, moved)
  expect(await change(moved)).toMatchObject({ path: moved, isHere: true, files: 1 })
  const check = await ennick.call('check', params())
  await ennick.waitForJob(check.id)
  const [pair] = (await ennick.call('listPairs', params())).flatMap((row) => row.pairs)
  expect(pair?.verdict).toBe('proven')
  await make('D2')
  expect((await readdir(moved, { recursive: true })).filter((name) => name.endsWith('.mov'))).toHaveLength(2)
})

test('a folder of its name that is there already is not taken over', async () => {
  const other = await ennick.addProduction('Placed too')
  const own = await ennick.call('readMadePlace', { params: { productionId: other } })
  const taken = join(ennick.media, 'taken')
  await mkdir(join(taken, basename(own.path)), { recursive: true })
  await writeFile(join(taken, basename(own.path), 'mine.txt'), 'not Ennick’s')
  const asked = { params: { productionId: other }, body: { folder: taken } }
  await expect(ennick.call('changeMadePlace', asked)).rejects.toThrow(/is already there/)
  expect(await readdir(join(taken, basename(own.path)))).toEqual(['mine.txt'])
  expect((await ennick.call('readMadePlace', { params: { productionId: other } })).path).toBe(own.path)
})
