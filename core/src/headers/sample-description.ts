import { viewOf } from '../bytes/index.ts'
import { type Box, boxesOf, latin1, wordsOfBoxes } from './boxes.ts'

/** How the samples of a track are to be read: of which kind, as four characters, and what else is said. */
export interface SampleDescription {
  readonly kind: string
  readonly content: Uint8Array
}

/** @returns null where there are several */
export function readDescription(content: Uint8Array | null): SampleDescription | null {
  if (!content || content.length < 8 || viewOf(content).getUint32(4) !== 1) return null
  const [entry] = boxesOf(content.subarray(8)) ?? []
  return entry ? { kind: entry.type, content: entry.content } : null
}

/** Sound that is as it is played: each sample of as many bytes. */
const plainKinds = /^(sowt|twos|in24|in32|fl32|fl64|lpcm)$/
/** Of slower ones half of what is to be heard may be described in the sound itself. */
const leastSampleRate = 32_000

/**
 * How many bytes a sample of all channels takes; null where it is packed, or where it is no sound; undefined for sound
 * that is not read here. ISO/IEC 14496-12, 12.2.3; the QuickTime file format, “Sound Sample Description”.
 */
export function plainSoundBytes(handler: string, { kind, content }: SampleDescription): number | null | undefined {
  if (handler !== 'soun') return null
  if (content.length < 28) return undefined
  const view = viewOf(content)
  const version = view.getUint16(8)
  if (kind === 'mp4a') return version < 2 && view.getUint32(24) / 65_536 >= leastSampleRate ? null : undefined
  if (!plainKinds.test(kind)) return undefined
  if (version === 0) return (view.getUint16(16) * view.getUint16(18)) / 8
  if (version === 1 && content.length >= 44) return view.getUint32(28) === 1 ? view.getUint32(36) : undefined
  return version === 2 && content.length >= 64 && view.getUint32(60) === 1 ? view.getUint32(56) : undefined
}

/** Of a visual sample entry, before the boxes in it: ISO/IEC 14496-12, 12.1.3. */
export const visualEntryBytes = 78
/** Of an audio sample entry, 12.2.3; QuickTime's first version has more. */
const audioEntryBytes = (content: Uint8Array): number => (viewOf(content).getUint16(8) === 1 ? 44 : 28)

/** What a sample description says but for how many bits a second there are, which is another number of each file. */
export function descriptionWords(handler: string, { kind, content }: SampleDescription): string[] | null {
  const isPacked = handler === 'soun' && kind === 'mp4a'
  if (!isPacked && handler !== 'vide') return [kind, latin1(content)]
  const from = isPacked ? audioEntryBytes(content) : visualEntryBytes
  const words = content.length < from ? null : entryWords(content.subarray(from))
  return words && [kind, latin1(content.subarray(0, from)), ...words]
}

function entryWords(bytes: Uint8Array): string[] | null {
  const boxes = boxesOf(bytes)
  return boxes && wordsOfBoxes(boxes, entryBoxWords)
}

function entryBoxWords({ type, content }: Box): string[] | null {
  if (type === 'btrt') return []
  // QuickTime wraps the description of packed sound.
  if (type === 'wave') return entryWords(content)
  return type === 'esds' ? elementaryWords(content) : [latin1(content)]
}

/** An elementary stream descriptor but for its buffer and its data rates: ISO/IEC 14496-1, 7.2.6.5 and 7.2.6.6. */
function elementaryWords(content: Uint8Array): string[] | null {
  let at = 4
  const begin = (tag: number): boolean => {
    if (content[at++] !== tag) return false
    for (let count = 0; count < 4; count++) if ((content[at++] ?? 0x80) < 0x80) return true
    return false
  }
  if (!begin(3) || content[at + 2] !== 0) return null
  at += 3
  return begin(4) ? [latin1(content.subarray(at, at + 2)), latin1(content.subarray(at + 13))] : null
}
