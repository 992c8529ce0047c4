import { link, mkdir, readdir, realpath, rename, rm, stat, unlink } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'
import { explainFileError } from '../errors.ts'
import { JobFailure } from './failure.ts'

/** Where made items that a mend replaced are kept, so that the mend can be undone. Scans pass it over. */
export const keptFolder = (madeRoot: string, pairId: string): string => join(madeRoot, '.kept', pairId)

/** An unfinished file's name: hidden, and known as the job's own whichever attempt wrote it. */
export const partPath = (finalPath: string, jobId: string, attempt: number): string =>
  join(dirname(finalPath), `.${basename(finalPath)}.${jobId.slice(0, 8)}-${attempt}.ennick-part`)

/** Removes what earlier attempts of a job left unfinished in a folder. */
export async function removeParts(folder: string, jobId: string): Promise<void> {
  const names = await readdir(folder).catch(() => [] as string[])
  const mark = `.${jobId.slice(0, 8)}-`
  await Promise.all(
    names.filter((name) => name.endsWith('.ennick-part') && name.includes(mark)).map((name) => rm(join(folder, name), { force: true })),
  )
}

export const exists = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  )

/**
 * Makes a folder below a root, never through a link that leads out of it: what is made must not get among originals so.
 * @throws JobFailure when there is such a link, or when the folder cannot be made
 */
export async function prepareFolder(root: string, folder: string): Promise<void> {
  try {
    const realRoot = await realpath(root)
    for (let path = folder; path !== root && path !== dirname(path); path = dirname(path)) {
      const real = await realpath(path).catch(() => null)
      if (real === null) continue
      if (!real.startsWith(`${realRoot}/`))
        throw new JobFailure(
          `${path} is a link that leads to ${real}, out of the production’s own place. Nothing is written there: remove the link, and retry.`,
        )
      break
    }
    await mkdir(folder, { recursive: true })
  } catch (error) {
    throw error instanceof JobFailure ? error : new JobFailure(explainFileError(error, folder))
  }
}

/**
 * Gives an unfinished file its final name in one step, and never in place of another file.
 * @throws an Error with code EEXIST when something is there already.
 */
export async function placeFile(from: string, to: string): Promise<void> {
  try {
    await link(from, to)
    await unlink(from)
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code
    // Some file systems of cards and shares know no second name for a file; there a check has to do.
    if (code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'EOPNOTSUPP' && code !== 'ENOSYS') throw error
    if (await exists(to)) throw Object.assign(new Error(`${to} exists`), { code: 'EEXIST' })
    await rename(from, to)
  }
}

/** Moves a made file aside or back. A file that is not there stays not there: the ledger already says so. */
export async function moveIfThere(from: string, to: string): Promise<void> {
  if (!(await exists(from))) return
  await mkdir(dirname(to), { recursive: true })
  await placeFile(from, to)
}
