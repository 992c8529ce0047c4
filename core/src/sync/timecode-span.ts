import type { MediaFacts } from '../media/index.ts'
import {
  add,
  compare,
  divide,
  type Fraction,
  formatRate,
  fraction,
  multiply,
  nominalFramesPerSecond,
  type Rate,
  rateAsFraction,
  subtract,
  zero,
} from '../time/index.ts'

/** Where a medium stands on the clock that its timecode counts, and how long it runs. */
export interface TimecodeSpan {
  /** Seconds since midnight as the labels say them; exact. */
  readonly startSeconds: Fraction
  /** Real seconds that pass while the labels say one: 1001/1000 where frames are pulled down and none is dropped. */
  readonly pace: Fraction
  /** Real seconds; exact. */
  readonly seconds: Fraction
  readonly counting: Counting
}

/** How a timecode counts: its rate, and whether numbers are dropped (SMPTE ST 12-1, section 5.2). */
export interface Counting {
  readonly rate: Rate
  readonly dropFrame: boolean
}

/** Labels that drop numbers keep real time to a thousandth of a frame in a minute; all others run at their own pace. */
const paceOf = ({ rate, dropFrame }: Counting): Fraction =>
  dropFrame ? fraction(1) : divide(fraction(nominalFramesPerSecond(rate)), rateAsFraction(rate))

/** "23.976", "29.97 drop-frame". */
export const describeCounting = ({ rate, dropFrame }: Counting): string =>
  `${formatRate(rate)}${dropFrame ? ' drop-frame' : ''}`

/** A picture's place by its first label; null for one without timecode. */
export function pictureSpan({ picture, startFrame, dropFrame }: MediaFacts): TimecodeSpan | null {
  if (!picture || startFrame === null) return null
  const counting = { rate: picture.rate, dropFrame }
  const pace = paceOf(counting)
  const real = (frames: number): Fraction => divide(fraction(frames), rateAsFraction(picture.rate))
  return {
    startSeconds: divide(real(startFrame), pace),
    pace,
    seconds: real(picture.frames),
    counting,
  }
}

/**
 * A recording's place by its time reference (EBU Tech 3285), which counts samples since midnight of its own timecode.
 * Null for one without a reference or a known length.
 * @param fallback how its timecode counts where its notes do not say
 */
export function soundSpan(facts: MediaFacts, fallback: Counting): TimecodeSpan | null {
  const [first] = facts.sound
  const { timeReferenceSamples: reference, soundNotes: notes } = facts
  if (facts.picture || reference === null || !first?.samples || first.sampleRate <= 0) return null
  const counting = notes?.timecodeRate ? { rate: notes.timecodeRate, dropFrame: notes.dropFrame ?? false } : fallback
  const pace = paceOf(counting)
  return {
    startSeconds: divide(fraction(reference, first.sampleRate), pace),
    pace,
    seconds: fraction(first.samples, first.sampleRate),
    counting,
  }
}

export const samePace = (one: TimecodeSpan, other: TimecodeSpan): boolean => compare(one.pace, other.pace) === 0

/** As the labels count it. */
const aDay = fraction(86_400)

/**
 * Real seconds from the start of one to the start of another, exact; across midnight whichever way is shorter. Both run
 * at the same pace.
 */
export function secondsBetween(from: TimecodeSpan, to: TimecodeSpan): Fraction {
  const apart = subtract(to.startSeconds, from.startSeconds)
  const half = fraction(43_200)
  const nearer =
    compare(apart, half) > 0
      ? subtract(apart, aDay)
      : compare(apart, subtract(zero, half)) < 0
        ? add(apart, aDay)
        : apart
  return multiply(nearer, from.pace)
}
