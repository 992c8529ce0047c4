import type { Dirent } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { basename, join } from 'node:path'
import type { PassedOverKind } from '@ennick/contract'
import { claimsToBeMedia, formatNumber, groupBy, isOwnByName, isPassedOver, marksDataFolder } from '@ennick/core'
import { HeldFolder } from '../disk/held-folder.ts'
import { explainFileError } from '../errors.ts'

export interface WalkedFile {
  /** Relative to where the walk began, with "/" between folders. */
  readonly path: string
  readonly isMedia: boolean
}

/** The files of one folder, by name. */
export interface WalkedFolder {
  /** Relative to where the walk began; empty for the root. */
  readonly folder: string
  readonly names: readonly string[]
}

/** A folder, or a file, that is there and could not be read: of what is in it nothing is known. */
export interface Unreadable {
  readonly path: string
  readonly reason: string
  /** Of one whose name cannot be reached: whether it is a file. */
  readonly isFile?: boolean
}

/** What is not gone through, by choice. */
export interface PassedOver {
  /** Of a folder the folder alone, and not what is in it. */
  readonly path: string
  readonly what: PassedOverKind['what']
}

/** Hears of what a walk leaves out. */
export interface WalkListener {
  /** Of each folder or file that could not be read; what is in it is there all the same. */
  readonly onUnreadable: (each: Unreadable) => void
  readonly onPassedOver?: (each: PassedOver) => void
  /**
   * Whether media are looked for: then the data folder of an Ennick is passed over, in which every small picture would
   * be taken for a still. What is copied, or may be deleted, is everything that is there.
   */
  readonly isForMedia?: boolean
}

/**
 * Every folder below a root that is not passed over, in order, one at a time, with its files. Symbolic links are passed
 * over, also when one takes a folder's place while the walk goes on, so that it never leaves its root; so are hidden
 * and system files.
 * @throws when the root itself cannot be read, or another folder takes its place
 */
export async function* walkFolders(root: string, listener: WalkListener): AsyncGenerator<WalkedFolder> {
  const held = await HeldFolder.hold(root)
  try {
    yield* walkBelow(held, held, '', listener)
    await held.assertThere()
  } finally {
    await held.release()
  }
}

async function* walkBelow(
  root: HeldFolder,
  held: HeldFolder,
  below: string,
  listener: WalkListener,
): AsyncGenerator<WalkedFolder> {
  const tell = async (path: string, error: unknown): Promise<void> => {
    // A folder that cannot be read since the volume left is not a folder that cannot be read.
    await root.assertThere()
    listener.onUnreadable({ path, reason: explainFileError(error, join(root.path, path)) })
  }
  let entries: Dirent<Buffer>[]
  try {
    entries = await readdir(held.at('.'), { withFileTypes: true, encoding: 'buffer' })
  } catch (error) {
    if (below === '') throw error
    await tell(below, error)
    return
  }
  if (listener.isForMedia && below !== '' && entries.some((entry) => marksDataFolder(entry.name.toString()))) {
    listener.onPassedOver?.({ path: below, what: 'data folder of an Ennick' })
    return
  }
  const kept = readNames(below, entries, listener)
  yield { folder: below, names: kept.flatMap(({ name, entry }) => (entry.isFile() ? [name] : [])) }
  for (const { name, entry } of kept) {
    if (!entry.isDirectory()) continue
    const path = pathIn(below, name)
    let next: HeldFolder
    try {
      next = await held.folder(name)
    } catch (error) {
      // One that left meanwhile is not there, and a link that took its place is passed over like any other.
      const isLedAway = (error as Error).name === 'LedAway'
      if (isLedAway || (error as NodeJS.ErrnoException).code === 'ENOENT') await root.assertThere()
      else await tell(path, error)
      if (isLedAway) listener.onPassedOver?.({ path, what: 'link' })
      continue
    }
    try {
      yield* walkBelow(root, next, path, listener)
    } finally {
      await next.release()
    }
  }
}

/** The files and folders of one folder that are gone through, by name. */
function readNames(
  below: string,
  entries: readonly Dirent<Buffer>[],
  { onUnreadable, onPassedOver }: WalkListener,
): { name: string; entry: Dirent<Buffer> }[] {
  const kept: { name: string; entry: Dirent<Buffer> }[] = []
  for (const entry of entries) {
    const name = entry.name.toString()
    const path = pathIn(below, name)
    const what = isPassedOver(name)
      ? 'hidden or of the system'
      : entry.isSymbolicLink()
        ? 'link'
        : entry.isFile() || entry.isDirectory()
          ? null
          : 'neither file nor folder'
    if (what) {
      if (!isOwnByName(name)) onPassedOver?.({ path, what })
    }
    // Systems hold names as bytes; where they are no text, nothing is reached by the text that they are shown as.
    else if (!entry.name.equals(Buffer.from(name))) onUnreadable({ path, reason: nameIsNoText, isFile: entry.isFile() })
    else kept.push({ name, entry })
  }
  return kept.sort((a, b) => (a.name < b.name ? -1 : 1))
}

const nameIsNoText =
  'Its name is not written in UTF-8, and cannot be reached by it. ' +
  'Rename it, or mount its disk so that names are read in UTF-8.'

/** What could not be read, or what else was not done with it, in a sentence for each reason. */
export function nameUnreadable(list: readonly Unreadable[], what = 'could not be read'): string {
  const groups = [...groupBy(list, sameReason).values()]
  const told = groups.slice(0, mostReasons).map(([first, ...others]) => {
    const { path, reason } = first as Unreadable
    return `${path} ${what}: ${reason}${others.length ? ` So it is with ${named(others)}` : ''}`
  })
  const rest = groups.slice(mostReasons).flat()
  if (rest.length) told.push(`For other reasons so it is with ${named(rest)}`)
  return told.join(' ')
}

/** So many reasons are told, and so many names for each. */
const mostReasons = 3
const mostNamed = 5

const named = (list: readonly Unreadable[]): string =>
  `${formatNumber(list.length)} more: ${list
    .slice(0, mostNamed)
    .map(({ path }) => path)
    .join(', ')}${list.length > mostNamed ? ' …' : ''}.`

/** What two reasons have in common that say the same of two files. */
const sameReason = ({ path, reason }: Unreadable): string =>
  reason
    .replaceAll(path, '')
    .replaceAll(`“${basename(path)}”`, '')
    .replace(/\b[0-9a-f]{16,}\b/g, '')

export const pathIn = (folder: string, name: string): string => (folder ? `${folder}/${name}` : name)

/** Every file below a folder, one at a time. */
export async function* walk(root: string, listener: WalkListener): AsyncGenerator<WalkedFile> {
  for await (const { folder, names } of walkFolders(root, listener))
    for (const name of names) yield { path: pathIn(folder, name), isMedia: claimsToBeMedia(name) }
}
