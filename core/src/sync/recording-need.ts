import type { MediaFacts } from '../media/index.ts'
import {
  add,
  divide,
  type ExactRange,
  type Fraction,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  subtract,
} from '../time/index.ts'
import type { SoundLink } from './sound-link.ts'

/**
 * The samples of a synced recording that run while a stretch of its picture does.
 * @returns samples from the first of the recording
 * @param need on the picture's own timecode axis, in frames of `rate`
 */
export function samplesNeeded(
  { offsetSamples, sampleRate }: SoundLink,
  picture: MediaFacts,
  need: ExactRange,
  rate: Rate,
): ExactRange {
  const own = picture.picture?.rate ?? rate
  const first = divide(fraction(picture.startFrame ?? 0), rateAsFraction(own))
  const at = (frame: Fraction): Fraction =>
    add(offsetSamples, multiply(subtract(divide(frame, rateAsFraction(rate)), first), fraction(sampleRate)))
  return { start: at(need.start), end: at(need.end) }
}
