import type { MediaFacts } from '../media/index.ts'
import {
  add,
  divide,
  type Fraction,
  floor,
  formatTimecode,
  fraction,
  isWhole,
  multiply,
  type Rate,
  rateAsFraction,
  subtract,
  zero,
} from '../time/index.ts'
import type { SyncedSound } from './by-timecode.ts'
import { type Counting, soundSpan } from './timecode-span.ts'

/**
 * The label of a recording at a picture's first frame, as its recorder counts; between two frames that of the earlier.
 * Null where the recording has no timecode.
 */
export function soundLabelAt(
  { offsetSamples, sampleRate }: Pick<SyncedSound, 'offsetSamples' | 'sampleRate'>,
  sound: MediaFacts,
  fallback: Counting,
): string | null {
  const span = soundSpan(sound, fallback)
  if (!span || sound.timeReferenceSamples === null) return null
  const { rate, dropFrame } = span.counting
  const samples = add(fraction(sound.timeReferenceSamples), offsetSamples)
  const frame = floor(multiply(divide(samples, fraction(sampleRate)), rateAsFraction(rate)))
  return formatTimecode(Number(frame), rate, dropFrame)
}

/** An exact count of samples in words: "96000 samples at 48 kHz", "-1601 3/5 samples at 48 kHz". */
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

/** "the recorder runs 10.4 millionths fast: 0.6 ms at the end"; null for less than a twentieth of a millisecond. */
export function describeDrift(partsPerMillion: number, seconds: number): string | null {
  const milliseconds = Math.abs((partsPerMillion * seconds) / 1000)
  if (milliseconds < 0.05) return null
  const pace = `${Math.abs(partsPerMillion).toFixed(1)} millionths ${partsPerMillion > 0 ? 'fast' : 'slow'}`
  return `the recorder runs ${pace}: ${milliseconds.toFixed(1)} ms at the end`
}

/** "its timecode is 01:00:00:06 behind the recorder’s": hours, minutes, seconds and frames, none dropped. */
export function describeClock(behindFrames: number, rate: Rate): string {
  const nominal = { numerator: Math.round(rate.numerator / rate.denominator), denominator: 1 }
  const amount = formatTimecode(Math.abs(behindFrames), nominal)
  return `its timecode is ${amount} ${behindFrames > 0 ? 'behind' : 'ahead of'} the recorder’s`
}
