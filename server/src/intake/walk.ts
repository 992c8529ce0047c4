import type { Dirent } from 'node:fs'
import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { claimsToBeMedia, isPassedOver } from '@ennick/core'
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
}

/**
 * Every folder below a root that is not passed over, in order, one at a time, with its files. Symbolic links are passed
 * over, also when one takes a folder's place while the walk goes on, so that it never leaves its root; so are hidden
 * and system files.
 * @param onUnreadable told of each folder that could not be read, which is passed over; what is in it is there all the
 * same
 * @throws when the root itself cannot be read, or another folder takes its place
 */
export async function* walkFolders(
  root: string,
  onUnreadable: (folder: Unreadable) => void,
): AsyncGenerator<WalkedFolder> {
  const held = await HeldFolder.hold(root)
  try {
    yield* walkBelow(held, held, '', onUnreadable)
    await held.assertThere()
  } finally {
    await held.release()
  }
}

async function* walkBelow(
  root: HeldFolder,
  held: HeldFolder,
  below: string,
  onUnreadable: (folder: Unreadable) => void,
): AsyncGenerator<WalkedFolder> {
  const tell = async (path: string, error: unknown): Promise<void> => {
    // A folder that cannot be read since the volume left is not a folder that cannot be read.
    await root.assertThere()
    onUnreadable({ path, reason: explainFileError(error, join(root.path, path)) })
  }
  let entries: Dirent[]
  try {
    entries = await readdir(held.at('.'), { withFileTypes: true })
  } catch (error) {
    if (below === '') throw error
    await tell(below, error)
    return
  }
  const kept = entries.filter((entry) => !isPassedOver(entry.name)).sort((a, b) => (a.name < b.name ? -1 : 1))
  yield { folder: below, names: kept.filter((entry) => entry.isFile()).map((entry) => entry.name) }
  for (const entry of kept) {
    if (!entry.isDirectory()) continue
    const path = pathIn(below, entry.name)
    let next: HeldFolder
    try {
      next = await held.folder(entry.name)
    } catch (error) {
      // One that left meanwhile is not there, and a link that took its place is passed over like any other.
      const { code, name } = error as NodeJS.ErrnoException
      if (code === 'ENOENT' || name === 'LedAway') await root.assertThere()
      else await tell(path, error)
      continue
    }
    try {
      yield* walkBelow(root, next, path, onUnreadable)
    } finally {
      await next.release()
    }
  }
}

/** What could not be read, or what else was not done with it, in a sentence. */
export function nameUnreadable(list: readonly Unreadable[], what = 'could not be read'): string {
  const [first] = list
  if (!first) return ''
  const more = list.length - 1
  return `${first.path} ${what}: ${first.reason}${
    more
      ? ` So it is with ${more} more: ${list
          .slice(1, 6)
          .map((each) => each.path)
          .join(', ')}${more > 5 ? ' …' : ''}.`
      : ''
  }`
}

export const pathIn = (folder: string, name: string): string => (folder ? `${folder}/${name}` : name)

/** Every file below a folder, one at a time. */
export async function* walk(root: string, onUnreadable: (folder: Unreadable) => void): AsyncGenerator<WalkedFile> {
  for await (const { folder, names } of walkFolders(root, onUnreadable))
    for (const name of names) yield { path: pathIn(folder, name), isMedia: claimsToBeMedia(name) }
}
