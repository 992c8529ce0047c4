import { cp, mkdir, readdir, rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, join } from 'node:path'
import type { MadePlace } from '@ennick/contract'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { eq } from 'drizzle-orm'
import { lookAtVolumes } from '../intake/presence.ts'
import { connect } from '../store/database.ts'
import { volumes } from '../store/schema.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture, makeSound } from '../testing/media.ts'

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
const place = () => ennick.madePlace(productionId)
const changeOf = async (ofProduction: string, folder: string) => {
  const { id: volumeId } = await ennick.madePlace(ofProduction)
  return (await ennick.call('changeMadePlace', { params: { volumeId }, body: { folder } }))[0] as MadePlace
}
const change = (folder: string) => changeOf(productionId, folder)
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
  const read = () => ennick.madePlace(other)
  const connection = connect(ennick.config.databaseUrl)
  const before = await connection.database.select().from(volumes).where(eq(volumes.productionId, other))
  const folder = join(ennick.media, 'raced')
  await mkdir(folder)
  await changeOf(other, folder)
  await lookAtVolumes(connection.database, before)
  expect(await read()).toMatchObject({ isHere: true, path: expect.stringContaining(folder) })
  await connection.close()
})

test('the place is looked into: what is in use, what is nobody’s, what is gone', async () => {
  const { id: volumeId } = await place()
  const look = () => ennick.call('lookIntoMadePlace', { params: { volumeId } })
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
  const own = await ennick.madePlace(other)
  const taken = join(ennick.media, 'taken')
  await mkdir(join(taken, basename(own.path)), { recursive: true })
  await writeFile(join(taken, basename(own.path), 'mine.txt'), 'not Ennick’s')
  await expect(changeOf(other, taken)).rejects.toThrow(/is already there/)
  expect(await readdir(join(taken, basename(own.path)))).toEqual(['mine.txt'])
  expect((await ennick.madePlace(other)).path).toBe(own.path)
})

describe('a place of its own for some kinds', () => {
  const optimized = 'source-prores-422'
  let finishing: string
  const places = () => ennick.call('listMadePlaces', params())
  const place2 = async () => (await places())[1] as MadePlace
  const rule = (kind: string, placeId: string) =>
    ennick.call('setMadePlaceRule', { ...params(), body: { kind, placeId } })
  const clipOf = async (title: string) => (await ennick.clips(productionId)).find((clip) => clip.title === title)?.id
  const filesIn = async (path: string): Promise<string[]> =>
    (await readdir(path, { recursive: true })).filter((name) => /\.(mov|mxf)$/.test(name)).sort()
  const look = async (): Promise<void> => {
    const { database, close } = connect(ennick.config.databaseUrl)
    await lookAtVolumes(database, await database.select().from(volumes))
    await close()
  }
  const pairsOf = async (kind: string) =>
    (await ennick.call('listPairs', params())).flatMap((row) => row.pairs).filter((pair) => pair.kind === kind)
  async function order(title: string, ...recipeIds: string[]) {
    const [recipeId, ...alsoRecipeIds] = recipeIds
    const { jobs } = await ennick.call('make', {
      ...params(),
      body: { clipIds: [await clipOf(title)], recipeId, alsoRecipeIds },
    })
    return ennick.waitForJob(jobs[0]?.id ?? '')
  }

  beforeAll(async () => {
    finishing = join(ennick.media, 'finishing')
    await mkdir(finishing)
    await makeSound(join(drive, 'rushes/T1.wav'), 48_000, 0)
    await makePicture(join(drive, 'rushes/D3.mov'), { frames: 12, seed: 2, timecode: '12:00:00:00' })
    await ennick.scan((await ennick.volume(productionId, 'DRIVE'))?.id ?? '')
  })

  test('it is a folder of the production’s own, and says what goes there', async () => {
    const add = (body: object) => ennick.call('addMadePlace', { ...params(), body })
    const wanted = { folder: finishing, label: 'Finishing', takes: ['optimized'] }
    await expect(add({ ...wanted, label: 'DRIVE' })).rejects.toThrow(/called “DRIVE” already/)
    await expect(add({ ...wanted, folder: (await place()).path })).rejects.toThrow(/is a place of made files itself/)
    await expect(add({ ...wanted, folder: join(ennick.media, '..') })).rejects.toThrow(/outside the folders/)
    expect(await places()).toHaveLength(1)
    await add(wanted)
    expect(await places()).toMatchObject([
      { isMain: true, takes: ['proxy', 'review', 'deliverable'] },
      { isMain: false, label: 'Finishing', takes: ['optimized'], files: 0, isHere: true },
    ])
    expect(await readdir(finishing)).toEqual([basename((await place2()).path)])
    expect((await place2()).path).toMatch(/\/Placed-[0-9a-f]{8}-Finishing$/)
  })

  test('what one reading makes goes to the place of its kind each, and the plan says so', async () => {
    const body = { clipIds: [await clipOf('D3')], recipeId: 'half-h264-intra', alsoRecipeIds: [optimized] }
    const plan = await ennick.call('planMake', { ...params(), body })
    expect(plan.places.map(({ path }) => path)).toEqual([(await place()).path, (await place2()).path])
    expect(plan.places.reduce((sum, { bytes }) => sum + bytes, 0)).toBe(plan.bytes)
    // Both lie on one disk here, which is left with what both leave.
    for (const { freeBytes, leftBytes } of plan.places) expect(leftBytes).toBe((freeBytes ?? 0) - plan.bytes)
    expect(await order('D3', 'half-h264-intra', optimized)).toMatchObject({ state: 'done' })
    expect(await filesIn((await place2()).path)).toEqual([expect.stringContaining('D3')])
    expect(await filesIn((await place()).path)).toHaveLength(3)
    expect(await ennick.unfinished()).toEqual([])
    const listing = await ennick.call('lookIntoMadePlace', { params: { volumeId: (await place2()).id } })
    expect(listing.files.map(({ state, clip }) => [state, clip])).toEqual([['in use', 'D3']])
    const [pair] = await pairsOf('optimized')
    expect(pair?.verdict).toBe('proven')
  })

  test('after the rule is another, what is made again goes there; what it replaces is kept where it was', async () => {
    const [main, second] = (await places()) as [MadePlace, MadePlace]
    const [before] = await filesIn(second.path)
    await rule('optimized', main.id)
    expect((await places()).map(({ takes }) => takes)).toEqual([['proxy', 'optimized', 'review', 'deliverable'], []])
    // Only what is not in order is made again.
    await ennick.query('update pairs set is_compared = false where recipe_id = $1', [optimized])
    const pairIds = (await pairsOf('optimized')).map(({ id }) => id)
    const [mend] = await ennick.call('makePairsAgain', { ...params(), body: { pairIds } })
    const state = async () => (await ennick.call('listMends', params())).find(({ id }) => id === mend?.id)?.state
    while ((await state()) === 'waiting') await new Promise((resolve) => setTimeout(resolve, 100))
    expect(await state()).toBe('done')
    expect(await filesIn(second.path)).toEqual([expect.stringMatching(/^\.kept\//)])
    expect(await filesIn(main.path)).toContainEqual(expect.stringMatching(new RegExp(`^${optimized}/.*D3`)))
    await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
    expect(await filesIn(second.path)).toEqual([before])
    expect(await filesIn(main.path)).not.toContainEqual(expect.stringMatching(new RegExp(`^${optimized}/`)))
    await rule('optimized', second.id)
  })

  test('a place that is not there keeps nothing from the others, and is told before anything is made', async () => {
    const second = await place2()
    const away = `${second.path} away`
    await rename(second.path, away)
    await look()
    expect((await places()).map(({ isHere }) => isHere)).toEqual([true, false])
    const asked = { clipIds: [await clipOf('D1')], recipeId: optimized }
    const plan = await ennick.call('planMake', { ...params(), body: asked })
    expect(plan.blocked).toMatch(/“Finishing” is not there now/)
    await expect(ennick.call('make', { ...params(), body: asked })).rejects.toThrow(/“Finishing” is not there now/)
    // Where nothing goes there, it is in nobody's way.
    const none = { clipIds: [await clipOf('T1')], recipeId: optimized }
    expect((await ennick.call('planMake', { ...params(), body: none })).blocked).toBeNull()
    const proxy = (await pairsOf('proxy')).find(({ name }) => name.startsWith('D3'))
    await ennick.call('untiePair', { params: { pairId: proxy?.id ?? '' } })
    const [mend] = await ennick.call('listMends', params())
    await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
    const [optimizedPair] = await pairsOf('optimized')
    await expect(ennick.call('untiePair', { params: { pairId: optimizedPair?.id ?? '' } })).rejects.toThrow(
      /is not there/,
    )
    await rename(away, second.path)
    await look()
  })

  test('it is given up when nothing is in it, and the main one never', async () => {
    const [main, second] = (await places()) as [MadePlace, MadePlace]
    const remove = (volumeId: string) => ennick.call('removeMadePlace', { params: { volumeId } })
    await expect(remove(main.id)).rejects.toThrow(/main place/)
    await expect(remove(second.id)).rejects.toThrow(/Files lie in/)
    const pairIds = (await pairsOf('optimized')).map(({ id }) => id)
    const released = await ennick.call('release', { ...params(), body: { pairIds, apply: true } })
    expect(released).toMatchObject({ released: 1, kept: [] })
    await writeFile(join(second.path, 'notes.txt'), 'somebody’s')
    await expect(remove(second.id)).rejects.toThrow(/Files lie in/)
    expect(await readdir(second.path)).toContain('notes.txt')
    await rm(join(second.path, 'notes.txt'))
    await remove(second.id)
    expect(await readdir(finishing)).toEqual([])
    expect((await places()).map(({ takes }) => takes)).toEqual([['proxy', 'optimized', 'review', 'deliverable']])
  })
})
