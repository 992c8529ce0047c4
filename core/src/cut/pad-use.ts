import type { MediaFacts } from '../media/index.ts'
import {
  ceiling,
  compare,
  divide,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  type Shortfall,
  zero,
} from '../time/index.ts'

/**
 * How much silence at the end of a recording makes it reach as far as a use: a sound file is cut to samples and a cut
 * to frames, so that less than a frame is often missing in old projects. A whole frame is no rounding, and no silence.
 * @param lack in frames of the source
 * @param at the rate of those
 * @returns samples; null where silence is no cure
 */
export function samplesToPad(
  facts: Pick<MediaFacts, 'kind' | 'container' | 'sound'>,
  lack: Shortfall,
  at: Rate,
): number | null {
  const [first] = facts.sound
  const isWave = facts.kind === 'sound' && facts.container === 'wav' && first?.codec.startsWith('pcm_')
  const isPart =
    compare(lack.headFrames, zero) === 0 &&
    compare(lack.tailFrames, zero) > 0 &&
    compare(lack.tailFrames, fraction(1)) < 0
  if (!first || !isWave || !isPart) return null
  return Number(ceiling(divide(multiply(lack.tailFrames, fraction(first.sampleRate)), rateAsFraction(at))))
}
