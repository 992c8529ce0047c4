import { viewOf } from '../bytes/index.ts'
import { latin1 } from './boxes.ts'
import type { HeaderReading } from './reading.ts'

/** A chunk of a wave file, with its content where it is one that is asked for. */
export interface HeaderChunk {
  readonly id: string
  readonly at: number
  readonly bytes: number
  readonly content: Uint8Array | null
}

/** The chunks of which the content is read; of sound itself the beginning. */
export const wordyChunks: ReadonlySet<string> = new Set(['fmt ', 'bext', 'LIST', 'data'])

/** Beside these there may be what recorders keep their own things in, and room. */
const idleChunks = new Set(['iXML', 'fact', 'JUNK', 'junk', 'PAD ', 'FLLR', 'minf', 'elm1', 'regn', 'umid', 'ds64'])

/**
 * Reads the header of a WAV or RF64 file (RIFF; EBU Tech 3306; its notes EBU Tech 3285), where that is plain: one
 * format, of samples that are not packed, all of them there.
 * @param file its form, its chunks in order, how many bytes it has
 * @returns null where anything is otherwise
 */
export function readWaveHeader(file: {
  readonly form: string
  readonly chunks: readonly HeaderChunk[]
  readonly sizeBytes: number
}): HeaderReading | null {
  const { form, chunks, sizeBytes } = file
  const only = (id: string): HeaderChunk | null => {
    const [chunk, ...others] = chunks.filter((each) => each.id === id)
    return chunk && others.length === 0 ? chunk : null
  }
  if (!chunks.every(({ id }) => wordyChunks.has(id) || idleChunks.has(id))) return null
  const [format, sound] = [only('fmt '), only('data')]
  const list = listWords(chunks)
  if (!format?.content || !sound?.content || !list) return null
  const frameBytes = plainFrameBytes(format.content)
  if (frameBytes === null || sound.bytes === 0 || sound.bytes % frameBytes !== 0) return null
  if (sound.at + sound.bytes > sizeBytes || mayBeDisguised(sound.content)) return null
  const hasNotes = chunks.some(({ id }) => id === 'bext')
  const notes = hasNotes ? readNotes(only('bext')?.content ?? null) : null
  if (hasNotes && !notes) return null
  return {
    shape: [form, ...chunks.map(({ id }) => id), latin1(format.content), ...list].join('\n'),
    numbers: {
      ...{ frames: null, samples: [sound.bytes / frameBytes], timecode: null, stored: null, materialPackage: null },
      createdAt: notes?.createdAt ?? null,
      notes: notes && {
        timeReferenceSamples: notes.timeReferenceSamples,
        ...{ originator: notes.originator, description: notes.description },
      },
    },
  }
}

const [plain, broken, extensible] = [1, 3, 0xfffe]

/** How many bytes one sample of all channels takes; null of sound that is packed. */
function plainFrameBytes(format: Uint8Array): number | null {
  const view = viewOf(format)
  if (format.length < 16) return null
  const told = view.getUint16(0, true)
  const kind = told === extensible && format.length >= 40 ? view.getUint16(24, true) : told
  const [channels, frameBytes, bits] = [view.getUint16(2, true), view.getUint16(12, true), view.getUint16(14, true)]
  const isPlain = kind === plain || kind === broken
  return isPlain && bits % 8 === 0 && frameBytes > 0 && frameBytes === (channels * bits) / 8 ? frameBytes : null
}

/** Compressed sound may lie in what says that it is plain: each kind begins with words of its own. */
const disguises = ['\x72\xf8\x1f\x4e', '\xf8\x72\x4e\x1f', '\x7f\xfe\x80\x01', '\xfe\x7f\x01\x80']
for (const word of ['\x1f\xff\xe8\x00', '\xff\x1f\x00\xe8']) disguises.push(word)

function mayBeDisguised(beginning: Uint8Array): boolean {
  const text = latin1(beginning)
  return disguises.some((word) => text.includes(word))
}

/** A list of which writer wrote it says nothing that becomes a fact; of any other it is not told here. */
function listWords(chunks: readonly HeaderChunk[]): string[] | null {
  const words: string[] = []
  for (const { content } of chunks.filter(({ id }) => id === 'LIST')) {
    if (!content || content.length < 12 || latin1(content.subarray(0, 8)) !== 'INFOISFT') return null
    const bytes = viewOf(content).getUint32(8, true)
    if (12 + bytes + (bytes % 2) < content.length) return null
    words.push(latin1(content))
  }
  return words
}

/** Where the notes that become facts lie, in bytes, and how long they are: EBU Tech 3285, 2.3. */
const fields = { description: [0, 256], originator: [256, 32], date: [320, 10], time: [330, 8] } as const
const timeReferenceAt = 338
const notesBytes = 602

function readNotes(
  content: Uint8Array | null,
): (NonNullable<HeaderReading['numbers']['notes']> & { createdAt: string | null }) | null {
  if (!content || content.length < notesBytes) return null
  const read = (field: keyof typeof fields): string | null | undefined => {
    const [at, bytes] = fields[field]
    const [text = ''] = latin1(content.subarray(at, at + bytes)).split('\0')
    // What is no plain letter is written in one of several ways.
    return /^[\x20-\x7e\r\n\t]*$/.test(text) ? text.trim() || null : undefined
  }
  const [description, originator, date, time] = [read('description'), read('originator'), read('date'), read('time')]
  if (description === undefined || originator === undefined || date === undefined || time === undefined) return null
  const timeReferenceSamples = Number(viewOf(content).getBigUint64(timeReferenceAt, true))
  return { timeReferenceSamples, originator, description, createdAt: time ?? date }
}
