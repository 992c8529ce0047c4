import { type Dirent, promises } from 'node:fs'
import { join } from 'node:path'
import { claimsToBeMedia, isPassedOver } from '@ennick/core'

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

/**
 * Every folder below a root that is not passed over, in order, one at a time, with its files. Symbolic links are passed
 * over, so that a walk never leaves its root; so are hidden and system files. A folder that may not be read is told to
 * `onUnreadable` and passed over.
 */
export async function* walkFolders(
  root: string,
  onUnreadable: (path: string) => void = () => undefined,
  below = '',
): AsyncGenerator<WalkedFolder> {
  let entries: Dirent[]
  try {
    entries = await promises.readdir(join(root, below), { withFileTypes: true })
  } catch (error) {
    if (below === '') throw error
    onUnreadable(below)
    return
  }
  const kept = entries.filter((entry) => !isPassedOver(entry.name)).sort((a, b) => (a.name < b.name ? -1 : 1))
  yield { folder: below, names: kept.filter((entry) => entry.isFile()).map((entry) => entry.name) }
  for (const entry of kept) if (entry.isDirectory()) yield* walkFolders(root, onUnreadable, pathIn(below, entry.name))
}

export const pathIn = (folder: string, name: string): string => (folder ? `${folder}/${name}` : name)

/** Every file below a folder, one at a time. */
export async function* walk(root: string, onUnreadable?: (path: string) => void): AsyncGenerator<WalkedFile> {
  for await (const { folder, names } of walkFolders(root, onUnreadable))
    for (const name of names) yield { path: pathIn(folder, name), isMedia: claimsToBeMedia(name) }
}
