import { mkdir, readdir, rename, rm } from 'node:fs/promises'
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

/** A cache that was looked through so short a time ago is not looked through again. */
const restMilliseconds = 60_000
const lookedThrough = new Map<string, number>()

/**
 * Lets the files of a cache go that were made longest ago, until it is well below what it may hold.
 * @param root a cache of Ennick's own, which has folders of files in it and nothing else
 */
export async function trimCache(root: string, limitBytes: number): Promise<void> {
  if (Date.now() - (lookedThrough.get(root) ?? 0) < restMilliseconds) return
  lookedThrough.set(root, Date.now())
  await trim(root, limitBytes)
}

/** The same at once. */
export function trim(root: string, limitBytes: number): Promise<void> {
  return withHeld(
    root,
    async (held) => {
      const kept: { folder: string; name: string; bytes: number; at: bigint }[] = []
      for (const { name: folder } of (await readdir(held.at('.'), { withFileTypes: true })).filter((e) =>
        e.isDirectory(),
      ))
        await withFolder(held, folder, async (below) => {
          for (const name of await readdir(below.at('.'))) {
            const found = await below.look(name)
            if (found?.isFile()) kept.push({ folder, name, bytes: Number(found.size), at: found.mtimeNs })
          }
        })
      let total = kept.reduce((sum, { bytes }) => sum + bytes, 0)
      if (total <= limitBytes) return
      kept.sort((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0))
      for (const { folder, name, bytes } of kept) {
        if (total <= limitBytes * 0.75) break
        await withFolder(held, folder, (below) => rm(below.at(name), { force: true }))
        total -= bytes
      }
    },
    { isOwn: true },
  )
}
