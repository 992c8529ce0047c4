import type { FrameRange, Rate } from '../time/index.ts'

/** A speed as a quotient of source frames played for each record frame; negative runs backwards. */
export interface Speed {
  readonly numerator: number
  readonly denominator: number
}

export const normalSpeed: Speed = { numerator: 1, denominator: 1 }

/** How an event begins: out of the event before it on its track, over a number of record frames. */
export interface Transition {
  readonly kind: 'dissolve' | 'wipe'
  /** SMPTE wipe number for a wipe. */
  readonly wipeCode: string | null
  readonly durationFrames: number
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
  readonly speed: Speed
  /** Remarks of the list that belong to the event and go out with it again. */
  readonly notes: readonly string[]
  /** Where in the file the event stands: "line 12" or "tracks.children[0].children[3]". */
  readonly location: string
}

/** A cut as read from a list. Tracks are in the list's order; events in record order within each track. */
export interface Cut {
  readonly name: string
  readonly rate: Rate
  readonly dropFrame: boolean
  readonly tracks: readonly { readonly name: string; readonly kind: 'picture' | 'sound' }[]
  readonly events: readonly CutEvent[]
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

/**
 * The source frames that each event needs: what it shows, and what it lends to the transition that follows it,
 * at the speed it runs. Record frames × speed × source rate ÷ record rate, exactly; a part of a frame needs all of it.
 * @param recordRate at which the cut counts
 * @returns one range an event, in the order of `events`, in frames of its source rate
 */
export function neededRanges(events: readonly CutEvent[], recordRate: Rate): FrameRange[] {
  const lends = new Map<CutEvent, number>()
  const previous = new Map<string, CutEvent>()
  for (const event of events) {
    const before = previous.get(event.track)
    if (event.transition && before && before.record.endFrame === event.record.startFrame)
      lends.set(before, event.transition.durationFrames)
    previous.set(event.track, event)
  }
  return events.map((event) => {
    const { speed, source, sourceRate } = event
    const lent = lends.get(event) ?? 0
    if (speed.numerator === speed.denominator)
      return {
        startFrame: source.startFrame,
        endFrame: source.endFrame + mediaFrames(lent, speed, sourceRate, recordRate),
      }
    const recordFrames = event.record.endFrame - event.record.startFrame + lent
    const shown = Math.max(1, mediaFrames(recordFrames, speed, sourceRate, recordRate))
    return speed.numerator < 0
      ? { startFrame: source.startFrame - shown + 1, endFrame: source.startFrame + 1 }
      : { startFrame: source.startFrame, endFrame: source.startFrame + shown }
  })
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
