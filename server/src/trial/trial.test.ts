import { access, copyFile, mkdir, readdir, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { connect } from '../store/database.ts'
import { lockClasses } from '../store/lock-classes.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let otherCut: string
let bay: string
let shelf: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Low Water')
  bay = join(ennick.media, 'bay')
  shelf = join(ennick.media, 'shelf')
  await mkdir(shelf)
  for (const [seed, name] of ['A001C001', 'A001C002', 'A001C003', 'A001C009'].entries())
    await makePicture(join(bay, `${name}.mov`), { seed, timecode: `10:0${seed}:00:00` })
  await makePicture(join(shelf, 'B001C001.mov'), { seed: 7, timecode: '11:00:00:00', reel: 'B001' })
  await ennick.addVolume(productionId, 'BAY', bay)
  const clips = await ennick.clips(productionId)
  const body = { clipIds: clips.map(({ id }) => id), recipeId: 'half-h264-intra' }
  const { jobs } = await ennick.call('make', { params: { productionId }, body })
  for (const { id } of jobs) expect((await ennick.waitForJob(id)).state).toBe('done')
  const text = `TITLE: Mill
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
002  A001 V C 10:01:00:10 10:01:01:10 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C002.mov
003  A001 V C 10:02:00:10 10:02:02:02 01:00:02:00 01:00:03:17
* FROM CLIP NAME: A001C003.mov
004  B001 V C 11:00:00:10 11:00:01:10 01:00:04:00 01:00:05:00
* FROM CLIP NAME: B001C001.mov
`
  const add = async (fileName: string, list: string) =>
    (await ennick.call('addCut', { params: { productionId }, body: { fileName, text: list } })).id
  cutId = await add('mill.edl', text)
  otherCut = await add('other.edl', text.replace('TITLE: Mill', 'TITLE: Other'))
  await rename(join(bay, 'A001C001.mov'), join(shelf, 'renamed.mov'))
  await ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
})
afterAll(() => ennick.stop())

const states = async (cut: string) =>
  (await ennick.call('readCut', { params: { cutId: cut } })).events.map(({ state }) => state)
const kinds = async (cut: string) =>
  (await ennick.call('listFindings', { params: { cutId: cut } })).map(({ kind, message }) => `${kind}: ${message}`)
/** All that the ledger knows of the production. */
const ledger = async (id = productionId) => ({
  clips: await ennick.query(
    `select clips.id, name, reel, described, file_id, part from clips join clip_files on clip_id = clips.id
     where production_id = $1 order by clips.id, ordinal`,
    [id],
  ),
  files: await ennick.query(
    `select files.* from files join volumes on volumes.id = volume_id where production_id = $1 order by files.id`,
    [id],
  ),
  pairs: await ennick.query(
    `select pairs.id, pairs.name, origin, is_active from pairs join clips on clips.id = clip_id
     where production_id = $1 order by pairs.id`,
    [id],
  ),
  events: await ennick.query(
    `select events.* from events join cuts on cuts.id = cut_id where production_id = $1 order by cut_id, position`,
    [id],
  ),
})
const begin = async (of = cutId) => ennick.call('beginTrial', { params: { cutId: of } })
const mendAll = async (cut: string, folder = shelf) => {
  const job = await ennick.call('search', { params: { cutId: cut }, body: { folder, findingKeys: null } })
  await ennick.waitForJob(job.id)
  const { rows } = await ennick.call('readSearch', { params: { jobId: job.id } })
  const choices = rows.flatMap(({ wantedId, candidateId }) => (candidateId ? [{ wantedId, candidateId }] : []))
  return ennick.call('repoint', { params: { cutId: cut }, body: { searchJobId: job.id, choices } })
}
const trimAll = async (cut: string) => {
  const findings = await ennick.call('listFindings', { params: { cutId: cut } })
  const findingKeys = findings.filter(({ trim }) => trim !== null).map(({ key }) => key)
  return ennick.call('trim', { params: { cutId: cut }, body: { findingKeys } })
}
const productions = async () => (await ennick.call('listProductions', {})).map(({ name }) => name)

test('a trial is the cut with what it uses: the same lands, the same is found, and nothing is touched', async () => {
  const [before, media] = [await ledger(), await readdir(ennick.media, { recursive: true })]
  const trial = await begin()
  expect(await states(trial.cutId)).toEqual(await states(cutId))
  expect(await states(cutId)).toEqual(['on proxy', 'on original', 'short', 'unresolved'])
  expect(await kinds(trial.cutId)).toEqual(await kinds(cutId))
  const clips = (await ennick.clips(trial.productionId)).map(({ name }) => name)
  // What the cut does not use is not in it.
  expect(clips.sort()).toEqual(['A001C001.mov', 'A001C002.mov', 'A001C003.mov'])
  expect(await ledger()).toEqual(before)
  expect(await ennick.call('readTrial', { params: { productionId: trial.productionId } })).toMatchObject({
    ...{ productionName: 'Low Water', cutName: 'Mill', mends: 0, keepCount: 0, asVersion: false },
    findings: { before: (await kinds(cutId)).length, now: (await kinds(cutId)).length },
  })
  await expect(begin(trial.cutId)).rejects.toThrow(/This is a trial already/)
  await expect(ennick.call('handOff', { params: { cutId: trial.cutId }, body: {} })).rejects.toThrow(
    /hands nothing off/,
  )
  await expect(ennick.call('keepTrial', { params: { productionId: trial.productionId } })).rejects.toThrow(
    /Nothing was mended in this trial/,
  )
  await ennick.call('endTrial', { params: { productionId: trial.productionId } })
  expect(await productions()).toEqual(['Low Water'])
  expect([await ledger(), await readdir(ennick.media, { recursive: true })]).toEqual([before, media])
})

test('what was made for the production is read in a trial, and neither released nor scanned away there', async () => {
  const trial = await begin()
  const params = { productionId: trial.productionId }
  const pairs = (await ennick.call('listPairs', { params })).flatMap((row) => row.pairs)
  expect(pairs.map(({ origin }) => origin)).toEqual(['adopted', 'adopted', 'adopted'])
  const told = (list: typeof pairs) => list.map(({ name, verdict, recipe }) => [name, verdict, recipe]).sort()
  const own = (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) => row.pairs)
  expect(told(pairs)).toEqual(told(own).filter(([name]) => name !== 'A001C009_proxy.mov'))
  const released = await ennick.call('release', {
    params,
    body: { pairIds: pairs.map(({ id }) => id), apply: true },
  })
  expect(released).toMatchObject({ released: 0, bytes: 0 })
  const detail = await ennick.call('readPair', { params: { pairId: pairs[0]?.id ?? '' } })
  await access(detail.madeFiles[0]?.path ?? '')
  const volume = (await ennick.call('listVolumes', { params })).find(
    ({ label }) => label === 'Made by Ennick, for Low Water',
  )
  await expect(ennick.scan(volume?.id ?? '')).rejects.toThrow(/is checked, not scanned/)
  expect((await ennick.call('listPairs', { params })).flatMap((row) => row.pairs)).toEqual(pairs)
  await ennick.call('endTrial', { params })
})

test('mends of a trial leave its production as it is until kept, each as a mend that is taken back', async () => {
  const before = { ledger: await ledger(), states: [await states(cutId), await states(otherCut)] }
  const trial = await begin()
  const { mend } = { mend: await mendAll(trial.cutId) }
  expect(mend.changeCount).toBe(2)
  const version = await trimAll(trial.cutId)
  expect(await states(version.cutId)).toEqual(['on original', 'on original', 'on original', 'on original'])
  expect([await ledger(), [await states(cutId), await states(otherCut)]]).toEqual([before.ledger, before.states])
  expect(await ennick.call('readTrial', { params: { productionId: trial.productionId } })).toMatchObject({
    ...{ mends: 2, keepCount: 2, asVersion: true, stays: [], blocking: { now: 0 } },
  })
  const kept = await ennick.call('keepTrial', { params: { productionId: trial.productionId } })
  expect(kept.stays).toBeNull()
  expect(kept.mends.map(({ title }) => title)).toEqual([
    'Keep 1 original and 1 event of the trial of “Mill”',
    'Keep 1 use of the trial of “Mill”, as version 2',
  ])
  expect(await states(kept.cutId)).toEqual(['on original', 'on original', 'on original', 'on original'])
  // The other cut uses the same originals, and is trimmed by nobody.
  expect(await states(otherCut)).toEqual(['on original', 'on original', 'short', 'on original'])
  expect(await productions()).toEqual(['Low Water'])
  for (const { id } of [...kept.mends].reverse()) await ennick.call('undoMend', { params: { mendId: id } })
  expect([await ledger(), [await states(cutId), await states(otherCut)]]).toEqual([before.ledger, before.states])
})

describe('two at once', () => {
  test('what was mended otherwise in the production meanwhile is not overwritten', async () => {
    const trial = await begin()
    await mendAll(trial.cutId)
    const attic = join(ennick.media, 'attic')
    await mkdir(attic)
    await copyFile(join(shelf, 'renamed.mov'), join(attic, 'another copy.mov'))
    const mend = await mendAll(cutId, attic)
    const before = await ledger()
    const keep = () => ennick.call('keepTrial', { params: { productionId: trial.productionId } })
    await expect(keep()).rejects.toThrow(/This link was changed in “Low Water” meanwhile: A001C001/)
    expect(await ledger()).toEqual(before)
    await ennick.call('undoMend', { params: { mendId: mend.id } })
    // Nothing of it is left there: now it can be kept.
    const kept = await keep()
    expect(await states(kept.cutId)).toEqual(['on original', 'on original', 'short', 'on original'])
    await ennick.call('undoMend', { params: { mendId: kept.mends[0]?.id ?? '' } })
  })

  test('what is so there already is not done again, and keeps nothing else from being kept', async () => {
    const trial = await begin()
    const keep = () => ennick.call('keepTrial', { params: { productionId: trial.productionId } })
    await mendAll(trial.cutId)
    const own = await mendAll(cutId)
    await expect(keep()).rejects.toThrow(/is so in its production already/)
    await trimAll(trial.cutId)
    const kept = await keep()
    expect(kept.mends.map(({ kind }) => kind)).toEqual(['trim'])
    expect(await states(kept.cutId)).toEqual(['on original', 'on original', 'on original', 'on original'])
    for (const { id } of [kept.mends[0] ?? own, own]) await ennick.call('undoMend', { params: { mendId: id } })
  })

  test('a newer version of the cut, or none of it, says so', async () => {
    const trial = await begin()
    const version = await trimAll(trial.cutId)
    const own = await trimAll(cutId)
    const keep = () => ennick.call('keepTrial', { params: { productionId: trial.productionId } })
    await expect(keep()).rejects.toThrow(/“Mill” has a newer version in its production/)
    expect(await states(version.cutId)).toContain('on original')
    await ennick.call('undoMend', { params: { mendId: own.mend.id } })
    await ennick.call('endTrial', { params: { productionId: trial.productionId } })
  })
})

test('a search of a trial looks through what its production knows, and takes no original of another clip', async () => {
  await ennick.addVolume(productionId, 'SHELF', shelf)
  const trial = await begin()
  const body = { scopes: ['known' as const], findingKeys: null }
  const job = await ennick.waitForJob((await ennick.call('search', { params: { cutId: trial.cutId }, body })).id)
  const { rows } = await ennick.call('readSearch', { params: { jobId: job.id } })
  expect(rows.flatMap(({ candidateId }) => candidateId ?? [])).toEqual([join(shelf, 'renamed.mov')])
  await ennick.call('endTrial', { params: { productionId: trial.productionId } })
})

test('a trial ends while its index of clips is being written', async () => {
  const trial = await begin()
  const [clip] = await ennick.query('select id from clips where production_id = $1', [trial.productionId])
  const { pool, close } = connect(ennick.config.databaseUrl)
  const writer = await pool.connect()
  await writer.query('begin')
  await writer.query('select pg_advisory_xact_lock($1, hashtext($2))', [lockClasses.index, trial.productionId])
  await writer.query('update clip_index set mark = mark where production_id = $1', [trial.productionId])
  const ended = ennick.call('endTrial', { params: { productionId: trial.productionId } })
  await ennick.untilWaiting()
  await writer.query('select 1 from clips where id = $1 for key share', [clip?.id])
  await writer.query('commit')
  writer.release()
  await close()
  expect(await ended).toEqual({ done: true })
})

test('a trial that has made files is not forgotten before those are released', async () => {
  const trial = await begin()
  const params = { productionId: trial.productionId }
  const clip = (await ennick.clips(trial.productionId)).find(({ name }) => name === 'A001C002.mov')
  const body = { clipIds: [clip?.id ?? ''], recipeId: 'travel-h264' }
  const { jobs } = await ennick.call('make', { params, body })
  expect((await ennick.waitForJob(jobs[0]?.id ?? '')).state).toBe('done')
  await expect(ennick.call('endTrial', { params })).rejects.toThrow(/Files were made in this trial/)
  const pairs = (await ennick.call('listPairs', { params })).flatMap((row) => row.pairs)
  const made = pairs.find(({ origin }) => origin === 'made')
  const file = (await ennick.call('readPair', { params: { pairId: made?.id ?? '' } })).madeFiles[0]?.path ?? ''
  await ennick.call('release', { params, body: { pairIds: [made?.id ?? ''], apply: true } })
  await ennick.call('endTrial', { params })
  await expect(access(file)).rejects.toThrow()
  await rm(shelf, { recursive: true })
})
