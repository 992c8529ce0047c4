import { stem } from './names.ts'

/** How a reel is taken from a file's name: the whole stem, its first n characters, or the first group of a pattern. */
export type ReelRule =
  | { readonly kind: 'stem' }
  | { readonly kind: 'first-characters'; readonly count: number }
  | { readonly kind: 'pattern'; readonly pattern: string }

/** A rule that cannot be applied; the message says why. */
export class ReelRuleError extends Error {
  override readonly name = 'ReelRuleError'
}

/**
 * Makes the function that reads a reel from a file name.
 * @returns a function that answers undefined for a name that the rule does not fit.
 * @throws ReelRuleError for a pattern that is no regular expression or has no group.
 */
export function reelReader(rule: ReelRule): (fileName: string) => string | undefined {
  switch (rule.kind) {
    case 'stem':
      return (fileName) => stem(fileName) || undefined
    case 'first-characters':
      return (fileName) => stem(fileName).slice(0, rule.count) || undefined
    case 'pattern': {
      const expression = compile(rule.pattern)
      return (fileName) => expression.exec(stem(fileName))?.[1] || undefined
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
