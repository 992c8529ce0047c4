import { readdir, readFile, realpath, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { removableKinds } from '@ennick/core'
import { readMarker } from './marker.ts'
import { assertReached } from './system-error.ts'

/** Every folder at which a file system is mounted; null where the system keeps no list of them. */
export async function mountPoints(): Promise<string[] | null> {
  const list = await readFile('/proc/self/mountinfo', 'utf8').catch(() => null)
  if (list === null) return null
  // The fifth word, with blanks and the like written as octal numbers (proc(5)).
  const points = list.split('\n').map((line) => line.split(' ')[4])
  const plain = points.map((point) =>
    point?.replace(/\\([0-7]{3})/g, (_, digits: string) => String.fromCharCode(Number.parseInt(digits, 8))),
  )
  return [...new Set(plain.filter((point): point is string => Boolean(point)))]
}

/**
 * The folder at which the file system of a path is mounted. Where the system keeps no list of mounts, it is the highest
 * folder above on the same device.
 */
export async function mountOf(path: string): Promise<string> {
  const points = await mountPoints()
  if (points !== null) {
    const above = points.filter((point) => path === point || path.startsWith(`${point}/`))
    return above.reduce((longest, point) => (point.length > longest.length ? point : longest), '/')
  }
  const { dev } = await stat(path)
  let mount = path
  while (mount !== dirname(mount) && (await stat(dirname(mount))).dev === dev) mount = dirname(mount)
  return mount
}

/** What is known of a volume from when it was last seen. */
export interface KnownVolume {
  readonly rootPath: string
  readonly kind: string
  readonly markerId: string | null
  /** Where its file system was mounted; null when that was not noted yet. */
  readonly mountPath: string | null
  /** The inode of its root; null when that was not noted yet. */
  readonly rootInode: string | null
}

/** By what a volume's root, or another folder, is known again: where its file system is mounted, and its own inode. */
export interface RootIdentity {
  readonly mountPath: string
  readonly rootInode: string
}

/** Looks at a folder as it is now. @throws as `stat` does when it is not there */
export async function rootIdentity(rootPath: string): Promise<RootIdentity> {
  const { ino } = await stat(rootPath, { bigint: true })
  return { mountPath: await mountOf(rootPath), rootInode: String(ino) }
}

/** Whether there is a folder, and its disk or share is there. */
export const isFolder = (path: string): Promise<boolean> =>
  Promise.all([stat(path), assertReached(path)]).then(
    ([info]) => info.isDirectory(),
    () => false,
  )

/**
 * Whether a volume is in. A folder at its place is not enough: a disk that was taken out leaves its empty mount point,
 * a link may stand in its place, or another box.
 * @param knownPaths some files that the ledger knows on it, below its root
 */
export async function isVolumeHere(
  volume: KnownVolume,
  knownPaths: () => Promise<readonly string[]>,
): Promise<boolean> {
  const { rootPath, kind, markerId } = volume
  if (!(await isFolder(rootPath))) return false
  if (kind === 'made') return markerId === null || (await readMarker(rootPath))?.volume === markerId
  if ((await realpath(rootPath).catch(() => null)) !== rootPath) return false
  if (markerId !== null) {
    const marker = await readMarker(rootPath)
    if (marker && marker.volume !== markerId) return false
  }
  const now = await rootIdentity(rootPath)
  const isSameMount = volume.mountPath === null || now.mountPath === volume.mountPath
  const isSameRoot = isSameMount && (volume.rootInode === null || now.rootInode === volume.rootInode)
  // Listed only where that decides: this is asked of every volume every two seconds.
  const isEmpty = async (): Promise<boolean> => (await readdir(rootPath).catch(() => ['not readable'])).length === 0
  if (isSameRoot) {
    // Of a box that leaves again, an empty folder on the disk below says nothing of what is in the box.
    const isBareFolder = removableKinds.has(kind) && now.mountPath !== rootPath && (await isEmpty())
    return !isBareFolder || (await knownPaths()).length === 0
  }
  // Another folder under its name: it is the volume all the same when it holds what is known of it.
  if (await isEmpty()) return false
  const known = await knownPaths()
  return known.length === 0 ? isSameMount : isAnyThere(rootPath, known)
}

/** Whether anything lies at one of some paths below a root. */
async function isAnyThere(rootPath: string, paths: readonly string[]): Promise<boolean> {
  for (const path of paths) if (await stat(join(rootPath, path)).catch(() => null)) return true
  return false
}
