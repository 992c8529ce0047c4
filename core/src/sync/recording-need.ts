import { framesInto, type MediaFacts } from '../media/index.ts'
import {
  add,
  divide,
  type ExactRange,
  type Fraction,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
} from '../time/index.ts'
import type { SoundLink } from './sound-link.ts'

/**
 * The samples of a synced recording that run while a stretch of its picture does.
 * @returns samples from the first of the recording
 * @param need on the picture's own timecode axis, in frames of `rate`, at which its list counts
 */
export function samplesNeeded(
  { offsetSamples, sampleRate }: SoundLink,
  picture: MediaFacts,
  need: ExactRange,
  rate: Rate,
): ExactRange {
  const own = picture.picture?.rate ?? rate
  const at = (frame: Fraction): Fraction => {
    const seconds = divide(framesInto(picture, rate, frame), rateAsFraction(own))
    return add(offsetSamples, multiply(seconds, fraction(sampleRate)))
  }
  return { start: at(need.start), end: at(need.end) }
}
