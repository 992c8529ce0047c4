import { type FileHandle, unlink } from 'node:fs/promises'
import { identify } from '../disk/file-identity.ts'
import type { HeldFolder } from '../disk/held-folder.ts'
import { moveFile } from '../disk/move-file.ts'
import { partOfCopy } from './copy-format.ts'
import { readLedgerCopy } from './read-copy.ts'

/**
 * Puts a copy of the ledger into a folder: it gets its name once it was read back, and is whole.
 * @param write writes all of it, and closes the file
 * @throws as that, or the disk, does; what was begun is removed
 */
export async function placeCopy(
  folder: HeldFolder,
  name: string,
  write: (file: FileHandle) => Promise<void>,
): Promise<void> {
  const part = partOfCopy(name)
  const file = await folder.create(part)
  try {
    await write(file)
    await readLedgerCopy(folder, part)
    const identity = await identify(folder, part)
    if (!identity) throw new Error(`${part} is not there any more.`)
    await moveFile({ folder, name: part }, { folder, name }, identity)
  } catch (error) {
    await file.close().catch(() => undefined)
    await unlink(folder.at(part)).catch(() => undefined)
    throw error
  }
}
