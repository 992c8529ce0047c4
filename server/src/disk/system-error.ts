import { statfs } from 'node:fs/promises'

/** Errors of Linux (errno(3)) that this runtime has no names for, as what they come to. */
const unnamed: Readonly<Record<string, string>> = {
  // ESTALE of a share: the server has forgotten the file, or exports another folder.
  '-116': 'ENOTCONN',
  '-117': 'EUCLEAN',
  '-122': 'EDQUOT',
  // ENOMEDIUM
  '-123': 'ENXIO',
}

/** The code of an error of the system; empty for any other. */
export function codeOf(error: unknown): string {
  const { code, syscall } = (error ?? {}) as NodeJS.ErrnoException
  // What a connection met says nothing of a disk.
  if (typeof code !== 'string' || syscall === 'connect') return ''
  return unnamed[/^Unknown system error (-\d+)$/.exec(code)?.[1] ?? ''] ?? code
}

/** Whether something could not be written because there is no room for it. */
export const isNoRoom = (error: unknown): boolean => ['ENOSPC', 'EDQUOT'].includes(codeOf(error))

/** Codes with which the file system of a disk or a share says that what it reached is not to be reached any more. */
export const losses: readonly string[] = [
  ...['ENOTCONN', 'ESHUTDOWN', 'EHOSTDOWN', 'EHOSTUNREACH', 'ENETDOWN', 'ENETUNREACH', 'ETIMEDOUT', 'EREMOTEIO'],
  ...['ENXIO', 'ENODEV'],
]

/** Whether a disk or share has gone from under what was done with it. */
export const isLost = (error: unknown): boolean => losses.includes(codeOf(error))

/**
 * Asks a disk or share itself whether it is there, as far as it says so: of one that has gone the system may remember
 * what lay on it. One that does not know the question counts as there.
 * @throws what it says when it has gone
 */
export async function assertReached(path: string): Promise<void> {
  await statfs(path).catch((error: unknown) => {
    if (isLost(error)) throw error
  })
}
