import { joinBytes, viewOf } from '../bytes/index.ts'

/** Each character as one byte. */
export const plainText = (text: string): Uint8Array => Uint8Array.from(text, (letter) => letter.charCodeAt(0))
export const u16 = (...values: number[]): Uint8Array =>
  joinBytes(values.map((value) => Uint8Array.from([(value >> 8) & 0xff, value & 0xff])))
export function u32(...values: number[]): Uint8Array {
  const bytes = new Uint8Array(4 * values.length)
  for (const [index, value] of values.entries()) viewOf(bytes).setUint32(4 * index, value)
  return bytes
}
const zeros = (count: number): Uint8Array => new Uint8Array(count)

/** A box of a MOV (ISO/IEC 14496-12, 4.2). */
export function box(type: string, ...parts: Uint8Array[]): Uint8Array {
  const content = joinBytes(parts)
  return joinBytes([u32(content.length + 8), plainText(type), content])
}

/** What a made-up movie has: a picture of so many frames of 25 a second, sound, and a timecode track. */
export interface TestMovie {
  readonly frames?: number
  readonly frameBytes?: number
  readonly codec?: string
  readonly width?: number
  /** In seconds since 1904. */
  readonly created?: number
  readonly reel?: string
  /** In ticks of 25,000 a second: what the picture's edit list shows from, and for how long; null for no list. */
  readonly edit?: { readonly from: number; readonly ticks?: number; readonly wait?: number } | null
  readonly shifts?: readonly number[]
  readonly syncs?: readonly number[] | null
  /** Of a frame each. */
  readonly durations?: readonly number[]
  /** Byte at which the first chunk of the picture lies; each has one frame, with its sound behind it. */
  readonly mediaAt?: number
  readonly selfContained?: boolean
  readonly matrix?: readonly number[]
  /** Boxes in the movie, and in the picture's table of samples. */
  readonly more?: readonly Uint8Array[]
  readonly moreOfTable?: readonly Uint8Array[]
  readonly references?: readonly Uint8Array[]
  readonly pictures?: number
  readonly soundKind?: string
}

export const ticksPerFrame = 1000
const ticksPerSecond = 25 * ticksPerFrame
const samplesPerFrame = 1920
const soundBytes = 2
const unity = [0x10000, 0, 0, 0, 0x10000, 0, 0, 0, 0x40000000]

/** The bytes that a made-up movie takes from its first medium on. */
export const mediaBytes = ({ frames = 50, frameBytes = 5000 }: TestMovie): number =>
  frames * (frameBytes + samplesPerFrame * soundBytes) + 4

/** The content of the movie box of a made-up MOV. */
export function movieBox(movie: TestMovie = {}): Uint8Array {
  const { frames = 50, frameBytes = 5000, codec = 'apcn', width = 320, created = 3_877_000_000, mediaAt = 100 } = movie
  const { edit = { from: 0 }, matrix = unity, soundKind = 'in24', pictures = 1 } = movie
  const stride = frameBytes + samplesPerFrame * soundBytes
  const table = (...boxes: Uint8Array[]): Uint8Array => box('stbl', ...boxes)
  const data = box('dinf', box('dref', u32(0, 1), box('url ', u32(movie.selfContained === false ? 0 : 1))))
  const track = (id: number, handler: string, { clock, ticks, edits, stbl, references = [] }: TrackParts): Uint8Array =>
    box(
      'trak',
      box('tkhd', u32(7, created, created, id, 0, ticks), zeros(16), u32(...matrix), u32(width << 16, 180 << 16)),
      ...edits,
      ...references,
      box(
        'mdia',
        box('mdhd', u32(0, created, created, clock, ticks), u16(0x55c4, 0)),
        box('hdlr', u32(0), plainText('mhlr'), plainText(handler), zeros(13)),
        box('minf', box('gmhd', zeros(4)), data, stbl),
      ),
    )
  const offsets = (first: number): Uint8Array =>
    box('stco', u32(0, frames, ...Array.from({ length: frames }, (_, index) => first + index * stride)))
  const durations = movie.durations ?? [ticksPerFrame]
  const ticks = durations.length === 1 ? frames * (durations[0] as number) : durations.reduce((sum, each) => sum + each)
  const picture = table(
    box('stsd', u32(0, 1), visualEntry(codec, width)),
    durations.length === 1
      ? box('stts', u32(0, 1, frames, durations[0] as number))
      : box('stts', u32(0, durations.length, ...durations.flatMap((each) => [1, each]))),
    ...(movie.shifts ? [box('ctts', u32(0, movie.shifts.length, ...movie.shifts.flatMap((each) => [1, each])))] : []),
    ...(movie.syncs ? [box('stss', u32(0, movie.syncs.length, ...movie.syncs))] : []),
    ...[box('stsz', u32(0, frameBytes, frames)), box('stsc', u32(0, 1, 1, 1, 1)), offsets(mediaAt)],
    ...(movie.moreOfTable ?? []),
  )
  const sound = table(
    box('stsd', u32(0, 1), soundEntry(soundKind)),
    ...[box('stts', u32(0, 1, frames * samplesPerFrame, 1)), box('stsz', u32(0, soundBytes, frames * samplesPerFrame))],
    ...[box('stsc', u32(0, 1, 1, samplesPerFrame, 1)), offsets(mediaAt + frameBytes)],
  )
  const timecode = table(
    box('stsd', u32(0, 1), timecodeEntry(movie.reel ?? 'A001')),
    ...[box('stts', u32(0, 1, 1, ticks)), box('stsz', u32(0, 4, 1)), box('stsc', u32(0, 1, 1, 1, 1))],
    box('stco', u32(0, 1, mediaAt + frames * stride)),
  )
  const edits = edit
    ? [
        box(
          'edts',
          edit.wait
            ? box('elst', u32(0, 2, edit.wait, -1, 0x10000, edit.ticks ?? ticks, edit.from, 0x10000))
            : box('elst', u32(0, 1, edit.ticks ?? ticks, edit.from, 0x10000)),
        ),
      ]
    : []
  const parts = { clock: ticksPerSecond, ticks, edits, stbl: picture, references: movie.references ?? [] }
  return joinBytes([
    box('mvhd', u32(0, created, created, ticksPerSecond, ticks, 0x10000), zeros(12), u32(...unity), zeros(28)),
    ...Array.from({ length: pictures }, (_, index) => track(1 + index, 'vide', parts)),
    track(8, 'soun', { clock: 48_000, ticks: frames * samplesPerFrame, edits: [], stbl: sound }),
    track(9, 'tmcd', { clock: ticksPerSecond, ticks, edits: [], stbl: timecode }),
    ...(movie.more ?? []),
  ])
}

interface TrackParts {
  readonly clock: number
  readonly ticks: number
  readonly edits: readonly Uint8Array[]
  readonly stbl: Uint8Array
  readonly references?: readonly Uint8Array[]
}

const visualEntry = (kind: string, width: number): Uint8Array =>
  box(kind, u32(0, 1), zeros(16), u16(width, 180), zeros(50))
const soundEntry = (kind: string): Uint8Array =>
  box(kind, u32(0, 1), u16(0, 0), u32(0), u16(1, 8 * soundBytes, 0, 0), u32(48_000 * 65_536))
const timecodeEntry = (reel: string): Uint8Array =>
  box('tmcd', u32(0, 1, 0, 0, ticksPerSecond, ticksPerFrame), Uint8Array.of(25, 0), plainText(reel))
