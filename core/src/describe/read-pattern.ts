import { PatternError, type PatternPart, readPattern } from './fill-pattern.ts'

/** Stands for a stretch of a name that nobody wants to keep. */
const skipped = 'skip'

/**
 * Makes the function that takes names apart by a pattern such as "{scene}_T{take}[_{skip}]", the other way round than
 * `patternFiller`: each field takes at least one character and as few as the rest of the pattern allows, what stands
 * around it must be there (capitals or not), and what stands in "[ ]" may be missing.
 * @returns for a name the texts by field, or null where the pattern does not fit all of it
 * @throws PatternError for an unknown field, a field that comes twice, two fields with nothing between them that could
 * tell where one ends, a counter, or a pattern that keeps nothing
 */
export function patternReader(
  pattern: string,
  fieldIds: ReadonlySet<string>,
): (name: string) => ReadonlyMap<string, string> | null {
  const pieces = readPattern(pattern, new Set([...fieldIds, skipped]))
  checkFields(pieces.flatMap(({ parts }) => parts))
  const steps = stepsOf(pieces)
  return (name) => {
    const letters = folded(name)
    const failed = new Set<number>()
    // What a field that begins here cannot be read by, one that begins later cannot either: it has fewer ends.
    const failedFrom = new Map<Step, number>()
    const read = (step: number, at: number): [string, string][] | null => {
      const part = steps[step]
      if (!part) return at === name.length ? [] : null
      const key = step * (name.length + 1) + at
      if (failed.has(key) || at >= (failedFrom.get(part) ?? Number.POSITIVE_INFINITY)) return null
      const found = readStep(part, step, at)
      if (!found && 'field' in part) failedFrom.set(part, at)
      else if (!found) failed.add(key)
      return found
    }
    const readStep = (part: Step, step: number, at: number): [string, string][] | null => {
      if ('skipTo' in part) return read(step + 1, at) ?? read(part.skipTo, at)
      if ('text' in part)
        return letters.startsWith(folded(part.text), at) ? read(step + 1, at + part.text.length) : null
      for (const end of endsOf(letters, at + 1, steps[step + 1])) {
        const rest = read(step + 1, end)
        if (rest) return part.field === skipped ? rest : [[part.field, name.slice(at, end).trim()], ...rest]
      }
      return null
    }
    const found = read(0, 0)
    return found && new Map(found.filter(([, text]) => text !== ''))
  }
}

/** Where a field can end: where what follows it begins, or at the end of the name when nothing follows. */
function* endsOf(letters: string, from: number, next: Step | undefined): Iterable<number> {
  if (!next) {
    if (from <= letters.length) yield letters.length
  } else if ('text' in next) {
    const text = folded(next.text)
    for (let end = letters.indexOf(text, from); end !== -1; end = letters.indexOf(text, end + 1)) yield end
  } else for (let end = from; end <= letters.length; end++) yield end
}

/** In small letters, each where it was: some have no small form of one letter. */
const folded = (text: string): string =>
  text.replace(/./gsu, (letter) => {
    const small = letter.toLowerCase()
    return small.length === letter.length ? small : letter
  })

/** A part, or a piece that may be passed over: its place is where the next piece begins. */
type Step = Exclude<PatternPart, { counterWidth: number }> | { readonly skipTo: number }

function stepsOf(pieces: ReturnType<typeof readPattern>): Step[] {
  const steps: Step[] = []
  for (const { parts, isOptional } of pieces) {
    if (isOptional) steps.push({ skipTo: steps.length + 1 + parts.length })
    steps.push(...(parts as Step[]))
  }
  return steps
}

function checkFields(parts: readonly PatternPart[]): void {
  const seen = new Set<string>()
  parts.forEach((part, index) => {
    if ('counterWidth' in part) throw new PatternError('A counter cannot be read out of a name: use {skip} for it.')
    if (!('field' in part)) return
    const next = parts[index + 1]
    if (next && 'field' in next)
      throw new PatternError(
        `{${part.field}} and {${next.field}} stand side by side: write what is between them in the names.`,
      )
    if (part.field === skipped) return
    if (seen.has(part.field)) throw new PatternError(`{${part.field}} comes twice. Use {skip} for one of them.`)
    seen.add(part.field)
  })
  if (seen.size === 0) throw new PatternError('Write a pattern with a field in it, for example {scene}_T{take}.')
}
