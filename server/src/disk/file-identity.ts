import { type FileHandle, lstat, statfs } from 'node:fs/promises'
import { fingerprintOf, stampOfStats } from './fingerprint.ts'
import type { HeldFolder } from './held-folder.ts'

/** Which file it is, beyond its name. Device and inode are texts, as they fill 64 bits. */
export interface FileIdentity {
  readonly device: string
  readonly inode: string
  readonly sizeBytes: number
  readonly mtimeMicros: number
  readonly fingerprint: string
}

/** A file's identity as it is seen now. */
export interface SeenIdentity extends FileIdentity {
  /** Whether its file system gives a file the same inode as long as it is there. */
  readonly keepsInodes: boolean
}

/** Whether two paths lead to one file, as hard links do, or a folder that is mounted twice. */
export async function isOneFile(path: string, other: string): Promise<boolean> {
  const [one, two] = await Promise.all([path, other].map((each) => lstat(each, { bigint: true }).catch(() => null)))
  return !!one && !!two && one.dev === two.dev && one.ino === two.ino
}

/** The identity of a plain file in a folder; null when nothing has the name, or what has it is no plain file. */
export async function identify(folder: HeldFolder, name: string): Promise<SeenIdentity | null> {
  if (!(await folder.look(name))?.isFile()) return null
  const file = await folder.open(name)
  try {
    const type = await statfs(folder.at('.')).then(
      (system) => system.type,
      () => null,
    )
    return { ...(await identityOf(file)), keepsInodes: type !== null && !numbersAnew.has(type) }
  } finally {
    await file.close()
  }
}

/**
 * File systems, by their numbers for statfs(2), that have no inodes of their own or reach them by names: those of cards
 * and of drives that travel (FAT, exFAT), shares (SMB, CIFS, 9P), and what runs as a program (FUSE). Their numbers are
 * others after each mount, and may be after a while.
 */
const numbersAnew = new Set([0x4d44, 0x2011bab0, 0x517b, 0xff534d42, 0xfe534d42, 0x1021997, 0x65735546])

async function identityOf(file: FileHandle): Promise<FileIdentity> {
  const info = await file.stat({ bigint: true })
  return {
    device: String(info.dev),
    inode: String(info.ino),
    ...stampOfStats(info),
    fingerprint: await fingerprintOf(file, Number(info.size)),
  }
}

/**
 * Whether a file that is seen now is the one that was noted, whatever was written into it since: enough to move it, as
 * that can be taken back. While its disk stays mounted the inode decides; after that numbers may have changed, and
 * size, time and content have to agree. Where inodes are not kept, the content alone says it: such disks round times,
 * and some count them in the hours of the place where they are mounted.
 */
export function isSameFile(noted: FileIdentity, now: SeenIdentity): boolean {
  if (!now.keepsInodes) return noted.fingerprint === now.fingerprint
  if (noted.device === now.device) return noted.inode === now.inode
  return (
    noted.sizeBytes === now.sizeBytes && noted.mtimeMicros === now.mtimeMicros && noted.fingerprint === now.fingerprint
  )
}

/**
 * Whether it also holds what it held: needed before it is removed. Another file may have been written into it, and an
 * inode is given to somebody else's file once its own is gone.
 */
export const isUntouched = (noted: FileIdentity, now: SeenIdentity): boolean =>
  isSameFile(noted, now) && noted.fingerprint === now.fingerprint
