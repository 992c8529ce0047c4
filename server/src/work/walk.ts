import { type Dirent, promises } from 'node:fs'
import { join } from 'node:path'
import { claimsToBeMedia, isPassedOver } from '@ennick/core'

export interface WalkedFile {
  /** Relative to where the walk began, with "/" between folders. */
  readonly path: string
  readonly isMedia: boolean
}

/**
 * Every file below a folder, in order, one at a time. Symbolic links are passed over, so that a walk never leaves its
 * folder; so are hidden and system files. A folder that may not be read is told to `onUnreadable` and passed over.
 */
export async function* walk(root: string, onUnreadable: (path: string) => void = () => undefined, below = ''): AsyncGenerator<WalkedFile> {
  let entries: Dirent[]
  try {
    entries = await promises.readdir(join(root, below), { withFileTypes: true })
  } catch (error) {
    if (below === '') throw error
    onUnreadable(below)
    return
  }
  entries.sort((a, b) => (a.name < b.name ? -1 : 1))
  for (const entry of entries) {
    if (isPassedOver(entry.name)) continue
    const path = below ? `${below}/${entry.name}` : entry.name
    if (entry.isDirectory()) yield* walk(root, onUnreadable, path)
    else if (entry.isFile()) yield { path, isMedia: claimsToBeMedia(entry.name) }
  }
}
