import { type RegularExpression, RegularExpressionError, readRegularExpression } from '../text/index.ts'

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
  if (!isPattern) {
    const expression = new RegExp(find.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&'), isCaseSensitive ? 'gu' : 'giu')
    return (text) => text.replace(expression, () => replace)
  }
  let pattern: RegularExpression
  try {
    pattern = readRegularExpression(find, { isCaseSensitive })
  } catch (error) {
    if (error instanceof RegularExpressionError) throw new ReplacementError(error.message)
    throw error
  }
  return (text) => {
    let replaced = ''
    let at = 0
    for (const { start, end, groups } of pattern.matches(text)) {
      replaced += text.slice(at, start) + expand(replace, text.slice(start, end), groups)
      at = end
    }
    return replaced + text.slice(at)
  }
}

/**
 * "$1" to "$99" stand for groups, "$&" for all that was found and "$$" for "$"; a group that there is not stays as it
 * is.
 */
const expand = (template: string, whole: string, groups: readonly (string | null)[]): string =>
  template.replace(/\$(\$|&|\d{1,2})/g, (word, what: string) => {
    if (what === '$') return '$'
    if (what === '&') return whole
    const two = Number(what)
    if (two >= 1 && two <= groups.length) return groups[two - 1] ?? ''
    const one = Number(what[0])
    return what.length === 2 && one >= 1 && one <= groups.length ? (groups[one - 1] ?? '') + what[1] : word
  })
