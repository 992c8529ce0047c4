import { compare, type Fraction, fraction, maximum, subtract, toDecimal, zero } from './fraction.ts'
import { type Rate, rateAsFraction } from './rate.ts'

/** Frames from `startFrame` up to, not including, `endFrame`. Both count from midnight of the timecode. */
export interface FrameRange {
  readonly startFrame: number
  readonly endFrame: number
}

export const rangeLength = (range: FrameRange): number => range.endFrame - range.startFrame

/** How many frames two ranges share. */
export const framesInCommon = (a: FrameRange, b: FrameRange): number =>
  Math.max(0, Math.min(a.endFrame, b.endFrame) - Math.max(a.startFrame, b.startFrame))

/** The union of ranges, touching and overlapping ones merged, in order. */
export function mergeRanges(ranges: readonly FrameRange[]): FrameRange[] {
  const merged: FrameRange[] = []
  for (const range of [...ranges].sort((a, b) => a.startFrame - b.startFrame)) {
    const last = merged.at(-1)
    if (last && range.startFrame <= last.endFrame) {
      merged[merged.length - 1] = { startFrame: last.startFrame, endFrame: Math.max(last.endFrame, range.endFrame) }
    } else merged.push(range)
  }
  return merged
}

/** A stretch of time in exact frames of some rate; sound may start and end between frames. */
export interface ExactRange {
  readonly start: Fraction
  readonly end: Fraction
}

export const exactRange = (range: FrameRange): ExactRange => ({
  start: fraction(range.startFrame),
  end: fraction(range.endFrame),
})

/**
 * Where a recording of samples lies, in exact frames: 1601.6 samples make a frame at 30000/1001 and 48 kHz.
 * @param startSample samples since midnight (the time reference of EBU Tech 3285)
 */
export function samplesAsFrames(startSample: number, samples: number, sampleRate: number, rate: Rate): ExactRange {
  const perSecond = rateAsFraction(rate)
  const at = (sample: number): Fraction =>
    fraction(BigInt(sample) * perSecond.numerator, BigInt(sampleRate) * perSecond.denominator)
  return { start: at(startSample), end: at(startSample + samples) }
}

/** How much a medium lacks of what a use needs, in frames of the use, at either end. Zero means enough. */
export interface Shortfall {
  readonly headFrames: Fraction
  readonly tailFrames: Fraction
}

/**
 * Whether a medium covers a use: `use.start >= medium.start` and `use.end <= medium.end`, each end on its own.
 * A use wholly outside the medium lacks, at that end, the distance from its far side.
 */
export function shortfall(use: ExactRange, medium: ExactRange): Shortfall {
  return {
    headFrames: maximum(zero, subtract(medium.start, use.start)),
    tailFrames: maximum(zero, subtract(use.end, medium.end)),
  }
}

/** Whether a use lies wholly outside a medium: what it needs is not short, it is somewhere else. */
export const isElsewhere = (use: ExactRange, medium: ExactRange): boolean =>
  compare(use.end, medium.start) <= 0 || compare(use.start, medium.end) >= 0

export const isCovered = (lack: Shortfall): boolean =>
  compare(lack.headFrames, zero) === 0 && compare(lack.tailFrames, zero) === 0

/** "0.4 frame at the tail", "2 frames at the head and 12 frames at the tail". */
export const describeShortfall = ({ headFrames, tailFrames }: Shortfall): string =>
  [
    ...(headFrames.numerator > 0n ? [`${formatFrames(headFrames)} at the head`] : []),
    ...(tailFrames.numerator > 0n ? [`${formatFrames(tailFrames)} at the tail`] : []),
  ].join(' and ')

/** "0.4 frame", "1 frame", "12 frames": an exact amount in words. */
export function formatFrames(amount: Fraction): string {
  const text = toDecimal(amount, 2)
  const shown = text === '0' && amount.numerator !== 0n ? 'less than 0.01' : text
  return `${shown} ${compare(amount, fraction(1)) <= 0 ? 'frame' : 'frames'}`
}
