import type { MediaFacts } from '../media/index.ts'
import {
  type Fraction,
  floor,
  formatTimecode,
  fraction,
  isWhole,
  multiply,
  rateAsFraction,
  subtract,
  zero,
} from '../time/index.ts'
import { type Counting, pictureSpan, soundSpan } from './timecode-span.ts'

/**
 * The label of a recording at a picture's first frame, as its recorder counts; between two frames that of the earlier.
 * Null where either has no timecode.
 */
export function soundLabelAt(picture: MediaFacts, sound: MediaFacts, fallback: Counting): string | null {
  const [from, to] = [pictureSpan(picture), soundSpan(sound, fallback)]
  if (!from || !to) return null
  const { rate, dropFrame } = to.counting
  const frame = floor(multiply(multiply(from.startSeconds, to.pace), rateAsFraction(rate)))
  return formatTimecode(Number(frame), rate, dropFrame)
}

/** An exact count of samples in words: "96000 samples at 48 kHz", "1601 3/5 samples at 48 kHz", "-1/2 samples at 48 kHz". */
export function describeOffset(samples: Fraction, sampleRate: number): string {
  const isBelow = samples.numerator < 0n
  const amount = isBelow ? subtract(zero, samples) : samples
  const whole = floor(amount)
  const rest = subtract(amount, fraction(whole))
  const parts = [
    ...(whole !== 0n || isWhole(amount) ? [String(whole)] : []),
    ...(isWhole(amount) ? [] : [`${rest.numerator}/${rest.denominator}`]),
  ]
  return `${isBelow ? '-' : ''}${parts.join(' ')} samples at ${sampleRate / 1000} kHz`
}
