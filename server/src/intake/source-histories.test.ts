import { mkdir, readdir, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { parseHashList } from '@ennick/core'
import { afterAll, beforeAll, expect, test } from '@jest/globals'
import { withHeld } from '../disk/held-folder.ts'
import { hashFile } from '../engine/copy.ts'
import { type Connection, connect } from '../store/database.ts'
import { type Harness, startHarness } from '../testing/harness.ts'
import { readListed, writeGeneration } from './manifest-history.ts'

let ennick: Harness
let connection: Connection
let productionId: string
let destinationId: string
const media = (...names: string[]) => join(ennick.media, ...names)
const copies = (...names: string[]) => media('archive', ...names)
beforeAll(async () => {
  ennick = await startHarness()
  connection = connect(ennick.config.databaseUrl, { maximum: 4 })
  productionId = await ennick.addProduction('Histories')
  await mkdir(media('archive'))
  destinationId = await ennick.addVolume(productionId, 'ARCHIVE', media('archive'))
})
afterAll(async () => {
  await connection.close()
  await ennick.stop()
})

/** Another tool on set writes files, and a generation of its manifest that lists them. */
async function sealOnSet(folder: string, files: Record<string, string>): Promise<void> {
  for (const [path, content] of Object.entries(files)) await writeFile(join(folder, path), content)
  const listed = await Promise.all(
    Object.entries(files).map(async ([path, { length: sizeBytes }]) => {
      const hash = await hashFile(join(folder, path), { kind: 'xxh64', signal: new AbortController().signal })
      return { path, sizeBytes, mtimeMicros: 0, hash: hash as string, wasDirect: true }
    }),
  )
  await withHeld(folder, (held) => writeGeneration(connection.database, held, 'on set', 'xxh64', listed))
}
async function addShuttle(name: string, files: Record<string, string> = { 'a.txt': 'alpha' }): Promise<string> {
  await mkdir(media(name, 'day 1'), { recursive: true })
  await sealOnSet(media(name), files)
  return ennick.addVolume(productionId, name, media(name))
}
const offload = async (volumeId: string, folder: string) => {
  const body = { destinationId, folder, hash: 'xxh64' as const }
  const { id } = await ennick.call('offloadVolume', { params: { volumeId }, body })
  return ennick.waitForJob(id)
}
const linesOf = async (jobId: string) => (await ennick.call('readJobDetails', { params: { jobId } })).lines
const listsIn = async (folder: string) =>
  (await readdir(join(folder, 'ascmhl'))).filter((name) => name.endsWith('.mhl')).sort()
/** What all generations of a history say, which holds, or this throws. */
const listedIn = (folder: string) =>
  withHeld(folder, async (held) => [...(await readListed(connection.database, held, 'xxh64', 'verify')).keys()].sort())

test('a history comes along and goes on, is no medium, and is in nobody’s way when it is copied again', async () => {
  const volumeId = await addShuttle('S1')
  expect(await offload(volumeId, 'S1')).toMatchObject({ state: 'done', summary: expect.stringMatching(/^3 files/) })
  const [first, second] = (await listsIn(copies('S1'))) as [string, string]
  expect([first]).toEqual(await listsIn(media('S1')))
  expect(parseHashList(await readFile(copies('S1/ascmhl', second), 'utf8')).files.map(({ path }) => path)).toEqual([
    'a.txt',
  ])
  expect(await readFile(copies('S1/ascmhl', second), 'utf8')).toContain('<xxh64 action="verified"')
  expect(await offload(volumeId, 'S1')).toMatchObject({ state: 'done' })
  expect(await listedIn(copies('S1'))).toEqual(['a.txt'])
})

test('one that went on otherwise on both sides stays on its own, which is told, and all else is copied', async () => {
  const volumeId = await addShuttle('S2')
  expect(await offload(volumeId, 'S2')).toMatchObject({ state: 'done' })
  await sealOnSet(media('S2'), { 'b.txt': 'beta' })
  const job = await offload(volumeId, 'S2')
  expect(job).toMatchObject({ state: 'done', error: null })
  expect(await linesOf(job.id)).toEqual([
    { path: 'ascmhl', state: 'passed over', detail: 'manifest history that went on otherwise there' },
  ])
  expect(await listedIn(copies('S2'))).toEqual(['a.txt', 'b.txt'])
  expect(await readFile(copies('S2/b.txt'), 'utf8')).toBe('beta')
})

test('one of a folder within that went on at the source goes on at the copy', async () => {
  const volumeId = await addShuttle('S3')
  await sealOnSet(media('S3/day 1'), { 'c.txt': 'gamma' })
  expect(await offload(volumeId, 'S3')).toMatchObject({ state: 'done' })
  await sealOnSet(media('S3/day 1'), { 'd.txt': 'delta' })
  const chain = () => readFile(copies('S3/day 1/ascmhl/ascmhl_chain.xml'), 'utf8')
  const before = await chain()
  expect(await offload(volumeId, 'S3')).toMatchObject({ state: 'done', error: null })
  expect(await chain()).not.toBe(before)
  expect(await chain()).toBe(await readFile(media('S3/day 1/ascmhl/ascmhl_chain.xml'), 'utf8'))
  expect(await listedIn(copies('S3/day 1'))).toEqual(['c.txt', 'd.txt'])
  expect(await readdir(copies('S3/day 1/ascmhl'))).toHaveLength(3)
})

test.each([
  ['its chain', async () => rm(copies('S4/ascmhl/ascmhl_chain.xml'))],
  ['one of its lists', async () => rm(copies('S4/ascmhl', (await listsIn(media('S4')))[0] as string))],
])('an attempt that died before it had copied %s is finished', async (_, harm) => {
  const known = (await ennick.call('listVolumes', { params: { productionId } })).find(({ label }) => label === 'S4')
  const volumeId = known?.id ?? (await addShuttle('S4'))
  await rm(copies('S4'), { recursive: true, force: true })
  expect(await offload(volumeId, 'S4')).toMatchObject({ state: 'done' })
  // As it was before the copy had a generation of its own.
  const [, own] = await listsIn(copies('S4'))
  await rm(copies('S4/ascmhl', own as string))
  await writeFile(copies('S4/ascmhl/ascmhl_chain.xml'), await readFile(media('S4/ascmhl/ascmhl_chain.xml')))
  await harm()
  expect(await offload(volumeId, 'S4')).toMatchObject({ state: 'done', error: null })
  expect(await listedIn(copies('S4'))).toEqual(['a.txt'])
  expect(await listsIn(copies('S4'))).toHaveLength(2)
})

test('one that does not hold stays behind, which is told, and the copy begins one of its own', async () => {
  const volumeId = await addShuttle('S5')
  const [list] = (await listsIn(media('S5'))) as [string]
  const text = await readFile(media('S5/ascmhl', list), 'utf8')
  await writeFile(media('S5/ascmhl', list), text.replace('a.txt', 'z.txt'))
  const job = await offload(volumeId, 'S5')
  expect(job).toMatchObject({ state: 'done', error: null })
  expect(await linesOf(job.id)).toEqual([
    { path: 'ascmhl', state: 'passed over', detail: 'manifest history that does not hold' },
  ])
  expect(await listedIn(copies('S5'))).toEqual(['a.txt'])
})

test('each copy is held against the manifest that came with it, also within, and what is otherwise is told', async () => {
  const volumeId = await addShuttle('S6', { 'a.txt': 'alpha', 'b.txt': 'beta' })
  await sealOnSet(media('S6/day 1'), { 'c.txt': 'gamma' })
  for (const path of ['b.txt', 'day 1/c.txt']) await writeFile(media('S6', path), 'harm')
  const job = await offload(volumeId, 'S6')
  expect(job).toMatchObject({
    state: 'failed',
    summary: expect.stringMatching(/2 not as the manifest says/),
    error: expect.stringMatching(/^All 7 files are copied and read back, and b\.txt is not what its manifest says/),
  })
  expect(await linesOf(job.id)).toMatchObject([
    { path: 'b.txt', state: 'not as listed', detail: expect.stringMatching(/^Its xxh64 was \w{16} and is \w{16}/) },
    { path: 'day 1/c.txt', state: 'not as listed' },
  ])
  expect(await readFile(copies('S6/b.txt'), 'utf8')).toBe('harm')
  const newest = (await listsIn(copies('S6'))).at(-1) as string
  const { files } = parseHashList(await readFile(copies('S6/ascmhl', newest), 'utf8'))
  expect(files.map(({ path }) => path)).toEqual(['a.txt'])
  await ennick.call('retryJob', { params: { jobId: job.id } })
  expect(await ennick.waitForJob(job.id)).toMatchObject({
    state: 'failed',
    error: expect.stringMatching(/b\.txt is not/),
  })
})

test('what checksums its manifests have is told before anything is copied', async () => {
  const volumeId = await addShuttle('S7')
  const body = { destinationId, folder: 'S7', hash: 'md5' as const }
  expect(await ennick.call('planOffload', { params: { volumeId }, body })).toMatchObject({ listedBy: ['xxh64'] })
})
