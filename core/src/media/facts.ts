import type { SoundNotes } from '../notes/index.ts'
import {
  add,
  divide,
  type ExactRange,
  exactRange,
  type Fraction,
  type FrameRange,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  sameLabel,
  sameRate,
  samplesAsFrames,
  subtract,
} from '../time/index.ts'

export type MediaKind = 'picture' | 'sound' | 'still'

/** The first frames of a picture stream as they are stored, some twenty of them. */
export interface StoredFrames<IsIntra = boolean> {
  /** Whether each of them can be decoded alone. */
  readonly isIntra: IsIntra
  readonly leastBytes: number
  readonly mostBytes: number
}

/** How wide a pixel is for its height. */
export interface PixelAspect {
  readonly numerator: number
  readonly denominator: number
}

/** What one picture stream says of itself. */
export interface PictureFacts {
  readonly codec: string
  readonly profile: string | null
  /** Stored raster, in pixels. */
  readonly width: number
  readonly height: number
  /** Pixel aspect ratio as a quotient; 1/1 for square pixels. */
  readonly pixelAspect: PixelAspect
  /** What the file says of it, where a person says otherwise. */
  readonly toldPixelAspect?: PixelAspect
  /** Clockwise turn that a player applies, in degrees. */
  readonly rotation: number
  readonly pixelFormat: string | null
  readonly rate: Rate
  readonly variableRate: boolean
  /** That are shown: an edit list in the file may show fewer than it holds. */
  readonly frames: number
  /** That it holds, where it shows fewer. */
  readonly heldFrames?: number
  /** How long after the first thing in the file its picture begins, where it does not begin with it. */
  readonly beginsMicroseconds?: number
  readonly scan: string | null
  /** What its first frames are as they are stored; absent where it was described before that was read. */
  readonly stored?: StoredFrames | null
  readonly colour: {
    readonly primaries: string | null
    readonly transfer: string | null
    readonly matrix: string | null
    readonly range: string | null
  }
}

/** What one sound stream says of itself. */
export interface SoundFacts {
  readonly codec: string
  readonly channels: number
  readonly layout: string | null
  readonly sampleRate: number
  readonly bitDepth: number | null
  /** Exact length in samples from the picture's first frame, or of all where there is none; null where the container does not say. */
  readonly samples: number | null
}

/** Everything that a file says of itself. Null means that the file does not say. */
export interface MediaFacts {
  readonly kind: MediaKind
  readonly container: string
  readonly picture: PictureFacts | null
  /** How many more pictures run beside it in the file, where there are any. */
  readonly furtherPictures?: number
  readonly sound: readonly SoundFacts[]
  /** First frame, counted from midnight at the picture's rate. */
  readonly startFrame: number | null
  readonly dropFrame: boolean
  /** Of its timecode, where that counts fewer or more than there are pictures: two of 50 a second share one of 25. */
  readonly labelsPerSecond?: number
  readonly reel: string | null
  /** Samples since midnight at which a sound file starts (EBU Tech 3285 time reference). */
  readonly timeReferenceSamples: number | null
  readonly createdAt: string | null
  readonly originator: string | null
  readonly description: string | null
  /** What a sound recorder wrote into the file; files read before this was kept say nothing. */
  readonly soundNotes?: SoundNotes | null
  /** The recipe of Ennick's that it says it was made by; files read before this was kept say nothing. */
  readonly madeBy?: string | null
  /** Of MXF: the package that files of one clip share, and what it is called (SMPTE ST 377-1, 11). */
  readonly materialPackage?: { readonly id: string; readonly name: string | null } | null
}

/** Number of channels over all sound streams. */
export const channelCount = (facts: Pick<MediaFacts, 'sound'>): number =>
  facts.sound.reduce((sum, stream) => sum + stream.channels, 0)

/** What its recorder calls each of its channels; empty where it does not say. */
export const trackNamesOf = (facts: Pick<MediaFacts, 'sound' | 'soundNotes'>): string[] =>
  Array.from({ length: channelCount(facts) }, (_, track) => facts.soundNotes?.trackNames[track] ?? '')

/** The layout in words: "4 × mono", "stereo", "5.1", "none". */
export function describeChannels(sound: readonly SoundFacts[]): string {
  if (sound.length === 0) return 'none'
  const names = sound.map((stream) =>
    stream.channels === 1 ? 'mono' : stream.channels === 2 ? 'stereo' : `${stream.channels} ch`,
  )
  const groups: string[] = []
  for (let index = 0; index < names.length; ) {
    let end = index
    while (end < names.length && names[end] === names[index]) end++
    groups.push(end - index > 1 ? `${end - index} × ${names[index]}` : (names[index] as string))
    index = end
  }
  return groups.join(' + ')
}

/** The picture's place on its own timecode axis; a file without timecode starts at zero. */
export function pictureRange(facts: MediaFacts): FrameRange | null {
  if (!facts.picture) return null
  const startFrame = facts.startFrame ?? 0
  return { startFrame, endFrame: startFrame + facts.picture.frames }
}

/**
 * Where the medium lies in exact frames of a rate: pictures by their frame labels, sound by its samples.
 * Pictures of another rate are placed by real time since midnight, so that both ends are comparable.
 * Null when the length is not known, or when a still has none.
 */
export function mediumRange(facts: MediaFacts, rate: Rate): ExactRange | null {
  if (facts.kind === 'still') return null
  const range = pictureRange(facts)
  if (range && facts.picture) {
    const own = facts.picture.rate
    const scale = fraction(
      BigInt(rate.numerator) * BigInt(own.denominator),
      BigInt(rate.denominator) * BigInt(own.numerator),
    )
    const exact = exactRange(range)
    const convert = (value: { numerator: bigint; denominator: bigint }) =>
      fraction(value.numerator * scale.numerator, value.denominator * scale.denominator)
    return { start: convert(exact.start), end: convert(exact.end) }
  }
  const first = facts.sound[0]
  if (!first || first.samples === null) return null
  return samplesAsFrames(facts.timeReferenceSamples ?? 0, first.samples, first.sampleRate, rate)
}

/**
 * Where the medium lies for a list that counts at some rate: its start by its label, its length by real time. A clip at
 * 23.976 that starts at 10:00:00:00 starts so in a list at 24 or 25 too, where its real time is seconds away.
 * Null when the length is not known, or when a still has none.
 */
export function labelledRange(facts: MediaFacts, rate: Rate): ExactRange | null {
  const range = mediumRange(facts, rate)
  if (!range || !facts.picture || facts.startFrame === null || sameRate(facts.picture.rate, rate)) return range
  const start = sameLabel(facts.startFrame, facts.picture.rate, rate, facts.dropFrame)
  return { start, end: add(start, subtract(range.end, range.start)) }
}

/**
 * How far into a medium a frame of a list lies, in frames of the medium's own rate from its first; by its label, as
 * lists mean it, and by real time from there.
 * @param listRate at which the list counts, and `frame` with it
 */
export function framesInto(facts: MediaFacts, listRate: Rate, frame: Fraction): Fraction {
  return multiply(subtract(frame, firstInList(facts, listRate)), ratesOf(facts, listRate))
}

/** The other way about: where a list finds a frame that lies so far into a medium. */
export function frameInList(facts: MediaFacts, listRate: Rate, into: Fraction): Fraction {
  return add(firstInList(facts, listRate), divide(into, ratesOf(facts, listRate)))
}

const firstInList = (facts: MediaFacts, listRate: Rate): Fraction =>
  labelledRange(facts, listRate)?.start ?? fraction(facts.startFrame ?? 0)

/** Frames of the medium's own rate that run in one of the list's. */
const ratesOf = ({ picture }: MediaFacts, listRate: Rate): Fraction =>
  divide(rateAsFraction(picture?.rate ?? listRate), rateAsFraction(listRate))

/** The reel that a file names itself, which a recorder calls tape; null where it names none. */
export const reelInFile = ({ kind, reel, soundNotes }: MediaFacts): string | null =>
  reel ?? (kind === 'sound' ? (soundNotes?.tape ?? null) : null)

/** What the shape of a picture depends on. */
export type ShapeOfPicture = Pick<PictureFacts, 'width' | 'height' | 'pixelAspect' | 'rotation'>

/** Display aspect as a quotient: width × pixel aspect / height, turned with the rotation. */
export function displayAspect(picture: ShapeOfPicture): { numerator: number; denominator: number } {
  const wide = picture.width * picture.pixelAspect.numerator
  const high = picture.height * picture.pixelAspect.denominator
  return Math.abs(picture.rotation) % 180 === 90
    ? { numerator: high, denominator: wide }
    : { numerator: wide, denominator: high }
}
