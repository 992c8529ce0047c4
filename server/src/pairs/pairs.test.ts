import { mkdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let drive: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Pairs')
  drive = join(ennick.media, 'drive')
  for (const [index, name] of ['P1', 'P2', 'P3'].entries())
    await makePicture(join(drive, `${name}.mov`), { frames: 12, seed: index, timecode: `1${index}:00:00:00` })
  await ennick.addVolume(productionId, 'DRIVE', drive)
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  await make(clipIds)
})
afterAll(() => ennick.stop())

async function make(clipIds: readonly string[]): Promise<void> {
  const body = { clipIds, recipeId: 'half-h264-intra' }
  const { jobs } = await ennick.call('make', { params: { productionId }, body })
  for (const { id } of jobs) expect((await ennick.waitForJob(id)).state).toBe('done')
}
const ledger = async () => ennick.call('listPairs', { params: { productionId } })
const pairs = async () => (await ledger()).flatMap((row) => row.pairs)
const pairOf = async (name: string) => (await pairs()).find((pair) => pair.name === `${name}_proxy.mov`)
const pathOf = async (pairId = '') =>
  (await ennick.call('readPair', { params: { pairId } })).madeFiles[0]?.path as string
const release = (pairIds: readonly (string | undefined)[], apply = true) =>
  ennick.call('release', { params: { productionId }, body: { pairIds, apply } })
const check = async () => ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
const isThere = (path: string) =>
  stat(path).then(
    () => true,
    () => false,
  )

describe('the ledger, a page at a time', () => {
  const search = (body: object) => ennick.call('searchPairs', { params: { productionId }, body })
  const names = async (body: object) => (await search(body)).lines.map(({ name }) => name)

  test('is sorted, searched by words, verdict and origin, and counted as a whole', async () => {
    expect(await names({})).toEqual(['P1.mov', 'P2.mov', 'P3.mov'])
    expect(await names({ sort: 'made', isDescending: true })).toEqual(['P3.mov', 'P2.mov', 'P1.mov'])
    expect(await names({ words: 'drive p2' })).toEqual(['P2.mov'])
    expect(await names({ words: 'P2 nobody' })).toEqual([])
    expect(await names({ verdict: 'proven', from: 1, limit: 1 })).toEqual(['P2.mov'])
    expect(await names({ origin: 'adopted' })).toEqual([])
    const { found, counts, can, lines } = await search({ words: 'P3' })
    expect([found, counts.pairs, counts.proven, counts.lines]).toEqual([1, 3, 3, 3])
    expect(can).toEqual({ decode: 1, 'decode again': 1, 'make again': 0, release: 1, compare: 0 })
    expect(lines[0]?.strip?.made).toHaveLength(1)
  })

  test('names the pairs of all that it finds, for which something can be done', async () => {
    const ids = async (body: object) => (await ennick.call('listPairIds', { params: { productionId }, body })).ids
    expect(await ids({ purpose: 'release', words: 'P1' })).toEqual([(await pairOf('P1'))?.id])
    expect(await ids({ purpose: 'make again' })).toEqual([])
    expect(await ids({ purpose: 'decode' })).toHaveLength(3)
  })
})

test('where pictures are not looked at, asking for it is refused', async () => {
  await expect(ennick.call('comparePictures', { params: { productionId } })).rejects.toThrow(/ENNICK_LOOK=no/)
})

test('a suffix of the house’s own is said once, and then a proxy that carries it is known', async () => {
  const vendor = join(ennick.media, 'house')
  await makePicture(join(vendor, 'P1-EDIT.mov'), { size: '160x90', frames: 12, seed: 0, timecode: '10:00:00:00' })
  const volumeId = await ennick.addVolume(productionId, 'HOUSE', vendor)
  await ennick.call('declareRole', { params: { volumeId }, body: { path: '', role: 'proxy' } })
  const outcome = async () => (await ennick.call('listOffers', { params: { productionId } }))[0]?.outcome
  expect(await outcome()).toBe('likely')
  const set = (proxySuffixes: string[]) =>
    ennick.call('setProxySuffixes', { params: { productionId }, body: { proxySuffixes } })
  expect((await set(['_proxy', '-edit', '-edit'])).proxySuffixes).toEqual(['_proxy', '-edit'])
  expect(await outcome()).toBe('fits')
  await set(['_proxy', '_small'])
  await ennick.call('declareRole', { params: { volumeId }, body: { path: '', role: 'original' } })
})

test('what is mismatched is made again from the ledger, whatever cut uses it, and that is taken back', async () => {
  const pair = await pairOf('P1')
  await ennick.query(`update pairs set recipe_version = 0 where id = $1`, [pair?.id])
  expect((await pairOf('P1'))?.verdict).toBe('stale')
  const [mend] = await ennick.call('makePairsAgain', { params: { productionId }, body: { pairIds: [pair?.id] } })
  for (;;) {
    const mends = await ennick.call('listMends', { params: { productionId } })
    if (mends.find(({ id }) => id === mend?.id)?.state === 'done') break
    await new Promise((done) => setTimeout(done, 50))
  }
  expect(await pairOf('P1')).toMatchObject({ verdict: 'proven' })
  expect((await pairOf('P1'))?.id).not.toBe(pair?.id)
  // A mend rests on it: it is not released before that is taken back.
  expect((await release([(await pairOf('P1'))?.id])).kept[0]?.reason).toMatch(/A mend rests on it/)
  await ennick.call('undoMend', { params: { mendId: mend?.id ?? '' } })
  expect((await pairOf('P1'))?.id).toBe(pair?.id)
  await ennick.query(`update pairs set recipe_version = 1 where id = $1`, [pair?.id])
})

describe('release', () => {
  test('says what it would free, and deletes what can be made again and nothing else', async () => {
    const pair = await pairOf('P1')
    const path = await pathOf(pair?.id)
    const { size } = await stat(path)
    const original = await readFile(join(drive, 'P1.mov'))
    expect(await release([pair?.id], false)).toEqual({ released: 1, bytes: size, kept: [] })
    expect([await isThere(path), (await pairs()).length]).toEqual([true, 3])
    expect(await release([pair?.id])).toEqual({ released: 1, bytes: size, kept: [] })
    expect([await isThere(path), (await pairs()).length]).toEqual([false, 2])
    expect((await readFile(join(drive, 'P1.mov'))).equals(original)).toBe(true)
    const clipId = (await ennick.clips(productionId)).find(({ name }) => name === 'P1.mov')?.id as string
    await make([clipId])
    expect((await pairOf('P1'))?.verdict).toBe('proven')
  })

  test('keeps, with the reason, what could not be made again', async () => {
    const [path, away] = [join(drive, 'P2.mov'), join(ennick.media, 'P2.mov')]
    const pair = await pairOf('P2')
    const reason = async () => (await release([pair?.id])).kept[0]?.reason
    const kept = await readFile(path)
    await rename(path, away)
    // Not checked yet: the ledger still believes it is there, the disk is asked.
    expect(await reason()).toMatch(/P2\.mov on “DRIVE”, which it was made of, is not as it was: check again first/)
    await check()
    expect(await reason()).toMatch(/is not on volume “DRIVE” any more: this may be the last copy/)
    await makePicture(path, { frames: 12, seed: 9, timecode: '11:00:00:00' })
    await check()
    expect(await reason()).toMatch(/is another than it was made of/)
    await writeFile(path, kept)
    await check()
    expect(await isThere(await pathOf(pair?.id))).toBe(true)
    await rm(away)
  })

  test('keeps what somebody has put in place of a made file, and what others made', async () => {
    const pair = await pairOf('P3')
    const path = await pathOf(pair?.id)
    await rm(path)
    await writeFile(path, 'somebody’s')
    expect((await release([pair?.id])).kept[0]?.reason).toMatch(/is another file than the one that Ennick put there/)
    expect(await readFile(path, 'utf8')).toBe('somebody’s')
    await rm(path)
    const vendor = join(ennick.media, 'vendor')
    await makePicture(join(vendor, 'P2_small.mov'), { size: '160x90', frames: 12, seed: 1, timecode: '11:00:00:00' })
    const volumeId = await ennick.addVolume(productionId, 'VENDOR', vendor)
    await ennick.call('declareRole', { params: { volumeId }, body: { path: '', role: 'proxy' } })
    const [offer] = await ennick.call('listOffers', { params: { productionId } })
    const accept = () =>
      ennick.call('acceptOffers', { params: { productionId }, body: { fileIds: [offer?.fileId], choices: [] } })
    expect(await accept()).toEqual({ paired: 1 })
    const adopted = (await pairs()).find(({ origin }) => origin === 'adopted')
    expect((await release([adopted?.id])).kept[0]?.reason).toMatch(/made elsewhere/)

    // Untied, its file stays, and it is offered again.
    await ennick.call('untiePair', { params: { pairId: adopted?.id ?? '' } })
    expect((await pairs()).some(({ origin }) => origin === 'adopted')).toBe(false)
    expect(await isThere(join(vendor, 'P2_small.mov'))).toBe(true)
    expect(await accept()).toEqual({ paired: 1 })

    // Moved by its maker it is offered once more, and remains the pair that it was.
    const before = (await pairs()).filter(({ origin }) => origin === 'adopted')
    await mkdir(join(vendor, 'sent again'))
    await rename(join(vendor, 'P2_small.mov'), join(vendor, 'sent again/P2_edit_small.mov'))
    await ennick.scan(volumeId)
    const again = await ennick.call('listOffers', { params: { productionId } })
    const body = { fileIds: [], choices: again.map(({ fileId, rivals }) => ({ fileId, clipId: rivals[0]?.clipId })) }
    expect(await ennick.call('acceptOffers', { params: { productionId }, body })).toEqual({ paired: 1 })
    const after = (await pairs()).filter(({ origin }) => origin === 'adopted')
    expect(after.map(({ id, name }) => [id, name])).toEqual([[before[0]?.id, 'P2_edit_small.mov']])
    expect(after[0]?.verdict).not.toBe('proxy gone')
    expect(await pathOf(after[0]?.id)).toBe(join(vendor, 'sent again/P2_edit_small.mov'))
    const { history } = await ennick.call('readPair', { params: { pairId: after[0]?.id ?? '' } })
    expect(history.map(({ what }) => what)).toContainEqual(expect.stringContaining('was moved'))
  })
})

describe('what Ennick made is untied', () => {
  const untie = async (name: string) => ennick.call('untiePair', { params: { pairId: (await pairOf(name))?.id ?? '' } })
  const lastUntie = async () =>
    (await ennick.call('listMends', { params: { productionId } })).find(({ kind }) => kind === 'untie')?.id ?? ''
  const undo = async () => ennick.call('undoMend', { params: { mendId: await lastUntie() } })

  test('its file is kept apart, and comes back to its very place when that is taken back', async () => {
    const pair = await pairOf('P2')
    const path = await pathOf(pair?.id)
    const bytes = await readFile(path)
    await untie('P2')
    expect([await pairOf('P2'), await isThere(path)]).toEqual([undefined, false])
    const [made] = await ennick.query<{ root: string }>(`select root_path as root from volumes where kind = 'made'`)
    const kept = join(made?.root ?? '', 'untied', pair?.id ?? '', 'P2_proxy.mov')
    expect((await readFile(kept)).equals(bytes)).toBe(true)
    await undo()
    expect(await pairOf('P2')).toMatchObject({ id: pair?.id, verdict: 'proven' })
    expect([(await readFile(path)).equals(bytes), await isThere(kept)]).toEqual([true, false])
  })

  test('the clip is made again in its place; the untied one does not come back before that is released', async () => {
    const first = (await pairOf('P2'))?.id
    await untie('P2')
    await make([(await ennick.clips(productionId)).find(({ name }) => name === 'P2.mov')?.id ?? ''])
    const second = await pairOf('P2')
    expect([second?.verdict, second?.id === first]).toEqual(['proven', false])
    await expect(undo()).rejects.toMatchObject({ code: 'mend-conflict' })
    expect((await release([second?.id])).released).toBe(1)
    await undo()
    expect(await pairOf('P2')).toMatchObject({ id: first, verdict: 'proven' })
  })

  test('what somebody has put in its place stays, and nothing is untied', async () => {
    const path = await pathOf((await pairOf('P2'))?.id)
    await rename(path, `${path}.aside`)
    await writeFile(path, 'somebody’s')
    await expect(untie('P2')).rejects.toMatchObject({ code: 'cannot-move' })
    expect(await readFile(path, 'utf8')).toBe('somebody’s')
    expect(await pairOf('P2')).toBeDefined()
  })
})
