import { mkdir, rename, stat, symlink, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Answer, routes } from '@ennick/contract'
import { type StillSequence, stillName } from '@ennick/core'
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals'
import { xxh64 } from '@node-rs/xxhash'
import { fingerprint } from '../disk/fingerprint.ts'
import { run } from '../engine/process.ts'
import { type Harness, startHarness } from '../testing/harness.ts'

let ennick: Harness
let productionId: string
let drive: string
let volumeId: string
let cutId: string

/** Numbered stills of a moving picture. */
async function makeStills(folder: string, name: string, hue: number): Promise<void> {
  await mkdir(folder, { recursive: true })
  const source = `testsrc2=s=320x180:r=25:d=1,hue=h=${hue}`
  const words = ['-v', 'error', '-f', 'lavfi', '-i', source, join(folder, `${name}.%04d.png`)]
  expect(await run('ffmpeg', words)).toMatchObject({ exitCode: 0 })
}

beforeAll(async () => {
  ennick = await startHarness()
  productionId = await ennick.addProduction('Stills')
  drive = join(ennick.media, 'drive')
  await makeStills(join(drive, 'plates/mill'), 'mill', 0)
  await makeStills(join(drive, 'plates/tide'), 'tide', 90)
  volumeId = await ennick.addVolume(productionId, 'DRIVE', drive)
  const events = ['mill', 'tide'].map(
    (name, index) =>
      `00${index + 1}  AX V C 00:00:00:02 00:00:00:12 01:00:0${index}:00 01:00:0${index}:10\n* FROM CLIP NAME: ${name}.####.png\n`,
  )
  const body = { fileName: 'stills.edl', text: `TITLE: Stills\n${events.join('')}` }
  cutId = (await ennick.call('addCut', { params: { productionId }, body })).id
  const clipIds = (await ennick.clips(productionId)).map(({ id }) => id)
  const { jobs } = await ennick.call('make', {
    params: { productionId },
    body: { clipIds, recipeId: 'half-h264-intra' },
  })
  for (const { id } of jobs) expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done' })
})
afterAll(() => ennick.stop())

const states = async () => (await ennick.call('readCut', { params: { cutId } })).events.map(({ state }) => state)
const check = async () => ennick.waitForJob((await ennick.call('check', { params: { productionId } })).id)
type Found = Answer<(typeof routes)['readSearch']>
async function search(scopes: string[], folder: string | null = null): Promise<{ jobId: string; found: Found }> {
  const { id: jobId } = await ennick.call('search', { params: { cutId }, body: { scopes, folder, findingKeys: null } })
  expect(await ennick.waitForJob(jobId)).toMatchObject({ state: 'done', error: null })
  return { jobId, found: await ennick.call('readSearch', { params: { jobId } }) }
}
const outcomes = ({ rows }: Found) => rows.map(({ label, outcome }) => `${label} ${outcome}`).sort()
const accept = ({ jobId, found }: { jobId: string; found: Found }) => {
  const choices = found.rows.flatMap(({ wantedId, candidateId }) => (candidateId ? [{ wantedId, candidateId }] : []))
  return ennick.call('repoint', { params: { cutId }, body: { searchJobId: jobId, choices } })
}

describe('lost numbered stills', () => {
  test('moved into another folder they are found by their content, and their proxy stays theirs', async () => {
    await rename(join(drive, 'plates'), join(drive, 'shelf'))
    await check()
    expect(await states()).toEqual(['on proxy', 'on proxy'])
    const result = await search(['below'], drive)
    expect(outcomes(result.found)).toEqual(['mill.####.png fits', 'tide.####.png fits'])
    await accept(result)
    expect(await states()).toEqual(['on original', 'on original'])
    const pairs = (await ennick.call('listPairs', { params: { productionId } })).flatMap((row) => row.pairs)
    expect(pairs.map(({ verdict }) => verdict)).toEqual(['proven', 'proven'])
    await ennick.scan(volumeId)
    await check()
    expect(await states()).toEqual(['on original', 'on original'])
    expect(await ennick.clips(productionId)).toHaveLength(2)
  })

  test('those that a scan has seen are found among everything known; taken back, they are lost again', async () => {
    await rename(join(drive, 'shelf/mill'), join(drive, 'mill again'))
    await ennick.scan(volumeId)
    expect(await states()).toEqual(['on proxy', 'on original'])
    const result = await search(['known'])
    expect(outcomes(result.found)).toEqual(['mill.####.png fits'])
    const mend = await accept(result)
    expect(await states()).toEqual(['on original', 'on original'])
    await ennick.call('undoMend', { params: { mendId: mend.id } })
    expect(await states()).toEqual(['on proxy', 'on original'])
    await accept(await search(['known']))
  })

  test('others under their name are not taken for them', async () => {
    await rename(join(drive, 'shelf/tide'), join(ennick.media, 'tide away'))
    const others = join(ennick.media, 'others')
    await makeStills(others, 'tide', 200)
    await check()
    const { found } = await search(['below'], others)
    expect(outcomes(found)).toEqual(['tide.####.png likely'])
    expect(found.rows[0]?.rated[0]?.evidence).toContainEqual(
      expect.objectContaining({ aspect: 'content', agrees: false }),
    )
  })

  test('one still that changed since the search is enough to ask for another', async () => {
    await rename(join(ennick.media, 'tide away'), join(drive, 'tide back'))
    const result = await search(['below'], join(drive, 'tide back'))
    expect(outcomes(result.found)).toEqual(['tide.####.png fits'])
    await writeFile(join(drive, 'tide back/tide.0007.png'), 'something else')
    await expect(accept(result)).rejects.toThrow(/has changed or left since the search/)
  })
})

test('stills that were marked by where they lay keep that mark, also where they are looked at again', async () => {
  const [row] = await ennick.query<{ id: string; size: string; sequence: StillSequence }>(
    `select id, size_bytes as size, sequence from files where path like 'mill again/%'`,
  )
  if (!row) throw new Error('The stills are not known.')
  // As marks were made before: of the folder, the name and the numbers, and of three stills.
  const { folder, prefix, suffix, digits, ranges } = row.sequence
  const numbers = ranges.map(({ startFrame, endFrame }) => ({ startFrame, endFrame }))
  let mark = xxh64(JSON.stringify([{ folder, prefix, suffix, digits, ranges: numbers }, Number(row.size)]))
  for (const number of [1, 1, 25]) {
    const path = join(drive, folder, stillName(row.sequence, number === 25 ? 25 : 1))
    mark = xxh64(await fingerprint(path, (await stat(path)).size), mark)
  }
  const known = mark.toString(16).padStart(16, '0')
  const write = 'update files set fingerprint = $1, first_fingerprint = $1, mtime_micros = 1 where id = $2'
  await ennick.query(write, [known, row.id])
  await check()
  expect(await ennick.query('select fingerprint, first_fingerprint from files where id = $1', [row.id])).toEqual([
    { fingerprint: known, first_fingerprint: known },
  ])
  await rename(join(drive, 'mill again'), join(drive, 'mill at last'))
  await check()
  const result = await search(['below'], join(drive, 'mill at last'))
  expect(outcomes(result.found)).toContain('mill.####.png fits')
})

test('a still that a link leads out of its volume is neither shown nor made anything of', async () => {
  const stills = join(ennick.media, 'linked')
  await makeStills(stills, 'reed', 30)
  const other = await ennick.addProduction('Linked')
  await ennick.addVolume(other, 'LINKED', stills)
  const [clip] = await ennick.clips(other)
  const { sides } = await ennick.call('readView', { params: { clipId: clip?.id ?? '' } })
  const still = join(stills, 'reed.0003.png')
  await rename(still, join(ennick.media, 'elsewhere.png'))
  await symlink(join(ennick.media, 'elsewhere.png'), still)
  const frame = await fetch(`${ennick.url}/api/files/${sides[0]?.parts[0]?.fileId}/frames/2?size=screen`)
  expect(await frame.json()).toMatchObject({ message: expect.stringContaining('out of the place that it belongs to') })
  const body = { clipIds: [clip?.id], recipeId: 'half-h264-intra' }
  const { jobs } = await ennick.call('make', { params: { productionId: other }, body })
  expect(await ennick.waitForJob(jobs[0]?.id ?? '')).toMatchObject({
    state: 'failed',
    error: expect.stringMatching(/is a link that leads to .*elsewhere\.png, out of the place/),
  })
})

test('stills that were offloaded are known by the times that they have there', async () => {
  const card = join(ennick.media, 'still card')
  const storage = join(ennick.media, 'still storage')
  await makeStills(join(card, 'DCIM'), 'weir', 60)
  await mkdir(storage)
  const other = await ennick.addProduction('Offloaded stills')
  const cardId = await ennick.addVolume(other, 'CARD', card, 'card')
  const destinationId = await ennick.addVolume(other, 'STORAGE', storage)
  const body = { destinationId, folder: 'day 1', hash: 'xxh64' }
  const { id } = await ennick.call('offloadVolume', { params: { volumeId: cardId }, body })
  expect(await ennick.waitForJob(id)).toMatchObject({ state: 'done' })
  const known = await ennick.query<{ mtime_micros: string; path: string }>(
    'select mtime_micros, path from files where volume_id = $1',
    [destinationId],
  )
  expect(known.map(({ path }) => path)).toEqual(['day 1/DCIM/weir.####.png'])
  const times = await Promise.all(
    Array.from({ length: 25 }, (_, index) =>
      stat(join(storage, `day 1/DCIM/weir.${String(index + 1).padStart(4, '0')}.png`), { bigint: true }),
    ),
  )
  const newest = Math.max(...times.map(({ mtimeNs }) => Number(mtimeNs / 1000n)))
  expect(known[0]?.mtime_micros).toBe(String(newest))
})
