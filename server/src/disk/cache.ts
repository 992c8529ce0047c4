import { mkdir, rename, rm } from 'node:fs/promises'
import { basename, dirname, relative } from 'node:path'
import { withFolder, withHeld } from './held-folder.ts'

/**
 * Moves a file that was made in scratch into a cache of Ennick's own, in place of an older one of its name; no link on
 * the way is followed.
 * @param root the cache
 * @param path where it goes, below the cache
 */
export async function keepInCache(root: string, path: string, part: string): Promise<void> {
  try {
    await mkdir(root, { recursive: true })
    await withHeld(
      root,
      (held) =>
        withFolder(held, relative(root, dirname(path)), (folder) => rename(part, folder.at(basename(path))), {
          make: true,
        }),
      { isOwn: true },
    )
  } catch (error) {
    await rm(part, { force: true })
    throw error
  }
}
