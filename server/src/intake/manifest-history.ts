import { createHash } from 'node:crypto'
import { readdir, rename, unlink } from 'node:fs/promises'
import { hostname } from 'node:os'
import { join } from 'node:path'
import {
  type ChainEntry,
  c4Of,
  count,
  extendChain,
  type HashKind,
  HashListError,
  hashListName,
  parseChain,
  writeHashList,
} from '@ennick/core'
import { xxh64 } from '@node-rs/xxhash'
import { sql } from 'drizzle-orm'
import { type HeldFolder, withFolder } from '../disk/held-folder.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import { NotRead, readApart } from '../reading/read-apart.ts'
import { manifests } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { lockClasses } from '../store/lock-classes.ts'
import { nameCopy, type VerifiedCopy } from './copier.ts'
import { pathIn } from './walk.ts'

/** The folder in which the standard keeps a history of manifests, and the file that lists its generations. */
export const historyFolder = 'ascmhl'
export const chainFile = 'ascmhl_chain.xml'

/** Whether a file belongs to a history of manifests, wherever that lies: it is no medium, and no manifest lists it. */
export const isOfHistory = (path: string): boolean => path.split('/').slice(0, -1).includes(historyFolder)

/** A history as it lies beside copies: the chain, word for word and read, and every list that it names. */
export interface ManifestHistory {
  readonly chain: string | null
  readonly entries: readonly ChainEntry[]
  readonly lists: readonly { readonly name: string; readonly text: string }[]
  /** The number of the newest generation. */
  readonly newest: number
}

const hashOf = (kind: NonNullable<ChainEntry['hash']>['kind'], text: string): string => {
  if (kind === 'xxh64') return xxh64(Buffer.from(text)).toString(16).padStart(16, '0')
  return kind === 'c4'
    ? c4Of(createHash('sha512').update(text).digest('hex'))
    : createHash(kind).update(text).digest('hex')
}

/**
 * Runs a task that nobody else reads or writes the history of a folder beside: two that copy into one folder at once
 * would give one number to two generations.
 */
const alone = <T>(database: Database, to: HeldFolder, task: () => Promise<T>): Promise<T> =>
  database.transaction(async (transaction) => {
    await transaction.execute(sql`select pg_advisory_xact_lock(${lockClasses.manifests}, hashtext(${to.path}))`)
    return task()
  })

/** What a history is read for: to add a generation later, to add it now, or to hold files against it. */
type HistoryUse = 'extend' | 'add' | 'verify'

const whenBroken: Record<HistoryUse, string> = {
  extend:
    'No new generation of the manifest can rest on this history: look at it, or offload into another folder. ' +
    'No file was touched.',
  add:
    'What was copied is there and was read back, but no manifest could be written of it: look at that history, and ' +
    'retry.',
  verify: 'No file can be verified by this history: look at it, or go on without reading the files back.',
}

/** A history of manifests does not hold; the message says what of it, with its path. */
export class BrokenHistory extends Error {
  override readonly name = 'BrokenHistory'
}

/** Reads of a history for a job, which fails where that does not hold. */
const readFor = <T>(use: HistoryUse, reading: Promise<T>): Promise<T> =>
  reading.catch((error) => {
    throw error instanceof BrokenHistory ? new JobFailure(`${error.message} ${whenBroken[use]}`) : error
  })

/**
 * Reads and verifies the history in a folder: every generation that the chain names is there and is what it was, and
 * there is none that it does not name.
 * @param isOurs finishes what a run of ours began to write there
 * @returns null where there is none
 * @throws BrokenHistory that names what does not hold
 */
export async function readHistory(to: HeldFolder, isOurs: boolean): Promise<ManifestHistory | null> {
  const names = await readdir(to.at('.'))
  if (!names.includes(historyFolder)) return null
  return withFolder(to, historyFolder, async (folder) => {
    const broken = (what: string): BrokenHistory => new BrokenHistory(join(folder.path, what))
    if (isOurs) await finishChain(folder)
    const chain = await folder.readText(chainFile)
    let entries: ChainEntry[] = []
    try {
      entries = chain === null ? [] : parseChain(chain)
    } catch (error) {
      if (error instanceof HashListError) throw broken(`${chainFile}: ${error.message}`)
      throw error
    }
    const lists: { name: string; text: string }[] = []
    for (const { path, hash } of entries) {
      const text = await folder.readText(path)
      if (text === null) throw broken(`${path} is named by the chain of manifests and is gone.`)
      if (hash && hashOf(hash.kind, text) !== hash.value)
        throw broken(`${path} was changed since it was written: its ${hash.kind} is another.`)
      lists.push({ name: path, text })
    }
    const known = new Set(entries.map(({ path }) => path))
    const stray = (await readdir(folder.at('.'))).filter((name) => name.endsWith('.mhl') && !known.has(name)).sort()
    if (stray[0] !== undefined) throw broken(`${stray[0]} is not named by the chain of manifests.`)
    return { chain, entries, lists, newest: Math.max(0, ...entries.map(({ sequence }) => sequence)) }
  })
}

const chainPart = `.${chainFile}.part`

/** A run that died between giving a new generation its name and the chain its own is finished here. */
async function finishChain(folder: HeldFolder): Promise<void> {
  const [part, chain] = [await folder.readText(chainPart), await folder.readText(chainFile)]
  if (part === null) return
  try {
    const newest = parseChain(part).at(-1)
    const text = newest && (await folder.readText(newest.path))
    if (!newest?.hash || text === null || text === undefined || hashOf(newest.hash.kind, text) !== newest.hash.value)
      return
    if (part === extendChain(chain, { sequence: newest.sequence, path: newest.path, sha1: newest.hash.value }))
      await rename(folder.at(chainPart), folder.at(chainFile))
  } catch (error) {
    // A part that was cut short says nothing, and is written anew.
    if (!(error instanceof HashListError)) throw error
  }
}

/**
 * What older generations say of files, by one kind of checksum; of several the newest.
 * @throws JobFailure when there is a history beside the copies that does not hold
 */
export async function readListed(
  database: Database,
  to: HeldFolder,
  kind: HashKind,
  use: HistoryUse = 'extend',
): Promise<ReadonlyMap<string, string>> {
  const history = await readFor(
    use,
    alone(database, to, () => readHistory(to, use !== 'verify')),
  )
  return history ? readFor(use, listedIn(history, to, kind)) : new Map()
}

/**
 * What the generations of a history say of files, by one kind of checksum; of several the newest.
 * @param to the folder that it lies in
 * @throws BrokenHistory when one of its lists cannot be read
 */
export async function listedIn(
  { lists }: ManifestHistory,
  to: HeldFolder,
  kind: HashKind,
): Promise<ReadonlyMap<string, string>> {
  const listed = new Map<string, string>()
  for (const { name, text } of lists) {
    try {
      for (const { path, hashes } of (await readApart('hash list', { text })).files)
        if (hashes[kind] !== undefined) listed.set(path, hashes[kind])
    } catch (error) {
      if (!(error instanceof NotRead)) throw error
      throw new BrokenHistory(`${join(to.path, historyFolder, name)}: ${error.message}`)
    }
  }
  return listed
}

/** Writes the manifest of a copy as the next generation beside it. @returns its path below the volume's root */
export async function writeManifest(
  { database }: WorkContext,
  volume: VolumeRow,
  folder: string,
  to: HeldFolder,
  title: string,
  kind: HashKind,
  copies: readonly VerifiedCopy[],
): Promise<string> {
  const path = pathIn(folder, await writeGeneration(database, to, title, kind, copies))
  const files = copies.filter(isListed).length
  await database.insert(manifests).values({ volumeId: volume.id, path, folder, files }).onConflictDoNothing()
  return path
}

const isListed = ({ path }: VerifiedCopy): boolean => !isOfHistory(path)

/** Writes the next generation of the manifest beside copies. @returns its path below their folder */
export const writeGeneration = (
  database: Database,
  to: HeldFolder,
  title: string,
  kind: HashKind,
  copies: readonly VerifiedCopy[],
): Promise<string> => alone(database, to, () => addGeneration(to, title, kind, copies))

async function addGeneration(
  to: HeldFolder,
  title: string,
  kind: HashKind,
  copies: readonly VerifiedCopy[],
): Promise<string> {
  const history = await readFor('add', readHistory(to, true))
  const generation = (history?.newest ?? 0) + 1
  const now = new Date()
  const listed = copies.filter(isListed)
  const before = history ? await readFor('add', listedIn(history, to, kind)) : new Map<string, string>()
  const known = new Set(listed.flatMap(({ path, hash }) => (before.get(path) === hash ? [path] : [])))
  const list = {
    createdAt: now.toISOString(),
    host: hostname(),
    tool: 'Ennick',
    comment: howReadBack(listed),
    files: listed.map((copy) => ({
      path: copy.path,
      sizeBytes: copy.sizeBytes,
      modifiedAt: new Date(copy.mtimeMicros / 1000).toISOString(),
      hashes: { [kind]: copy.hash },
    })),
  }
  const text = writeHashList(list, known)
  const name = hashListName(generation, title.replace(/[^\p{L}\p{N}._-]+/gu, '_'), now)
  await withFolder(
    to,
    historyFolder,
    async (directory) => {
      const chain = extendChain(history?.chain ?? null, {
        sequence: generation,
        path: name,
        sha1: hashOf('sha1', text),
      })
      // Both lie beside their places before the first of them has its name: what is between is two renames.
      const part = `.${name}.part`
      await writeNew(directory, part, text)
      await writeNew(directory, chainPart, chain)
      if (!(await nameCopy(directory, part, name)))
        throw new JobFailure(`${join(directory.path, name)} is already there. Move it away, and retry.`)
      await rename(directory.at(chainPart), directory.at(chainFile))
    },
    { make: true },
  )
  return pathIn(historyFolder, name)
}

/**
 * Gives a history the longer chain of another one that it is the beginning of.
 * @throws BrokenHistory where the one there went on otherwise meanwhile
 */
export const growChain = (database: Database, to: HeldFolder, longer: ManifestHistory): Promise<void> =>
  alone(database, to, () =>
    withFolder(to, historyFolder, async (folder) => {
      const chain = await folder.readText(chainFile)
      if (longer.chain === null || !isBeginningOf(chain === null ? [] : parseChain(chain), longer.entries))
        throw new BrokenHistory(`${join(folder.path, chainFile)} went on otherwise meanwhile.`)
      await writeNew(folder, chainPart, longer.chain)
      await rename(folder.at(chainPart), folder.at(chainFile))
    }),
  )

/** Whether a chain names the same generations as another one, as far as it goes. */
export const isBeginningOf = (entries: readonly ChainEntry[], longer: readonly ChainEntry[]): boolean =>
  entries.every(({ path, hash }, index) => {
    const other = longer[index]
    return other?.path === path && other.hash?.kind === hash?.kind && other.hash?.value === hash?.value
  })

/** Our own unfinished file of a run that died is written anew; anything else of its name is not. */
async function writeNew(folder: HeldFolder, name: string, text: string): Promise<void> {
  if ((await folder.look(name))?.isFile()) await unlink(folder.at(name))
  const file = await folder.create(name)
  try {
    await file.writeFile(text)
    await file.datasync()
  } finally {
    await file.close()
  }
}

function howReadBack(copies: readonly VerifiedCopy[]): string {
  const copied = (wasDirect: boolean | null): number => copies.filter((copy) => copy.wasDirect === wasDirect).length
  const parts = [
    [copied(true), 'read back from the disk itself, past the cache of the system'],
    [copied(false), 'read back through the cache of the system, as this file system allows no other way'],
    [copied(null), 'there already, and compared with the source'],
  ] as const
  return parts
    .filter(([files]) => files > 0)
    .map(([files, how]) => `${count(files, 'file')} ${how}`)
    .join('; ')
}
