/** How text is found in a column and what takes its place. */
export interface Replacement {
  readonly find: string
  /** "$1" stands for the first group when `isPattern`. */
  readonly replace: string
  readonly isPattern: boolean
  readonly isCaseSensitive: boolean
}

/** A search text that cannot be used; the message says why. */
export class ReplacementError extends Error {
  override readonly name = 'ReplacementError'
}

/**
 * Makes the function that replaces every occurrence in a cell.
 * @throws ReplacementError for nothing to find or a pattern that is no regular expression
 */
export function replacer(replacement: Replacement): (text: string) => string {
  const { find, replace, isPattern, isCaseSensitive } = replacement
  if (find === '') throw new ReplacementError('Write what is to be found.')
  let expression: RegExp
  try {
    expression = new RegExp(isPattern ? find : find.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&'), isCaseSensitive ? 'gu' : 'giu')
  } catch (error) {
    throw new ReplacementError(`“${find}” is not a regular expression: ${(error as Error).message}`)
  }
  return isPattern ? (text) => text.replace(expression, replace) : (text) => text.replace(expression, () => replace)
}
