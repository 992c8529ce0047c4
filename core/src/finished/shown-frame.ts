import type { CutEvent } from '../cut/index.ts'
import { framesInto, type MediaFacts } from '../media/index.ts'
import { divide, floor, fraction, multiply, type Rate, rateAsFraction, sameRate } from '../time/index.ts'

/** Where the frames of a use lie in its clip. */
export interface UseOnClip {
  readonly event: CutEvent
  /** At which the cut counts. */
  readonly recordRate: Rate
  /** By how many frames of the source rate the clip's own timecode axis lies elsewhere than the list's. */
  readonly shift: number
  readonly facts: MediaFacts
}

/**
 * The frame of its clip, counted from the clip's first, that an event shows at a record frame. Record frames × speed ×
 * source rate ÷ record rate, exactly; a part of a frame shows the frame that it lies in.
 */
export function clipFrameAt({ event, recordRate, shift, facts }: UseOnClip, recordFrame: number): number {
  const { speed, source, sourceRate, record } = event
  if (facts.kind === 'still') return 0
  const on = multiply(
    multiply(fraction(recordFrame - record.startFrame), fraction(Math.abs(speed.numerator), speed.denominator)),
    divide(rateAsFraction(sourceRate), rateAsFraction(recordRate)),
  )
  const by = Number(floor(on))
  const frame = source.startFrame + shift + (speed.numerator < 0 ? -by : by)
  return Number(floor(framesInto(facts, sourceRate, fraction(frame))))
}

/** Whether a use shows each frame of its clip once, one after another. */
export const showsEachFrame = ({ event, recordRate, facts }: UseOnClip): boolean =>
  facts.kind !== 'still' &&
  event.speed.numerator === event.speed.denominator &&
  sameRate(event.sourceRate, recordRate) &&
  (facts.picture === null || sameRate(facts.picture.rate, event.sourceRate))
