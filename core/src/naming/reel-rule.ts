import { type RegularExpression, RegularExpressionError, readRegularExpression } from '../text/index.ts'
import { stem } from './names.ts'

/**
 * How a reel is taken from a file's path: the whole stem of its name, the first n characters of that, the n-th folder
 * above it, or the groups of a pattern in its stem, one after another.
 */
export type ReelRule =
  | { readonly kind: 'stem' }
  | { readonly kind: 'first-characters'; readonly count: number }
  | { readonly kind: 'folder'; readonly level: number }
  | { readonly kind: 'pattern'; readonly pattern: string }

/** A rule that cannot be applied; the message says why. */
export class ReelRuleError extends Error {
  override readonly name = 'ReelRuleError'
}

/**
 * Makes the function that reads a reel from a path below a volume's root.
 * @returns a function that answers undefined for a path that the rule does not fit.
 * @throws ReelRuleError for a pattern that is no regular expression or has no group.
 */
export function reelReader(rule: ReelRule): (path: string) => string | undefined {
  switch (rule.kind) {
    case 'stem':
      return (path) => stem(path) || undefined
    case 'first-characters':
      return (path) => stem(path).slice(0, rule.count) || undefined
    case 'folder':
      return (path) => path.split('/').slice(0, -1).at(-rule.level) || undefined
    case 'pattern': {
      const pattern = compile(rule.pattern)
      return (path) =>
        pattern
          .matches(stem(path))[0]
          ?.groups.map((group) => group ?? '')
          .join('') || undefined
    }
  }
}

function compile(source: string): RegularExpression {
  let pattern: RegularExpression
  try {
    pattern = readRegularExpression(source)
  } catch (error) {
    if (error instanceof RegularExpressionError) throw new ReelRuleError(error.message)
    throw error
  }
  if (pattern.groups === 0) throw new ReelRuleError(`"${source}" has no group: put the part that is the reel in ( ).`)
  return pattern
}
