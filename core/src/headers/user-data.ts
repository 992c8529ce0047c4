import { viewOf } from '../bytes/index.ts'
import { type Box, boxesOf, latin1, onlyBox, wordsOfBoxes } from './boxes.ts'

/** Of what a file says about itself in words, what becomes facts, under the names that boxes and keys have. */
const telling = new Set([
  ...['timecode', 'time_reference', 'material_package_umid', 'material_package_name', 'reel_name', 'creation_time'],
  ...['date', 'encoded_by', 'comment', 'comment_recipe', 'description'],
  ...['\xa9cmt', '\xa9inf', '\xa9day', '\xa9des', 'desc', '----'],
])

/**
 * What user data says, so that two files with the same words have the same facts: what may become a fact byte for byte,
 * of all else that it is there. Null where it cannot be read.
 */
export function userDataWords(content: Uint8Array): string[] | null {
  const boxes = boxesOf(content)
  return boxes?.every(({ type }) => type !== 'ID32') ? wordsOfBoxes(boxes, boxWords) : null
}

function boxWords({ type, content }: Box): string[] | null {
  if (type === 'meta') return metadataWords(content)
  return telling.has(type) ? [latin1(content)] : []
}

/** The same of metadata: ISO/IEC 14496-12, 8.11; the QuickTime file format, “Metadata”. */
export function metadataWords(content: Uint8Array): string[] | null {
  // As a full box it begins with four bytes that are nought.
  const boxes = boxesOf(content.length >= 4 && viewOf(content).getUint32(0) === 0 ? content.subarray(4) : content)
  if (!boxes) return null
  const list = onlyBox(boxes, 'ilst')
  const keys = boxes.some(({ type }) => type === 'keys') ? namesOfKeys(onlyBox(boxes, 'keys')) : []
  const items = list ? boxesOf(list) : []
  if (!keys || !items) return null
  const isTelling = [...keys, ...items.map(({ type }) => type)].some((name) => telling.has(name.toLowerCase()))
  return [...boxes.map(({ type }) => type), ...keys, ...(isTelling && list ? [latin1(list)] : [])]
}

/** No writer has as many. */
const mostKeys = 2000

function namesOfKeys(content: Uint8Array | null): string[] | null {
  if (!content || content.length < 8) return null
  const view = viewOf(content)
  const names: string[] = []
  let at = 8
  for (let left = view.getUint32(4); left > 0; left--) {
    const size = at + 8 <= content.length ? view.getUint32(at) : 0
    if (names.length === mostKeys || size < 8 || at + size > content.length) return null
    // Names of another space are read in another way.
    if (latin1(content.subarray(at + 4, at + 8)) !== 'mdta') return null
    names.push(latin1(content.subarray(at + 8, at + size)))
    at += size
  }
  return names
}
