import { RE2JS, RE2JSException } from 're2js'

/** A pattern of a person's that cannot be used; the message says why. */
export class RegularExpressionError extends Error {
  override readonly name = 'RegularExpressionError'
}

/** Where a pattern fits: the text from `start` to `end`, and its groups, null for one that has no part in it. */
export interface ExpressionMatch {
  readonly start: number
  readonly end: number
  readonly groups: readonly (string | null)[]
}

/** A regular expression whose time grows with the text alone, whatever is written in it. */
export interface RegularExpression {
  /** How many groups it has. */
  readonly groups: number
  /** Every place in a text where it fits, from left to right. */
  matches(text: string): ExpressionMatch[]
}

/** More than anybody writes, and little enough to be worked out at once. */
const mostCharacters = 500

/**
 * Reads a regular expression in the syntax of RE2, which has no back references and does not look around: those are
 * what makes a text of forty letters take a minute.
 * @throws RegularExpressionError
 */
export function readRegularExpression(
  source: string,
  options: { readonly isCaseSensitive?: boolean } = {},
): RegularExpression {
  if (source.length > mostCharacters)
    throw new RegularExpressionError(`A pattern may be ${mostCharacters} characters long; this is ${source.length}.`)
  let expression: RE2JS
  try {
    expression = RE2JS.compile(source, (options.isCaseSensitive ?? true) ? 0 : RE2JS.CASE_INSENSITIVE)
  } catch (error) {
    if (!(error instanceof RE2JSException) && !(error instanceof RangeError)) throw error
    throw new RegularExpressionError(
      `“${source}” is not a regular expression that can be used: ${plainReason(error as Error)}`,
    )
  }
  return {
    groups: expression.groupCount(),
    matches(text) {
      const matcher = expression.matcher(text)
      const found: ExpressionMatch[] = []
      while (matcher.find())
        found.push({
          start: matcher.start(),
          end: matcher.end(),
          groups: Array.from({ length: matcher.groupCount() }, (_, index) => matcher.group(index + 1) ?? null),
        })
      return found
    },
  }
}

function plainReason({ message }: Error): string {
  if (/invalid or unsupported Perl syntax|\(\?<[=!]|invalid escape sequence.*\\[1-9]/.test(message))
    return `${message}. It may not look ahead or behind, nor refer back to a group.`
  return `${message}.`
}
