import { readdir, rm, stat, unlink } from 'node:fs/promises'
import { basename, dirname, join, posix } from 'node:path'
import { xxh64 } from '@node-rs/xxhash'
import type { HeldFolder } from '../disk/held-folder.ts'
import { explainFileError } from '../errors.ts'
import { JobFailure } from '../queue/failure.ts'

/** Where a made item's file is kept that a mend replaced, below the made volume. Scans pass it over. */
export const keptPath = (pairId: string, path: string): string => posix.join('.kept', pairId, posix.basename(path))

/** Where the file of a made item lies that was untied from its clip, below the made volume, for people to see. */
export const untiedPath = (pairId: string, path: string): string => posix.join('untied', pairId, posix.basename(path))

/** Whether a path below the made volume is where a file of this pair was set aside, from where it can come back. */
export const isSetAside = (pairId: string, path: string): boolean =>
  path === keptPath(pairId, path) || path === untiedPath(pairId, path)

/** An unfinished file's name: hidden, and known as the job's own whichever attempt wrote it. */
export function partPath(finalPath: string, jobId: string, attempt: number): string {
  const name = basename(finalPath)
  const ending = `.${jobId.slice(0, 8)}-${attempt}.ennick-part`
  // A disk's limit is that of a name: one that is near it is told from others by its mark here.
  const isShort = Buffer.byteLength(name) + ending.length < 255
  return join(dirname(finalPath), `.${isShort ? name : xxh64(name).toString(16)}${ending}`)
}

const partName = /^\..*\.([0-9a-f]{8})-(\d{1,9})\.ennick-part$/s

/** Whether a name is that of an unfinished file: of one job, or of any. */
export function isPart(name: string, jobId = ''): boolean {
  const owner = partName.exec(name)?.[1]
  return owner?.startsWith(jobId.slice(0, 8)) ?? false
}

/** The first characters of the id of the job that an unfinished file is of, and the number of its attempt. */
export function partOwner(name: string): { job: string; attempt: number } {
  const [, job = '', attempt = '0'] = partName.exec(name) ?? []
  return { job, attempt: Number(attempt) }
}

/** Removes what earlier attempts of a job left unfinished in a folder; what is no plain file is left alone. */
export async function removeParts(folder: HeldFolder, jobId: string): Promise<void> {
  for (const name of await readdir(folder.at('.')))
    if (isPart(name, jobId) && (await folder.look(name))?.isFile()) await unlink(folder.at(name))
}

/**
 * Removes what an attempt leaves unfinished, as far as its disk can be reached: of one that has gone the next attempt
 * removes it, or whoever starts next.
 */
export async function dropUnfinished(...paths: readonly string[]): Promise<void> {
  await Promise.all(paths.map((path) => rm(path, { force: true }).catch(() => undefined)))
}

export const exists = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  )

/**
 * Holds a folder below a root and makes it where it is missing, never through a link: what is made must not get among
 * originals so.
 * @throws JobFailure when there is such a link, or when the folder cannot be made
 */
export async function prepareFolder(root: HeldFolder, below: string): Promise<HeldFolder> {
  try {
    return await root.folder(below, { make: true })
  } catch (error) {
    throw new JobFailure(explainFileError(error, join(root.path, below)))
  }
}
