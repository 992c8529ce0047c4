import { PlainError } from '../errors.ts'

/** What a person sends is a few levels deep; a search is the deepest. */
const deepest = 100
/** Marks of structure outside of texts: 100,000 clips chosen at once are 100,000 commas. */
const mostMarks = 1_000_000

/**
 * Looks over the bytes of a request before they are made into values: a text that is nested without end, or of nothing
 * but brackets, takes its reader seconds and all memory.
 * @throws PlainError
 */
export function assertReadable(bytes: Buffer): void {
  let depth = 0
  let marks = 0
  let isText = false
  for (let at = 0; at < bytes.length; at++) {
    const byte = bytes[at]
    if (isText) {
      // A backslash takes the next character with it.
      if (byte === 0x5c) at++
      else if (byte === 0x22) isText = false
      continue
    }
    if (byte === 0x22) isText = true
    else if (byte === 0x5b || byte === 0x7b) {
      marks++
      if (++depth > deepest) throw new PlainError('too-deep', `The request is nested more than ${deepest} deep.`)
    } else if (byte === 0x5d || byte === 0x7d) depth--
    else if (byte === 0x2c) marks++
    if (marks > mostMarks)
      throw new PlainError('too-large', `The request holds more than ${mostMarks} values.`, { status: 413 })
  }
}
