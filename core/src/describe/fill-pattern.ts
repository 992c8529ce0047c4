/** A name pattern that cannot be filled; the message says why. */
export class PatternError extends Error {
  override readonly name = 'PatternError'
}

/** A stretch of a pattern: text as it stands, a field, or a number that counts on. */
export type PatternPart =
  | { readonly text: string }
  | { readonly field: string }
  | { readonly counterWidth: number; readonly from: number }

/**
 * Makes the function that fills a pattern such as "{scene}-{take}_{counter:3}" for one clip after another.
 * A field in "[ ]" with text around it is left out whole when the field is empty: "{scene}[-{take}]".
 * @param fieldIds what may stand in "{ }", besides "counter", "counter:3" (digits) and "counter:3:10" (digits, first
 * number)
 * @throws PatternError for an unknown field or a bracket without its partner
 */
export function patternFiller(
  pattern: string,
  fieldIds: ReadonlySet<string>,
): (values: (fieldId: string) => string, index: number) => string {
  const pieces = readPattern(pattern, fieldIds)
  return (values, index) =>
    pieces
      .map(({ isOptional, parts }) => {
        const filled = parts.map((part) =>
          'text' in part
            ? part.text
            : 'field' in part
              ? values(part.field)
              : String(part.from + index).padStart(part.counterWidth, '0'),
        )
        const isEmpty = isOptional && parts.some((part, at) => 'field' in part && filled[at] === '')
        return isEmpty ? '' : filled.join('')
      })
      .join('')
      .trim()
}

/**
 * The pieces of a pattern, those in "[ ]" marked.
 * @throws PatternError for an empty pattern, an unknown field or a bracket without its partner
 */
export function readPattern(
  pattern: string,
  fieldIds: ReadonlySet<string>,
): { readonly isOptional: boolean; readonly parts: readonly PatternPart[] }[] {
  if (pattern.trim() === '') throw new PatternError('Write a pattern, for example {scene}-{take}.')
  return splitOptional(pattern).map(({ text, isOptional }) => ({ isOptional, parts: readParts(text, fieldIds) }))
}

function splitOptional(pattern: string): { text: string; isOptional: boolean }[] {
  const pieces: { text: string; isOptional: boolean }[] = []
  let rest = pattern
  while (rest !== '') {
    const open = rest.indexOf('[')
    const close = rest.indexOf(']')
    if (open === -1) {
      if (close !== -1) throw new PatternError(`“${pattern}” closes a [ ] that it never opens.`)
      pieces.push({ text: rest, isOptional: false })
      break
    }
    if (close < open)
      throw new PatternError(
        `“${pattern}” ${close === -1 ? 'opens a [ ] that it never closes' : 'closes a [ ] that it never opens'}.`,
      )
    if (open > 0) pieces.push({ text: rest.slice(0, open), isOptional: false })
    pieces.push({ text: rest.slice(open + 1, close), isOptional: true })
    rest = rest.slice(close + 1)
  }
  return pieces
}

function readParts(text: string, fieldIds: ReadonlySet<string>): PatternPart[] {
  return text.split(/(\{[^{}]*\})/).flatMap((piece): PatternPart[] => {
    if (piece === '') return []
    if (!/^\{[^{}]*\}$/.test(piece)) {
      if (/[{}]/.test(piece)) throw new PatternError(`“${text}” has a { or } without its partner.`)
      return [{ text: piece }]
    }
    const inside = piece.slice(1, -1).trim()
    const counter = /^counter(?::(\d{1,2})(?::(\d{1,9}))?)?$/.exec(inside)
    if (counter) return [{ counterWidth: Number(counter[1] ?? 1), from: Number(counter[2] ?? 1) }]
    if (!fieldIds.has(inside))
      throw new PatternError(
        `There is no field “${inside}”. Known are ${[...fieldIds].slice(0, 8).join(', ')}, counter and more.`,
      )
    return [{ field: inside }]
  })
}
