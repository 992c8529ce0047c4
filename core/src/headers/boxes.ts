import { viewOf } from '../bytes/index.ts'

/** A box of a MOV or MP4 (ISO/IEC 14496-12, 4.2), or an atom, as QuickTime calls it. */
export interface Box {
  readonly type: string
  readonly content: Uint8Array
}

/** No header has as many; one of nothing but boxes would fill a memory. */
const mostBoxes = 2000

/**
 * The boxes that some bytes consist of. Four bytes of nought may end a list of user data, as in the QuickTime file
 * format.
 * @returns null where sizes contradict what there is, or there are very many
 */
export function boxesOf(bytes: Uint8Array): Box[] | null {
  const view = viewOf(bytes)
  const found: Box[] = []
  let at = 0
  while (at < bytes.length) {
    const left = bytes.length - at
    if (left === 4 && view.getUint32(at) === 0) return found
    if (left < 8 || found.length === mostBoxes) return null
    const size = view.getUint32(at)
    // Longer ones, and one that goes on to the end of the file, stand around media alone.
    if (size < 8 || size > left) return null
    found.push({ type: latin1(bytes.subarray(at + 4, at + 8)), content: bytes.subarray(at + 8, at + size) })
    at += size
  }
  return found
}

/** The content of the one box of a type; null where there is none, or more than one. */
export function onlyBox(boxes: readonly Box[], type: string): Uint8Array | null {
  const [first, ...others] = boxes.filter((box) => box.type === type)
  return first && others.length === 0 ? first.content : null
}

/**
 * What boxes say, each behind its type.
 * @param tell what one says; null where that cannot be told
 * @returns null where one of them is such
 */
export function wordsOfBoxes(boxes: readonly Box[], tell: (box: Box) => string[] | null): string[] | null {
  const words: string[] = []
  for (const box of boxes) {
    const said = tell(box)
    if (!said) return null
    words.push(box.type, ...said)
  }
  return words
}

/** Each byte as one character, so that bytes can be compared and kept as a text. */
export function latin1(bytes: Uint8Array): string {
  let text = ''
  for (const byte of bytes) text += String.fromCharCode(byte)
  return text
}
