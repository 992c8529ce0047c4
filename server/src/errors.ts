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

/** The plain sentence behind a failure of the file system. */
export function explainFileError(error: unknown, path: string): string {
  const code = (error as NodeJS.ErrnoException).code
  switch (code) {
    case 'ENOSPC':
    case 'EDQUOT':
      return `There is no space left to write ${path}. Free some, or choose another destination, and retry.`
    case 'EACCES':
    case 'EPERM':
    case 'EROFS':
      return `${path} may not be written: give Ennick the right to write there, or choose another destination.`
    case 'ENOENT':
      return `${path} does not exist.`
    case 'ENOTDIR':
      return `${path} is not a folder.`
    default:
      return `${path}: ${(error as Error).message}`
  }
}
