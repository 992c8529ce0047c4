import { viewOf } from '../bytes/index.ts'
import { isOfWholeFrames } from './avc.ts'
import { type Box, boxesOf, latin1, onlyBox, wordsOfBoxes } from './boxes.ts'
import { readEdit } from './edit-list.ts'
import { isInThisFile, lieApart } from './extents.ts'
import { inOrderOfReading } from './order-of-reading.ts'
import { type HeaderNumbers, storedPictures } from './reading.ts'
import { descriptionWords, plainSoundBytes, readDescription, visualEntryBytes } from './sample-description.ts'
import { type Packet, readSampleTable, type SampleTable } from './sample-table.ts'
import { metadataWords, userDataWords } from './user-data.ts'

/** What the header of a MOV or MP4 says, and what has to be read of its media for the rest. */
export interface MovieHeader {
  /** Its shape, as far as the header says it. */
  readonly shape: string
  readonly numbers: Omit<HeaderNumbers, 'timecode' | 'notes' | 'materialPackage'>
  /** Where its first picture lies, and of which kind it is. */
  readonly firstPicture: { readonly at: number; readonly bytes: number; readonly kind: string } | null
  /** Where the label of its timecode track lies, in four bytes. */
  readonly timecode: { readonly at: number; readonly labelsPerSecond: number } | null
}

/**
 * Reads the header of a MOV or MP4 (ISO/IEC 14496-12; the QuickTime file format), where that is plain: one picture at
 * most, of a steady rate and a codec that tells what it is, plain or AAC sound, everything in the file itself, shown
 * whole from its first picture on.
 * @param file the content of its file type box, null where it has none; that of its movie box; how many bytes it has
 * @param packetsAtOnce the first of them, of all tracks together, by which first pictures are judged
 * @returns null where anything is otherwise
 */
export function readMovieHeader(
  { brand, movie, sizeBytes }: { brand: Uint8Array | null; movie: Uint8Array; sizeBytes: number },
  packetsAtOnce: number,
): MovieHeader | null {
  const boxes = boxesOf(movie)
  const header = boxes && onlyBox(boxes, 'mvhd')
  const clock = header && readClock(header, 100)
  if (!boxes || !header || !clock) return null
  const tracks: Track[] = []
  const words = wordsOfBoxes(
    boxes.filter(({ type }) => type !== 'mvhd'),
    (box) => {
      if (box.type !== 'trak') return wordsOfOther(box)
      const track = readTrack(box.content, clock.ticksPerSecond)
      if (track) tracks.push(track)
      return track?.words ?? null
    },
  )
  if (!words) return null
  const shape = [brand === null ? 'no brand' : latin1(brand), latin1(header.subarray(clock.end)), ...words].join('\n')
  if (!lieApart(tracks, sizeBytes)) return null
  return describe(shape, clock.created, tracks, packetsAtOnce)
}

interface Track {
  readonly words: string[]
  readonly handler: string
  /** Of its sample description, as four characters. */
  readonly kind: string
  readonly description: Uint8Array
  readonly table: SampleTable
  readonly ticksPerSecond: number
  /** That are shown, in ticks of its own clock. */
  readonly shownTicks: number
  readonly created: number
  /** In ticks of its own clock. */
  readonly beginsAt: number
}

function describe(shape: string, created: number, tracks: Track[], packetsAtOnce: number): MovieHeader | null {
  const pictures = tracks.filter(({ handler }) => handler === 'vide')
  const labels = tracks.filter(({ handler }) => handler === 'tmcd')
  const sounds = tracks.filter(({ handler }) => handler === 'soun')
  const [picture] = pictures
  if (pictures.length > 1 || labels.length > 1 || (!picture && sounds.length === 0)) return null
  // A time that the movie does not say may be said by a track.
  if (created === 0 && tracks.some((track) => track.created !== 0)) return null
  const createdAt = created === 0 ? null : dateOf(created)
  if (created !== 0 && !createdAt) return null
  if (picture && !isPlainPicture(picture)) return null
  const timecode = labels[0] ? readTimecodeTrack(labels[0]) : null
  if (labels[0] && !timecode) return null
  const first = picture?.table.packets().next().value as Packet | undefined
  return {
    shape,
    numbers: {
      frames: picture?.table.count ?? null,
      samples: sounds.map(({ shownTicks }) => shownTicks),
      createdAt,
      stored: picture ? storedOf(picture, tracks, packetsAtOnce) : null,
    },
    firstPicture: picture && first ? { at: first.at, bytes: first.bytes, kind: picture.kind } : null,
    timecode,
  }
}

/** Time is counted from the beginning of 1904; some writers count from that of 1970. */
const secondsTo1970 = 2_082_844_800
function dateOf(seconds: number): string | null {
  const date = new Date((seconds - secondsTo1970) * 1000)
  if (seconds < secondsTo1970 || Number.isNaN(date.getTime()) || date.getUTCFullYear() > 9999) return null
  return date.toISOString().replace('Z', '000Z')
}

function storedOf(picture: Track, tracks: readonly Track[], packetsAtOnce: number): HeaderNumbers['stored'] {
  const packets: Packet[] = []
  let left = packetsAtOnce
  for (const [track, packet] of inOrderOfReading(tracks)) {
    if (left-- === 0) break
    if (track === picture) packets.push(packet)
  }
  return storedPictures(
    packets.map(({ bytes }) => bytes),
    picture.table.count,
    packets.every(({ isSync }) => isSync),
  )
}

/** Less of a picture may be left out at the end: clocks round. */
const roundedPicture = 0.05

function isPlainPicture({ table, shownTicks, kind, description }: Track): boolean {
  if (table.each === null || table.count < 2) return false
  if (table.count - shownTicks / table.each > roundedPicture) return false
  if (kind !== 'avc1') return true
  const configuration = onlyBox(boxesOf(description.subarray(visualEntryBytes)) ?? [], 'avcC')
  return configuration !== null && ((configuration[4] ?? 0) & 3) === 3 && isOfWholeFrames(configuration) === true
}

/** The QuickTime file format, “Timecode Sample Description”. */
function readTimecodeTrack({ description, table, beginsAt }: Track): MovieHeader['timecode'] {
  const [first] = table.packets()
  if (!first || table.count !== 1 || first.bytes !== 4 || beginsAt !== 0 || description.length < 26) return null
  return { at: first.at, labelsPerSecond: description[24] as number }
}

/** Boxes that say nothing that becomes a fact. */
const idle = new Set(['free', 'skip', 'wide', 'sdtp', 'cslg', 'subs'])
/** Boxes whose words are read as they stand are short. */
const mostBytes = 4096

/** What else stands in a movie or a track; null where it cannot be told what it means. */
function wordsOfOther({ type, content }: Box): string[] | null {
  if (idle.has(type)) return []
  // Where sound begins that needs what is before it to be decoded.
  if (type === 'sbgp') return saysWhereToBegin(content) ? null : []
  if (type === 'udta') return userDataWords(content)
  // Of what makers keep in boxes of their own nothing becomes a fact; pictures in small are among it.
  if (type === 'uuid') return [latin1(content.subarray(0, 16))]
  if (type === 'meta') return metadataWords(content)
  // Fragments; a header that is compressed; movies elsewhere.
  if (/^(mvex|cmov|rmra|rmda)$/.test(type) || content.length > mostBytes) return null
  return [latin1(content)]
}

function readTrack(content: Uint8Array, movieTicksPerSecond: number): Track | null {
  const boxes = boxesOf(content)
  const media = boxes && boxesOf(onlyBox(boxes, 'mdia') ?? none)
  const information = media && boxesOf(onlyBox(media, 'minf') ?? none)
  const tables = information && boxesOf(onlyBox(information, 'stbl') ?? none)
  if (!boxes || !media || !information || !tables) return null
  const [trackHeader, mediaHeader, handler] = [onlyBox(boxes, 'tkhd'), onlyBox(media, 'mdhd'), onlyBox(media, 'hdlr')]
  const clock = mediaHeader && readClock(mediaHeader, 24)
  const sample = readDescription(onlyBox(tables, 'stsd'))
  if (!trackHeader || !clock || !handler || handler.length < 12 || !sample || !isInThisFile(information)) return null
  const handlerName = latin1(handler.subarray(8, 12))
  const plainBytes = plainSoundBytes(handlerName, sample)
  const description = descriptionWords(handlerName, sample)
  if (plainBytes === undefined || !description) return null
  const table = readSampleTable(tables, plainBytes)
  const edit = table?.ticks === clock.ticks ? readEdit(boxes, { movieTicksPerSecond, ...clock }) : null
  const words = wordsOfTrack(boxes, media, information, tables)
  const position = trackHeader[0] === 1 ? 36 : 24
  if (!table || !edit || !words || trackHeader.length < position + 60 || (trackHeader[0] ?? 2) > 1) return null
  const numberAt = trackHeader[0] === 1 ? 20 : 12
  const track = latin1(trackHeader.subarray(0, 4)) + latin1(trackHeader.subarray(numberAt, numberAt + 4))
  const each = handlerName === 'vide' ? table.each : 'any'
  return {
    words: [
      ...[track, latin1(trackHeader.subarray(position)), latin1(mediaHeader.subarray(clock.end))],
      ...[`${clock.ticksPerSecond} ticks, ${each} each`, `${table.firstShift} ${table.sync}`, edit.words],
      ...[...description, ...words],
    ],
    ...{ handler: handlerName, kind: sample.kind, description: sample.content, table },
    ...{ ticksPerSecond: clock.ticksPerSecond, created: clock.created },
    ...{ shownTicks: edit.shownTicks, beginsAt: edit.beginsAt },
  }
}

const none = new Uint8Array()

/** Read by themselves: of each file other numbers stand in them. */
const numbered = new Set(['tkhd', 'edts', 'mdia', 'mdhd', 'minf', 'stbl', 'stts', 'ctts', 'stss', 'stsz', 'stsc'])
for (const type of ['stco', 'co64', 'stsd']) numbered.add(type)

/** Whether some of a group of samples can be begun at, as sync samples do: ISO/IEC 14496-12, 10. */
const saysWhereToBegin = (content: Uint8Array): boolean => /^(rap |sync)$/.test(latin1(content.subarray(4, 8)))

/** What stands in a track beside its numbers. */
const wordsOfTrack = (...levels: readonly (readonly Box[])[]): string[] | null =>
  wordsOfBoxes(
    levels.flat().filter(({ type }) => !numbered.has(type)),
    // Chapters are read in their own way.
    (box) => (box.type === 'tref' && latin1(box.content).includes('chap') ? null : wordsOfOther(box)),
  )

/** @returns when it was made, in seconds; the clock; and where behind its length the rest of a header begins */
function readClock(
  content: Uint8Array,
  leastBytes: number,
): { created: number; ticksPerSecond: number; ticks: number; end: number } | null {
  const [version = 2] = content
  if (version > 1 || content.length < leastBytes + 12 * version) return null
  const view = viewOf(content)
  const [created, ticksPerSecond, ticks, end] =
    version === 1
      ? [Number(view.getBigUint64(4)), view.getUint32(20), Number(view.getBigUint64(24)), 32]
      : [view.getUint32(4), view.getUint32(12), view.getUint32(16), 20]
  return ticksPerSecond > 0 ? { created, ticksPerSecond, ticks, end } : null
}
