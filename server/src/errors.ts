import { NotAnswering } from './disk/answering.ts'
import { FolderLeft, LedAway } from './disk/held-folder.ts'
import { NameRefused } from './disk/name-refused.ts'
import { codeOf, isNoRoom, losses } from './disk/system-error.ts'

/** A request or job that cannot be done, with a sentence for the person who asked. */
export class PlainError extends Error {
  override readonly name = 'PlainError'
  readonly code: string
  readonly status: number
  readonly details: unknown
  constructor(code: string, message: string, options: { status?: number; details?: unknown } = {}) {
    super(message)
    this.code = code
    this.status = options.status ?? 400
    this.details = options.details
  }
}

export const notFound = (what: string): PlainError =>
  new PlainError('not-found', `${what} is not here: it may have been removed. Go back to the list.`, { status: 404 })

const lost = (path: string): string =>
  `${path} cannot be reached: its disk or share has gone, or does not answer any more. Put it in again, and retry.`

const sentences: Readonly<Record<string, (path: string) => string>> = {
  ENOSPC: (path) => `There is no space left to write ${path}. Free some, or choose another destination, and retry.`,
  EDQUOT: (path) => `There is no space left to write ${path}. Free some, or choose another destination, and retry.`,
  EACCES: (path) => `${path} may not be read or written: give Ennick the right to it, or choose another place.`,
  EPERM: (path) => `${path} may not be read or written: give Ennick the right to it, or choose another place.`,
  EROFS: (path) => `${path} is on a disk that may only be read: choose another destination.`,
  ENOENT: (path) => `${path} does not exist.`,
  ENOTDIR: (path) => `${path} is not a folder.`,
  EISDIR: (path) => `${path} is a folder, where a file is needed.`,
  EEXIST: (path) => `${path} is already there. Move it away, and retry: nothing is ever overwritten.`,
  ENOTEMPTY: (path) => `${path} is already there. Move it away, and retry: nothing is ever overwritten.`,
  ESTALE: (path) => `${path} was exchanged for another file meanwhile. It is left as it is.`,
  EIO: (path) => `${path} cannot be read or written: its disk, card or cable may be failing.`,
  ...Object.fromEntries(losses.map((code) => [code, lost])),
  EUCLEAN: (path) => `${path} cannot be read or written: the file system of its disk is damaged. Have it checked.`,
  ENAMETOOLONG: (path) => `${path} is too long a name for this disk.`,
  ELOOP: (path) => `${path} is a link, which is not followed there.`,
  EBUSY: (path) => `${path} is in use by another program. Retry when it is free.`,
  EFBIG: (path) => `${path} would be larger than a file may be on this disk.`,
  EXDEV: (path) => `${path} lies on another disk than the folder above it.`,
  EMFILE: (path) => `${path} could not be opened: too many files are open. Retry in a moment.`,
}

/** Failures of a disk whose own words are for people. */
const saysItself = (error: unknown): error is Error =>
  [FolderLeft, LedAway, NotAnswering, NameRefused].some((kind) => error instanceof kind)

/** Whether something failed because of the disk, and not because Ennick made a mistake. */
export const isFileError = (error: unknown): boolean => saysItself(error) || codeOf(error) in sentences

/** The plain sentence behind a failure of the file system. */
export function explainFileError(error: unknown, path: string): string {
  if (saysItself(error)) return error.message
  return sentences[codeOf(error)]?.(path) ?? `${path}: ${(error as Error).message}`
}

/** Whether an error, or one of those that led to it, is of some kind. */
function isOwedTo(
  error: unknown,
  isSuch: (cause: { readonly code: string; readonly message: string }) => boolean,
): boolean {
  for (let at = error as { code?: unknown; message?: string; cause?: unknown } | null | undefined; at; ) {
    if (isSuch({ code: typeof at.code === 'string' ? at.code : '', message: at.message ?? '' })) return true
    at = at.cause as typeof at
  }
  return false
}

/**
 * Whether the database could not be asked, or ended the session in which it was: that says nothing of what was asked.
 * A transaction whose session has ended fails once more when it is taken back, and that is what is thrown.
 */
export const isDatabaseAway = (error: unknown): boolean =>
  isOwedTo(
    error,
    ({ code, message }) =>
      /^(ECONNREFUSED|ECONNRESET|57P0[123]|08\w\w\w)$/.test(code) ||
      /Connection terminated|connection timeout|is not queryable/i.test(message),
  )

/** What the database cannot keep: class 22 is data of no such kind, 54000 a name longer than an index takes. */
export const isUnkeepable = (error: unknown): boolean => isOwedTo(error, ({ code }) => /^(22\w{3}|54000)$/.test(code))

/** The database could not write because its disk is full (PostgreSQL error 53100). */
export const isDatabaseFull = (error: unknown): boolean => isOwedTo(error, ({ code }) => code === '53100')

/** The plain sentence behind a failure of a disk, whoever met it. */
export function explainFailure(error: unknown): string {
  if (isDatabaseFull(error))
    return 'The disk that Ennick’s own data lies on is full. Free some space there; nothing that was stored is lost.'
  const { path } = error as NodeJS.ErrnoException
  if (path === undefined && isNoRoom(error))
    return 'There is no space left on the disk. Free some, or choose another destination, and retry.'
  return explainFileError(error, path ?? 'The disk')
}
