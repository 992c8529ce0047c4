import {
  add,
  ceiling,
  divide,
  type ExactRange,
  type Fraction,
  type FrameRange,
  floor,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  subtract,
} from '../time/index.ts'

/** A speed as a quotient of source frames played for each record frame; negative runs backwards. */
export interface Speed {
  readonly numerator: number
  readonly denominator: number
}

export const normalSpeed: Speed = { numerator: 1, denominator: 1 }

/**
 * How an event begins, over a number of record frames: out of the event before it on its track, or out of black where
 * none ends there. Or how an event goes to black.
 */
export interface Transition {
  readonly kind: 'dissolve' | 'wipe'
  /** SMPTE wipe number for a wipe. */
  readonly wipeCode: string | null
  readonly durationFrames: number
  /** It comes out of black, although the event before it ends where it begins. */
  readonly fromBlack?: true
  /** The number of the event that a list has for it, where it goes to black. */
  readonly number?: string
}

/** A quotient that can be kept as JSON. */
export interface PlainFraction {
  readonly numerator: number
  readonly denominator: number
}

/** Where a use of sound begins and ends between frames: in frames of the source and of the record, exactly. */
export interface SoundTimes {
  readonly sourceStart: PlainFraction
  readonly sourceEnd: PlainFraction
  readonly recordStart: PlainFraction
  readonly recordEnd: PlainFraction
}

/** How a list fits a picture into its raster. */
export interface Fit {
  /** In percent, of the medium's own size. */
  readonly scalePercent: number
  /** Of the raster, from its middle; null where the list moves nothing. */
  readonly offset: { readonly horizontal: number; readonly vertical: number } | null
}

/** How loud a use of sound is: its amplitude against that of its source, where 1 is as it was recorded. */
export interface Level {
  /** All the way, or at the first of the points. */
  readonly gain: number
  /** Where it changes on the way: at which frames of the source, in order, it is how loud. */
  readonly points?: readonly { readonly sourceFrame: PlainFraction; readonly gain: number }[]
}

/** A remark at a frame of the record. */
export interface Marker {
  readonly recordFrame: number
  readonly durationFrames: number
  readonly name: string
  readonly note: string
  /** As OTIO names it, when it is not the usual one. */
  readonly colour?: string
}

/** What a list says of a medium besides its path. */
export interface Medium {
  readonly frames: FrameRange
  readonly width: number | null
  readonly height: number | null
  readonly soundChannels: number
  /** The number of the first still of numbered ones. */
  readonly firstStill?: number
}

/** What a list makes of itself, at a place of the record. */
export interface Generator {
  readonly track: string
  readonly name: string
  readonly record: FrameRange
}

/** What only one format can say: kept as it came, and given back to that format. */
export interface Carried {
  readonly format: 'otio' | 'xmeml'
  readonly parts: Readonly<Record<string, unknown>>
}

/** One use of a source in a cut. */
export interface CutEvent {
  /** The event's number as its list has it. */
  readonly number: string
  /** "V1", "A1", … in the list's own order. */
  readonly track: string
  readonly kind: 'picture' | 'sound'
  readonly clipName: string | null
  readonly reel: string | null
  /** The source's path as the list writes it, from whatever system. */
  readonly path: string | null
  /** The frames of the source that the event shows, at `sourceRate`, counted from midnight. */
  readonly source: FrameRange
  readonly sourceRate: Rate
  /** Whether the source's labels are drop-frame, where that is not as in the list's record. */
  readonly sourceDropFrame?: boolean
  /** Where the list believes that the source's medium starts, when it says so. */
  readonly mediumStartFrame: number | null
  readonly record: FrameRange
  readonly transition: Transition | null
  /** Goes to black behind its record end, and lends so much of its source to that. */
  readonly fadeOut?: Transition
  readonly speed: Speed
  /** Switched off: it is in the list and not seen or heard. */
  readonly isDisabled?: true
  /** Its part in a key: the picture that shows through, or the one that is laid over it within so many frames. */
  readonly key?: { readonly part: 'background' | 'foreground' | 'foreground out'; readonly durationFrames: number }
  /** For sound that begins or ends between frames; `source` and `record` are the frames around and next to it. */
  readonly soundTimes?: SoundTimes
  /** Where the medium lies, and what it is, as far as it is known: some formats count from its start. */
  readonly medium?: Medium
  /** The channel of the source that is heard, from 1, where the list says it. */
  readonly sourceChannel?: number
  readonly fit?: Fit
  /** Where the list has sound louder or softer than it was recorded. */
  readonly level?: Level
  readonly carried?: Carried
  /** Events of one such word are moved as one, whatever they show: a picture, and the sound that was synced with it. */
  readonly linkedBy?: string
  /** Remarks of the list that belong to the event and go out with it again. */
  readonly notes: readonly string[]
  /** Where in the file the event stands: "line 12" or "tracks.children[0].children[3]". */
  readonly location: string
}

/** What of a list was not taken: where it stands, and why. */
export interface LeftOut {
  readonly location: string
  readonly reason: string
}

/** A cut as read from a list. Tracks are in the list's order; events in record order within each track. */
export interface Cut {
  readonly name: string
  readonly rate: Rate
  readonly dropFrame: boolean
  readonly tracks: readonly { readonly name: string; readonly kind: 'picture' | 'sound' }[]
  readonly events: readonly CutEvent[]
  /** Where the record begins, when that is before its first event. */
  readonly recordStartFrame?: number
  /** The raster in which the list was cut, when it says so. */
  readonly raster?: { readonly width: number; readonly height: number }
  readonly markers?: readonly Marker[]
  /** Black, colours, titles and the like that the list makes of itself: they need no source. */
  readonly generators?: readonly Generator[]
  /** How many sequences lay within it; they were laid out flat. */
  readonly nestedSequences?: number
  readonly carried?: Carried
  /** Only where somebody wanted what is good of a list that has faults. */
  readonly leftOut?: readonly LeftOut[]
}

/** A list that cannot be read. `location` is a line or a path inside the file. */
export class CutFormatError extends Error {
  override readonly name = 'CutFormatError'
  readonly location: string
  constructor(location: string, reason: string) {
    super(`${location}: ${reason}`)
    this.location = location
  }
}

/** A sum of several faults of one list, each with where it stands. */
export class CutFaults extends CutFormatError {
  readonly faults: readonly CutFormatError[]
  constructor(faults: readonly CutFormatError[]) {
    const [first] = faults as [CutFormatError]
    super(first.location, '')
    this.message = faults.map(({ message }) => message).join('\n')
    this.faults = faults
  }
}

/** A fault as what was left out because of it. */
export const leftOutOf = ({ location, message }: CutFormatError): LeftOut => ({
  location,
  reason: message.slice(location.length + 2),
})

export const exact = ({ numerator, denominator }: PlainFraction): Fraction => fraction(numerator, denominator)

export const plain = ({ numerator, denominator }: Fraction): PlainFraction => ({
  numerator: Number(numerator),
  denominator: Number(denominator),
})

/**
 * What each event needs of its source: what it shows, and what it lends to the transition that follows it, at the speed
 * it runs. Record frames × speed × source rate ÷ record rate, exactly. A part of a frame of picture needs all of it;
 * sound is cut between frames.
 * @param recordRate at which the cut counts
 * @returns one range an event, in the order of `events`, in frames of its source rate
 */
export function exactNeeds(events: readonly CutEvent[], recordRate: Rate): ExactRange[] {
  const lends = lentFrames(events)
  return events.map((event) => {
    const { speed, source, sourceRate } = event
    const lent = lends.get(event) ?? 0
    const shownBy = (recordFrames: Fraction): Fraction => {
      const frames = multiply(
        multiply(recordFrames, fraction(Math.abs(speed.numerator), speed.denominator)),
        divide(rateAsFraction(sourceRate), rateAsFraction(recordRate)),
      )
      return event.kind === 'sound' ? frames : fraction(ceiling(frames))
    }
    const times = event.soundTimes
    const from = times ? exact(times.sourceStart) : fraction(source.startFrame)
    if (speed.numerator === speed.denominator) {
      const to = times ? exact(times.sourceEnd) : fraction(source.endFrame)
      return { start: from, end: add(to, shownBy(fraction(lent))) }
    }
    const recordFrames = times
      ? subtract(exact(times.recordEnd), exact(times.recordStart))
      : fraction(event.record.endFrame - event.record.startFrame)
    const wanted = shownBy(add(recordFrames, fraction(lent)))
    // A held frame is one, and nothing is shown in less than one.
    const shown = wanted.numerator < wanted.denominator ? fraction(1) : wanted
    if (speed.numerator >= 0) return { start: from, end: add(from, shown) }
    const behind = add(from, fraction(1))
    return { start: subtract(behind, shown), end: behind }
  })
}

/** The same in whole frames, outwards. */
export const neededRanges = (events: readonly CutEvent[], recordRate: Rate): FrameRange[] =>
  exactNeeds(events, recordRate).map(wholeFrames)

/** The frames around an exact range. */
export const wholeFrames = ({ start, end }: ExactRange): FrameRange => ({
  startFrame: Number(floor(start)),
  endFrame: Number(ceiling(end)),
})

/** The record frames that events show behind their end, in a transition to the next or to black. */
function lentFrames(events: readonly CutEvent[]): Map<CutEvent, number> {
  const lends = new Map<CutEvent, number>()
  const previous = new Map<string, CutEvent>()
  for (const event of events) {
    if (event.fadeOut) lends.set(event, event.fadeOut.durationFrames)
    const before = previous.get(event.track)
    if (event.transition && before && leavesInto(before, event)) lends.set(before, event.transition.durationFrames)
    previous.set(event.track, event)
  }
  return lends
}

/** Whether the transition into an event is out of the event before it on its track, and not out of black. */
export const leavesInto = (before: CutEvent, event: CutEvent): boolean =>
  event.transition !== null &&
  !event.transition.fromBlack &&
  before.record.endFrame === event.record.startFrame &&
  !before.fadeOut

/** An event that shows its source from so many frames later on. */
export function shiftSource(event: CutEvent, frames: number): CutEvent {
  if (frames === 0) return event
  const later = (time: PlainFraction): PlainFraction => plain(add(exact(time), fraction(frames)))
  const { source, soundTimes, level } = event
  return {
    ...event,
    ...(level?.points && {
      level: {
        ...level,
        points: level.points.map((point) => ({ ...point, sourceFrame: later(point.sourceFrame) })),
      },
    }),
    source: { startFrame: source.startFrame + frames, endFrame: source.endFrame + frames },
    ...(soundTimes && {
      soundTimes: {
        ...soundTimes,
        sourceStart: later(soundTimes.sourceStart),
        sourceEnd: later(soundTimes.sourceEnd),
      },
    }),
  }
}

/** How many frames of a medium some record frames show, at a speed in either direction; a part of one counts as one. */
export function mediaFrames(recordFrames: number, speed: Speed, sourceRate: Rate, recordRate: Rate): number {
  const numerator =
    BigInt(recordFrames) *
    BigInt(Math.abs(speed.numerator)) *
    BigInt(sourceRate.numerator) *
    BigInt(recordRate.denominator)
  const denominator = BigInt(speed.denominator) * BigInt(sourceRate.denominator) * BigInt(recordRate.numerator)
  return Number((numerator + denominator - 1n) / denominator)
}
