import { copyFile, mkdir, readFile, rename, rm } from 'node:fs/promises'
import { join } from 'node:path'
import { edl, normalPath, otio } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { lookAtFile } from '../pairs/look-at-file.ts'
import { connect } from '../store/database.ts'
import type { KnownClip } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { makePicture } from '../testing/media.ts'

let ennick: Harness
let productionId: string
let cutId: string
let shelf: string
beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Mends')
  const card = join(ennick.media, 'card')
  shelf = join(ennick.media, 'shelf')
  await makePicture(join(card, 'A001C001.mov'), { seed: 1 })
  await makePicture(join(card, 'A001C002.mov'), { seed: 2, timecode: '10:01:00:00' })
  await makePicture(join(card, 'A001C003.mov'), { seed: 3, timecode: '10:02:00:00' })
  await ennick.addVolume(productionId, 'A001', card)
  await makePicture(join(shelf, 'other/A001C001.mov'), { seed: 9, timecode: '17:00:00:00' })
  await makePicture(join(shelf, 'C001C009.mov'), { seed: 4, reel: 'C001', timecode: '14:00:00:00' })
  await makePicture(join(shelf, 'short/A001C003.mov'), { seed: 5, timecode: '10:02:00:00', frames: 20 })
  for (const name of ['A001C001.mov', 'A001C002.mov']) await rename(join(card, name), join(shelf, name))
  await rm(join(card, 'A001C003.mov'))
  const check = await ennick.call('check', { params: { productionId } })
  await ennick.waitForJob(check.id)
  const text = `TITLE: Mend me
001  A001 V C 10:00:00:10 10:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: A001C001.mov
002  A001 V C 10:01:00:10 10:01:01:10 01:00:01:00 01:00:02:00
* FROM CLIP NAME: A001C002.mov
003  A001 V C 10:02:00:10 10:02:01:10 01:00:02:00 01:00:03:00
* FROM CLIP NAME: A001C003.mov
004  C001 V C 14:00:00:10 14:00:01:10 01:00:03:00 01:00:04:00
* FROM CLIP NAME: C001C009.mov
`
  cutId = (await ennick.call('addCut', { params: { productionId }, body: { fileName: 'mend me.edl', text } })).id
})
afterAll(() => ennick.stop())

const states = async () => (await ennick.call('readCut', { params: { cutId } })).events.map((event) => event.state)
const search = async (folder = shelf) => {
  const job = await ennick.call('search', { params: { cutId }, body: { folder, findingKeys: null } })
  expect((await ennick.waitForJob(job.id)).state).toBe('done')
  return ennick.call('readSearch', { params: { jobId: job.id } })
}

test('lost originals and an unknown source are found by content, facts and name; nothing is changed by looking', async () => {
  expect(await states()).toEqual(['original gone', 'original gone', 'original gone', 'unresolved'])
  const result = await search()
  expect(result.counts).toEqual({ asked: 4, fits: 3, likely: 0, ambiguous: 0, refused: 1, notFound: 0 })
  const row = (label: string) => result.rows.find((candidate) => candidate.label === label)
  expect(row('A001C001.mov')).toMatchObject({ outcome: 'fits', candidateId: join(shelf, 'A001C001.mov') })
  expect(row('A001C001.mov')?.rated.map((candidate) => candidate.path)).toContain(join(shelf, 'other/A001C001.mov'))
  expect(row('A001C001.mov')?.rule).toBe(row('A001C002.mov')?.rule)
  expect(row('A001C003.mov')).toMatchObject({
    outcome: 'refused',
    reason: expect.stringContaining('too short: event 003 on V1 needs 15 frames at the tail more'),
  })
  expect(row('C001C009.mov')).toMatchObject({ outcome: 'fits', eventNumbers: ['004'] })
  expect(await states()).toEqual(['original gone', 'original gone', 'original gone', 'unresolved'])
})

test('places are searched one after another: what the first settles is not looked for in the next', async () => {
  const searchIn = async (folder: string | null, scopes: ('folder' | 'below' | 'known')[]) => {
    const job = await ennick.call('search', { params: { cutId }, body: { folder, scopes, findingKeys: null } })
    expect((await ennick.waitForJob(job.id)).state).toBe('done')
    return ennick.call('readSearch', { params: { jobId: job.id } })
  }
  const other = join(shelf, 'other')
  const inOther = await searchIn(other, ['folder'])
  expect(inOther.counts).toMatchObject({ asked: 4, fits: 0, refused: 3, notFound: 1 })
  const inTurn = await searchIn(shelf, ['folder', 'below', 'known'])
  expect(inTurn.counts).toEqual({ asked: 4, fits: 3, likely: 0, ambiguous: 0, refused: 1, notFound: 0 })
  expect(inTurn.scopes).toEqual([
    { scope: 'folder', looked: 3, settled: 3 },
    { scope: 'below', looked: 2, settled: 0 },
    // Nothing of the card is there any more.
    { scope: 'known', looked: 0, settled: 0 },
  ])
  // Of two files of one name the folder's own is taken where it fits, and the plan still speaks of the other.
  expect(inTurn.rows.find(({ label }) => label === 'A001C001.mov')?.candidateId).toBe(join(shelf, 'A001C001.mov'))
  await expect(
    ennick.call('search', { params: { cutId }, body: { folder: null, scopes: ['below'], findingKeys: null } }),
  ).rejects.toMatchObject({ status: 400 })
})

test('what is known already is found without a folder', async () => {
  const production = await ennick.addProduction('Known')
  const [from, to] = [join(ennick.media, 'known card'), join(ennick.media, 'known shelf')]
  await makePicture(join(from, 'K001C001.mov'), { seed: 11, reel: 'K001', timecode: '09:00:00:00' })
  await makePicture(join(to, 'K001C002.mov'), { seed: 12, reel: 'K001', timecode: '09:01:00:00' })
  const card = await ennick.addVolume(production, 'K001', from)
  const archive = await ennick.addVolume(production, 'archive', to)
  const text = `TITLE: Known
001  K001 V C 09:00:00:10 09:00:01:10 01:00:00:00 01:00:01:00
* FROM CLIP NAME: K001C001.mov
`
  const cut = await ennick.call('addCut', {
    params: { productionId: production },
    body: { fileName: 'known.edl', text },
  })
  await rename(join(from, 'K001C001.mov'), join(to, 'renamed.mov'))
  await ennick.scan(card)
  await ennick.scan(archive)
  const job = await ennick.call('search', { params: { cutId: cut.id }, body: { scopes: ['known'], findingKeys: null } })
  expect((await ennick.waitForJob(job.id)).state).toBe('done')
  const result = await ennick.call('readSearch', { params: { jobId: job.id } })
  expect(result.scopes).toEqual([{ scope: 'known', looked: 2, settled: 1 }])
  expect(result.rows).toMatchObject([{ outcome: 'fits', candidateId: join(to, 'renamed.mov') }])

  // What was scanned is taken as it was scanned, until a plan speaks of it: then it is looked at.
  const again = join(to, 'copies')
  await mkdir(again)
  await copyFile(join(to, 'renamed.mov'), join(again, 'copy.mov'))
  await ennick.scan(archive)
  const search = async () => {
    const body = { scopes: ['known'], findingKeys: null }
    const { id: jobId } = await ennick.call('search', { params: { cutId: cut.id }, body })
    expect((await ennick.waitForJob(jobId)).state).toBe('done')
    return ennick.call('readSearch', { params: { jobId } })
  }
  await rm(join(to, 'renamed.mov'))
  const [row] = (await search()).rows
  expect(row).toMatchObject({ outcome: 'fits', candidateId: join(again, 'copy.mov') })
  expect(row?.rated.map(({ path }) => path)).not.toContain(join(to, 'renamed.mov'))
  await makePicture(join(again, 'copy.mov'), { seed: 13 })
  expect((await search()).counts).toMatchObject({ asked: 1, fits: 0, likely: 0, ambiguous: 0 })
})

describe('repointing', () => {
  const rows = async () => ({
    volumes: await ennick.query('select id, label, root_path from volumes order by id'),
    clips: await ennick.query('select id, name, reel, described from clips order by id'),
    files: await ennick.query('select id, path, is_gone from files order by id'),
    links: await ennick.query('select clip_id, ordinal, file_id from clip_files order by clip_id, ordinal'),
  })

  test('does what was accepted, all at once, and is taken back whole', async () => {
    const before = await rows()
    const result = await search()
    const choices = result.rows.flatMap((row) =>
      row.candidateId ? [{ wantedId: row.wantedId, candidateId: row.candidateId }] : [],
    )
    const mend = await ennick.call('repoint', { params: { cutId }, body: { searchJobId: result.jobId, choices } })
    expect(mend.title).toBe('Repoint 2 originals, Repoint 1 event')
    expect((await rows()).volumes).toHaveLength(before.volumes.length + 1)
    expect(await states()).toEqual(['on original', 'on original', 'original gone', 'on original'])
    // What came of it is read from the disk and the cuts each time somebody asks.
    const proof = () => ennick.call('readMendProof', { params: { mendId: mend.id } })
    expect(await proof()).toMatchObject({ clipCount: 3, uses: 3, onOriginal: 3 })
    expect((await proof()).clips.map(({ name, lies, uses }) => [name, lies, uses.length])).toEqual([
      ['A001C001', true, 1],
      ['A001C002', true, 1],
      ['C001C009', true, 1],
    ])
    await rename(join(shelf, 'A001C002.mov'), join(shelf, 'slipped.mov'))
    expect((await proof()).clips.map(({ lies }) => lies)).toEqual([true, false, true])
    await rename(join(shelf, 'slipped.mov'), join(shelf, 'A001C002.mov'))
    expect(
      (await ennick.call('history', { params: { productionId } })).some((line) =>
        line.what.includes(`→ ${join(shelf, 'A001C001.mov')}`),
      ),
    ).toBe(true)
    const undone = await ennick.call('undoMend', { params: { mendId: mend.id } })
    expect(undone.state).toBe('undone')
    // The clip and the volume that it had brought in are gone with it.
    expect(await states()).toEqual(['original gone', 'original gone', 'original gone', 'unresolved'])
    expect(await rows()).toEqual(before)
    await expect(ennick.call('undoMend', { params: { mendId: mend.id } })).rejects.toMatchObject({ status: 409 })
  })

  test('refuses a file for two, a refused file, and a file that left since', async () => {
    const result = await search()
    const first = result.rows.find((row) => row.label === 'A001C001.mov')
    const third = result.rows.find((row) => row.label === 'A001C003.mov')
    const repoint = (choices: object[]) =>
      ennick.call('repoint', { params: { cutId }, body: { searchJobId: result.jobId, choices } })
    const choice = { wantedId: first?.wantedId, candidateId: first?.candidateId }
    await expect(repoint([choice, choice])).rejects.toMatchObject({ code: 'given-twice' })
    await expect(
      repoint([{ wantedId: third?.wantedId, candidateId: third?.rated[0]?.candidateId }]),
    ).rejects.toMatchObject({
      code: 'refused-choice',
    })
    await expect(repoint([{ wantedId: 'x', candidateId: 'y' }])).rejects.toMatchObject({ code: 'unknown-choice' })
    await rename(join(shelf, 'A001C001.mov'), join(shelf, 'A001C001.mov.gone'))
    await expect(repoint([choice])).rejects.toMatchObject({ code: 'changed-since' })
    await rename(join(shelf, 'A001C001.mov.gone'), join(shelf, 'A001C001.mov'))
  })

  test('an undo stops when a later mend has moved the same link', async () => {
    const result = await search()
    const first = result.rows.find((row) => row.label === 'A001C001.mov')
    const mend = await ennick.call('repoint', {
      params: { cutId },
      body: { searchJobId: result.jobId, choices: [{ wantedId: first?.wantedId, candidateId: first?.candidateId }] },
    })
    const [row] = await ennick.query<{ file_id: string }>('select file_id from clip_files order by file_id')
    const [link] =
      (
        await ennick.query<{ changes: { link: { clipId: string }; after: string }[] }>(
          'select changes from mends where id = $1',
          [mend.id],
        )
      )[0]?.changes ?? []
    await ennick.query('update clip_files set file_id = $1 where clip_id = $2', [
      row?.file_id === link?.after
        ? (await ennick.query<{ id: string }>('select id from files where id <> $1 limit 1', [link?.after]))[0]?.id
        : row?.file_id,
      link?.link.clipId,
    ])
    await expect(ennick.call('undoMend', { params: { mendId: mend.id } })).rejects.toMatchObject({
      code: 'mend-conflict',
    })
    await ennick.query('update clip_files set file_id = $1 where clip_id = $2', [link?.after, link?.link.clipId])
    await ennick.call('undoMend', { params: { mendId: mend.id } })
  })

  test('is taken back after what rests on it; a volume on which two found their files goes with the last', async () => {
    const before = await rows()
    const result = await search()
    const repoint = (label: string) => {
      const found = result.rows.find((row) => row.label === label)
      const choices = [{ wantedId: found?.wantedId, candidateId: found?.candidateId }]
      return ennick.call('repoint', { params: { cutId }, body: { searchJobId: result.jobId, choices } })
    }
    const undo = (mendId: string) => ennick.call('undoMend', { params: { mendId } })
    const pickup = await repoint('C001C009.mov')
    const [created] = await ennick.query<{ id: string }>(`select id from clips where name = 'C001C009'`)
    const choice = await ennick.call('chooseClips', {
      params: { cutId },
      body: { choices: [{ positions: [0], clipId: created?.id }] },
    })
    await expect(undo(pickup.id)).rejects.toMatchObject({
      code: 'mend-conflict',
      message: expect.stringContaining('Take that back first'),
    })
    await undo(choice.id)
    // The second found its file on the volume that the first had brought in.
    const second = await repoint('A001C002.mov')
    await undo(pickup.id)
    expect((await rows()).volumes).toHaveLength(before.volumes.length + 1)
    await undo(second.id)
    expect(await rows()).toEqual(before)
  })

  test('what a version shows outlives the mend that brought it in, and goes with the version', async () => {
    const before = await rows()
    const result = await search()
    const found = result.rows.find((row) => row.label === 'C001C009.mov')
    const choices = [{ wantedId: found?.wantedId, candidateId: found?.candidateId }]
    const body = { searchJobId: result.jobId, choices }
    const pickup = await ennick.call('repoint', { params: { cutId }, body })
    const [created] = await ennick.query<{ id: string }>(`select id from clips where name = 'C001C009'`)
    const version = await ennick.call('replaceFromStart', {
      params: { cutId },
      body: { positions: [0], clipId: created?.id, apply: true },
    })
    const shown = async () => {
      const { events } = await ennick.call('readCut', { params: { cutId: version.cutId ?? '' } })
      return events[0]?.clipId
    }
    expect(await shown()).toBe(created?.id)
    await ennick.call('undoMend', { params: { mendId: pickup.id } })
    expect(await shown()).toBe(created?.id)
    await ennick.call('undoMend', { params: { mendId: version.mend?.id ?? '' } })
    expect(await rows()).toEqual(before)
  })
})

test('the handoff waits for what blocks it, takes decisions with a reason, and points at originals', async () => {
  await expect(ennick.call('handOff', { params: { cutId } })).rejects.toMatchObject({ status: 409, code: 'preflight' })
  const result = await search()
  await ennick.call('repoint', {
    params: { cutId },
    body: {
      searchJobId: result.jobId,
      choices: result.rows.flatMap((row) =>
        row.candidateId ? [{ wantedId: row.wantedId, candidateId: row.candidateId }] : [],
      ),
    },
  })
  const open = (await ennick.call('readPreflight', { params: { cutId } })).open
  expect(open.map((finding) => finding.kind)).toEqual(['file gone'])
  await expect(
    ennick.call('decide', { params: { cutId }, body: { findingKey: open[0]?.key, reason: ' ' } }),
  ).rejects.toMatchObject({
    code: 'bad-request',
  })
  await ennick.call('decide', {
    params: { cutId },
    body: { findingKey: open[0]?.key, reason: 'Will be shot again on Friday' },
  })
  const handoff = await ennick.call('handOff', { params: { cutId } })
  expect(handoff.files.map((file) => file.name)).toEqual([
    'Mend me, online.otio',
    'Mend me, online.xml',
    'Mend me, online.edl',
    'Mend me cut list.html',
    'Mend me cut list.pdf',
    'Mend me events.csv',
    'Mend me pull list.csv',
    'Mend me pull list.ale',
    'Mend me report.html',
    'manifest.json',
  ])
  const text = (name: string) => readFile(join(handoff.folder, name), 'utf8')
  const options = { rate: { numerator: 25, denominator: 1 }, fileName: '' }
  for (const cut of [
    edl.read(await text('Mend me, online.edl'), options),
    otio.read(await text('Mend me, online.otio'), options),
  ]) {
    expect(cut.events.map((event) => event.path && normalPath(event.path))).toEqual([
      join(shelf, 'A001C001.mov'),
      join(shelf, 'A001C002.mov'),
      expect.stringContaining('A001C003.mov'),
      join(shelf, 'C001C009.mov'),
    ])
    expect(cut.events.map((event) => event.reel)).toEqual(['A001', 'A001', 'A001', 'C001'])
  }
  const report = await text('Mend me report.html')
  for (const words of ['Will be shot again on Friday', join(shelf, 'A001C002.mov'), '004'])
    expect(report).toContain(words)
})

test('a finding on a name as long as can be is shown, and known since it was', async () => {
  const production = await ennick.addProduction('Long names')
  const name = Array.from({ length: 900 }, (_, index) => ((index * 7919) % 99991).toString(36)).join('-')
  const text = `TITLE: Long\n001  A001 V C 10:00:00:00 10:00:01:00 01:00:00:00 01:00:01:00\n* FROM CLIP NAME: ${name}\n`
  const cut = await ennick.call('addCut', { params: { productionId: production }, body: { fileName: 'l.edl', text } })
  const [found] = await ennick.call('listFindings', { params: { cutId: cut.id } })
  expect(found).toMatchObject({ kind: 'unresolved', isNew: true })
  const [again] = await ennick.call('listFindings', { params: { cutId: cut.id } })
  expect(again?.since).toBe(found?.since)
})

test('a file that leaves the ledger while its pictures are looked at is no fault of anybody', async () => {
  const production = await ennick.addProduction('Looked at')
  const folder = join(ennick.media, 'looked at')
  await makePicture(join(folder, 'L001C001.mov'), { seed: 21, frames: 10 })
  const volumeId = await ennick.addVolume(production, 'L001', folder)
  const { database, close } = connect(ennick.config.databaseUrl)
  const material = await readMaterial(database, production)
  const [clip] = [...material.clips.values()]
  const file = clip?.main as KnownClip['main']
  const context = { database, job: {} as never, signal: new AbortController().signal }
  expect(await lookAtFile(context, file, file.volume, clip?.id ?? null)).toBe('clean')
  await ennick.query('delete from clips where id = $1', [clip?.id])
  await ennick.query('delete from files where volume_id = $1', [volumeId])
  expect(await lookAtFile(context, file, file.volume, clip?.id ?? null)).toBe('absent')
  await close()
})
