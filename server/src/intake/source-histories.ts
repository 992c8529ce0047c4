import { readdir } from 'node:fs/promises'
import { basename, dirname } from 'node:path'
import { type HashKind, HashListError, parseChain } from '@ennick/core'
import { type HeldFolder, withFolder } from '../disk/held-folder.ts'
import type { Database } from '../store/database.ts'
import type { SourceFile } from './copier.ts'
import {
  BrokenHistory,
  chainFile,
  growChain,
  historyFolder,
  isBeginningOf,
  isOfHistory,
  listedIn,
  type ManifestHistory,
  readHistory,
} from './manifest-history.ts'
import { type PassedOver, pathIn } from './walk.ts'

/** What is done with the histories of manifests that a source brings along. */
export interface SourceHistories {
  /** What an attempt died over: it has to be there before the history at the copy is read. */
  readonly first: readonly SourceFile[]
  /** All others that are copied: a chain after the lists that it names, so that no copy of one is ever without them. */
  readonly files: readonly SourceFile[]
  readonly passedOver: readonly PassedOver[]
  /** What they say of the source's files, by their paths there, as far as they hold. */
  readonly listed: ReadonlyMap<string, string>
  /** Those of which the copy has the beginning, by their folders: their chains grow when the lists are there. */
  readonly grown: ReadonlyMap<string, ManifestHistory>
}

/**
 * A history that lies on a source comes along, and belongs to its copy from then on, where it may go on. When the
 * source is copied again, one of both may be longer: the copy's stays, or gets what it lacks. Where both went on
 * otherwise they cannot be one any more: that of the copy stays, and the other one is told to be passed over.
 */
export async function sortHistories(
  from: HeldFolder,
  to: HeldFolder,
  files: readonly SourceFile[],
  kind: HashKind,
): Promise<SourceHistories> {
  const passedOver: PassedOver[] = []
  const listed = new Map<string, string>()
  const grown = new Map<string, ManifestHistory>()
  const without = new Set<string>()
  let isBegun = false
  for (const { path } of files) {
    if (basename(path) !== chainFile || basename(dirname(path)) !== historyFolder) continue
    const history = dirname(path)
    const folder = dirname(history) === '.' ? '' : dirname(history)
    const own = await withFolder(from, folder, async (held) => {
      const read = await readHistory(held, false)
      for (const [below, hash] of read ? await listedIn(read, held, kind) : []) listed.set(pathIn(folder, below), hash)
      return read
    }).catch((error) => {
      if (error instanceof BrokenHistory) return null
      throw error
    })
    const state = own ? await compareWithCopy(to, folder, own) : folder === '' ? 'does not hold' : 'not there'
    if (state === 'does not hold') passedOver.push({ path: history, what: 'manifest history that does not hold' })
    if (state === 'otherwise') passedOver.push({ path: history, what: 'manifest history that went on otherwise there' })
    if (state === 'does not hold' || state === 'otherwise')
      for (const each of files) if (each.path.startsWith(`${history}/`)) without.add(each.path)
    if (state === 'longer there') without.add(path)
    if (state === 'begun there' && own) {
      without.add(path)
      grown.set(folder, own)
      isBegun ||= folder === ''
    }
  }
  const rank = ({ path }: SourceFile): number => {
    if (isBegun && dirname(path) === historyFolder) return 0
    return !isOfHistory(path) ? 3 : basename(path) === chainFile ? 2 : 1
  }
  const ordered = files.filter(({ path }) => !without.has(path)).sort((a, b) => rank(a) - rank(b))
  const begun = ordered.filter((file) => rank(file) === 0)
  return { first: begun, files: ordered.slice(begun.length), passedOver, listed, grown }
}

/** How the history in a folder of the copy stands to that of the source. */
async function compareWithCopy(
  to: HeldFolder,
  folder: string,
  own: ManifestHistory,
): Promise<'not there' | 'same' | 'begun there' | 'longer there' | 'otherwise'> {
  const there = await withFolder(to, pathIn(folder, historyFolder), readLoosely).catch((error) => {
    if (error.code === 'ENOENT') return null
    throw error
  })
  if (!there) return 'not there'
  if (there.chain !== null && there.chain === own.chain && own.lists.every(({ name }) => there.names.has(name)))
    return 'same'
  if (there.entries === null) return 'otherwise'
  if (isBeginningOf(own.entries, there.entries) && there.entries.length > own.entries.length) return 'longer there'
  // Lists that a chain does not name yet are those of an attempt that died; any other is not ours to go over.
  const named = new Set(own.entries.map(({ path }) => path))
  const isOurs = [...there.names].every((name) => named.has(name))
  return isBeginningOf(there.entries, own.entries) && isOurs ? 'begun there' : 'otherwise'
}

/** A history that may lack some of what belongs to it; its entries are null where its chain cannot be read. */
async function readLoosely(folder: HeldFolder): Promise<{
  chain: string | null
  entries: ManifestHistory['entries'] | null
  names: ReadonlySet<string>
}> {
  const chain = await folder.readText(chainFile)
  const names = new Set((await readdir(folder.at('.'))).filter((name) => name.endsWith('.mhl')))
  try {
    return { chain, entries: chain === null ? [] : parseChain(chain), names }
  } catch (error) {
    if (error instanceof HashListError) return { chain, entries: null, names }
    throw error
  }
}

/**
 * Lets the chains of copies grow by what the source's have more, when the lists that they name are there.
 * @param only the folder of the one that may; all where it is not given
 * @returns those that could not, with the reasons
 */
export async function growChains(
  database: Database,
  to: HeldFolder,
  grown: SourceHistories['grown'],
  only?: string,
): Promise<{ path: string; reason: string }[]> {
  const refused: { path: string; reason: string }[] = []
  for (const [folder, longer] of grown) {
    if (only !== undefined && only !== folder) continue
    await withFolder(to, folder, async (held) => {
      const { names } = await withFolder(held, historyFolder, readLoosely)
      if (longer.lists.every(({ name }) => names.has(name))) await growChain(database, held, longer)
    }).catch((error) => {
      if (!(error instanceof BrokenHistory)) throw error
      refused.push({ path: pathIn(folder, `${historyFolder}/${chainFile}`), reason: error.message })
    })
  }
  return refused
}
