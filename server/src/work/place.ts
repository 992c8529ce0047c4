import { link, mkdir, readdir, rename, rm, stat, unlink } from 'node:fs/promises'
import { basename, dirname, join } from 'node:path'

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
