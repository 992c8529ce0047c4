import { nominalFramesPerSecond, type Rate } from '../time/index.ts'

/** Frames of an original that are encoded to learn how large all of it will be: from `first`, counted from 0. */
export interface SampleRange {
  readonly first: number
  readonly frames: number
}

const ranges = 3
const secondsEach = 2

/**
 * The parts of an original that stand for the whole: three of two seconds, in the middle of each third. A group of
 * pictures is as long as one of them, so that each has its share of frames that stand alone. A short original is taken
 * whole.
 */
export function sampleRanges(frames: number, rate: Rate): SampleRange[] {
  const each = nominalFramesPerSecond(rate) * secondsEach
  if (frames <= ranges * each) return [{ first: 0, frames }]
  return Array.from({ length: ranges }, (_, index) => ({
    first: Math.floor(((2 * index + 1) * frames) / (2 * ranges)) - Math.floor(each / 2),
    frames: each,
  }))
}
