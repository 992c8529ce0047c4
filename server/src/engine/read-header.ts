import { type FileHandle, open } from 'node:fs/promises'
import {
  bytesToPrimer,
  essenceWords,
  firstPictureBytes,
  firstPictureWords,
  type HeaderReading,
  headerEnd,
  MxfError,
  type MxfHeader,
  metadataWords,
  readMovieHeader,
  readMxfHeader,
  readWaveHeader,
  storedPictures,
  wordyChunks,
} from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'
import { everyBox } from './movie-boxes.ts'
import { arePartitionsWhole, firstMxfPackets } from './mxf-packets.ts'
import { readChunks } from './riff.ts'

/** The header of some hours of a recording with many tracks; more than this is left to the probe. */
const mostHeaderBytes = 16 * 1024 * 1024
/** Of a chunk of notes, or of the sound that is looked at. */
const mostChunkBytes = 65_536

/**
 * Reads what the header of a MOV, MP4, MXF or wave file says, in this process.
 * @param packetsAtOnce see `readMovieHeader`
 * @returns null for other files, and where there is more to it than is read here: the probe knows
 */
export async function readHeader(
  path: string,
  sizeBytes: number,
  packetsAtOnce: number,
): Promise<HeaderReading | null> {
  const file = await open(path, 'r')
  try {
    const head = (await readAt(file, 0, 12)).toString('latin1')
    if (/^(RIFF|RF64)....WAVE$/s.test(head)) return await readWaveFile(file, sizeBytes)
    if (head.startsWith(mxfBegins)) return await readMxf(file, sizeBytes, packetsAtOnce)
    return /^....(ftyp|moov|mdat|wide|free|skip)/s.test(head) ? await readMovie(file, sizeBytes, packetsAtOnce) : null
  } finally {
    await file.close()
  }
}

/** The key of a partition pack of MXF (SMPTE ST 377-1, 7.1), as far as all have it. */
const mxfBegins = '\x06\x0e\x2b\x34\x02\x05\x01'

async function readMxf(file: FileHandle, sizeBytes: number, packetsAtOnce: number): Promise<HeaderReading | null> {
  const header = (await arePartitionsWhole(file, sizeBytes)) ? await readMxfHeaderOf(file) : null
  const atOnce = { from: header?.end ?? 0, sizeBytes, atOnce: packetsAtOnce }
  const packets = header && (await firstMxfPackets(file, atOnce))
  if (!packets) return null
  const { frames } = header.numbers
  const { firstPicture, pictures } = packets
  // What holds all pictures as one does not say how large each is.
  if (frames !== null && (!firstPicture || (pictures.length === 1 && frames > 1))) return null
  const words = frames === null || !firstPicture ? '' : essenceWords(await pictureAt(file, firstPicture))
  if (words === null) return null
  return {
    shape: `${header.shape}\n${words}`,
    numbers: {
      ...{ ...header.numbers, createdAt: null, notes: null },
      stored: frames === null ? null : storedPictures(pictures, frames, null),
    },
  }
}

async function readMxfHeaderOf(file: FileHandle): Promise<MxfHeader | null> {
  try {
    return readMxfHeader(await readAt(file, 0, headerEnd(await readAt(file, 0, bytesToPrimer))))
  } catch (error) {
    if (error instanceof MxfError) return null
    throw error
  }
}

async function readWaveFile(file: FileHandle, sizeBytes: number): Promise<HeaderReading | null> {
  const { form, chunks } = await readChunks(file)
  const read = []
  for (const chunk of chunks) {
    const { id, at, bytes } = chunk
    const isSound = id === 'data'
    const isRead = wordyChunks.has(id) && (isSound || bytes <= mostChunkBytes)
    const content = isRead ? await readAt(file, at, Math.min(bytes, mostChunkBytes)) : null
    read.push({ ...chunk, content })
  }
  return readWaveHeader({ form, chunks: read, sizeBytes })
}

async function readMovie(file: FileHandle, sizeBytes: number, packetsAtOnce: number): Promise<HeaderReading | null> {
  const top = await topBoxes(file, sizeBytes)
  const header = top && readMovieHeader({ ...top, sizeBytes }, packetsAtOnce)
  if (!header) return null
  const { shape, numbers, firstPicture, timecode } = header
  const words = firstPicture && firstPictureWords(firstPicture.kind, await pictureAt(file, firstPicture))
  const label = timecode && (await readAt(file, timecode.at, 4))
  if (words === null && firstPicture) return null
  if (label && label.length < 4) return null
  return {
    shape: [shape, ...top.words, words].join('\n'),
    numbers: {
      ...numbers,
      timecode: timecode && label && { frame: label.readUInt32BE(0), labelsPerSecond: timecode.labelsPerSecond },
      ...{ notes: null, materialPackage: null },
    },
  }
}

const pictureAt = (file: FileHandle, { at, bytes }: { at: number; bytes: number }): Promise<Buffer> =>
  readAt(file, at, Math.min(bytes, firstPictureBytes))

/** Boxes that may stand beside the movie and its media, and say nothing of either. */
const idleBoxes = new Set(['mdat', 'free', 'skip', 'wide', 'uuid'])
/** Boxes that are read; one there is of each at most. */
const readBoxes = new Set(['ftyp', 'moov', 'meta'])

interface TopBoxes {
  readonly brand: Buffer | null
  readonly movie: Buffer
  /** What else is said at the top. */
  readonly words: readonly string[]
}

/** What stands at the top of a file, where that is one movie and its media (ISO/IEC 14496-12, 4.2). */
async function topBoxes(file: FileHandle, sizeBytes: number): Promise<TopBoxes | null> {
  const read = new Map<string, Buffer>()
  let reached = 0
  for await (const { type, from, to } of everyBox(file, { from: 0, to: sizeBytes })) {
    reached = to
    if (readBoxes.has(type)) {
      if (read.has(type) || to - from > mostHeaderBytes) return null
      read.set(type, await readAt(file, from, to - from))
    } else if (!idleBoxes.has(type)) return null
  }
  const [brand = null, movie, metadata] = [read.get('ftyp'), read.get('moov'), read.get('meta')]
  const words = metadata ? metadataWords(metadata) : []
  return reached === sizeBytes && movie && words ? { brand, movie, words } : null
}
