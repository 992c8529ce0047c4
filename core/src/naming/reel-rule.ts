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
      const expression = compile(rule.pattern)
      return (path) => expression.exec(stem(path))?.slice(1).join('') || undefined
    }
  }
}

function compile(pattern: string): RegExp {
  let expression: RegExp
  try {
    expression = new RegExp(pattern, 'u')
  } catch (error) {
    throw new ReelRuleError(`"${pattern}" is not a regular expression: ${(error as Error).message}`)
  }
  if (!/\((?!\?[:=!<])|\(\?<[^=!]/.test(pattern))
    throw new ReelRuleError(`"${pattern}" has no group: put the part that is the reel in ( ).`)
  return expression
}
