import { link, rename, unlink } from 'node:fs/promises'
import type { FileIdentity } from './file-identity.ts'
import type { HeldFolder } from './held-folder.ts'
import { whyNotNamed } from './name-refused.ts'

/** A place in a held folder. */
export interface Spot {
  readonly folder: HeldFolder
  readonly name: string
}

/** File systems of cards and shares that know no second name for a file. */
const knowsNoLinks = new Set(['EPERM', 'ENOTSUP', 'EOPNOTSUPP', 'ENOSYS', 'EMLINK'])

const inUse = (spot: Spot): Error =>
  Object.assign(new Error(`${spot.folder.path}/${spot.name} is taken`), { code: 'EEXIST' })

/**
 * Gives a file another name in one step, never in place of anything, and only while it is the file that was meant.
 * @throws an Error with code EEXIST when anything has the new name; with code ESTALE when another file has the old one
 */
export async function moveFile(from: Spot, to: Spot, file: Pick<FileIdentity, 'device' | 'inode'>): Promise<void> {
  await assertIs(from, file)
  try {
    await link(from.folder.at(from.name), to.folder.at(to.name))
  } catch (error) {
    const refused = (failure: unknown): unknown => whyNotNamed(failure, to.folder.path, to.name)
    if (!knowsNoLinks.has((error as NodeJS.ErrnoException).code ?? '')) throw refused(error)
    // Here a check has to do.
    if (await to.folder.look(to.name)) throw inUse(to)
    await rename(from.folder.at(from.name), to.folder.at(to.name)).catch((failure) => {
      throw refused(failure)
    })
    return
  }
  try {
    await assertIs(to, file)
  } catch (error) {
    // What was linked is another file that took the old name meanwhile: it keeps that one.
    await unlink(to.folder.at(to.name))
    throw error
  }
  await unlink(from.folder.at(from.name))
}

async function assertIs(spot: Spot, file: Pick<FileIdentity, 'device' | 'inode'>): Promise<void> {
  const now = await spot.folder.look(spot.name)
  if (!now) throw Object.assign(new Error(`${spot.folder.path}/${spot.name} is gone`), { code: 'ENOENT' })
  if (String(now.dev) !== file.device || String(now.ino) !== file.inode)
    throw Object.assign(new Error(`${spot.folder.path}/${spot.name} is another file now`), { code: 'ESTALE' })
}
