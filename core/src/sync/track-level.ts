import type { Clipping } from './clipping.ts'
import { EnvelopeMaker, liveliness } from './envelope.ts'

/** What one channel of a file holds, measured from its first sample to its last. */
export interface TrackLevel {
  /** The loudest sample, in decibels below full scale (dBFS); null for digital silence. */
  readonly peakDecibels: number | null
  /** The root of the mean square, in the same. */
  readonly meanDecibels: number | null
  readonly holds: 'silence' | 'a steady sound' | 'sound'
  /** Null where it was nowhere clipped; what was measured before this was looked for says nothing. */
  readonly clipping?: Clipping | null
}

/** What stays below this is silence: the hiss of an open input is louder. */
const silentDecibels = -60
/** Changes of loudness that a tone, or hiss, does not have. */
const steadyBels = 0.05

/** Measures a channel as its samples come. */
export class TrackMeter {
  readonly #envelope = new EnvelopeMaker()
  #peak = 0
  #squares = 0
  #count = 0

  /** Takes the next samples, at `envelopeSourceRate`, from -1 to 1. */
  add(samples: Float32Array): void {
    let peak = this.#peak
    let squares = 0
    for (let index = 0; index < samples.length; index++) {
      const loud = Math.abs(samples[index] as number)
      if (loud > peak) peak = loud
      squares += loud * loud
    }
    this.#peak = peak
    this.#squares += squares
    this.#count += samples.length
    this.#envelope.add(samples)
  }

  finish(): TrackLevel {
    const peakDecibels = inDecibels(this.#peak)
    const meanDecibels = inDecibels(Math.sqrt(this.#squares / Math.max(1, this.#count)))
    if (peakDecibels === null || peakDecibels < silentDecibels) return { peakDecibels, meanDecibels, holds: 'silence' }
    const isSteady = liveliness(this.#envelope.finish()) < steadyBels
    return { peakDecibels, meanDecibels, holds: isSteady ? 'a steady sound' : 'sound' }
  }
}

/** To a tenth of a decibel; null for nothing at all. */
const inDecibels = (value: number): number | null => (value === 0 ? null : Math.round(200 * Math.log10(value)) / 10)

/** "clipped once, 12.4 s after its start". */
export function describeClipping({ places, firstSample, sampleRate }: Clipping): string {
  const first = `${(firstSample / sampleRate).toFixed(1)} s after its start`
  return places === 1 ? `clipped once, ${first}` : `clipped ${places} times, first ${first}`
}

/** "−18.2 dBFS on the mean, −3.1 at most", "silence", "a steady sound, a tone or hiss, at −20.0 dBFS". */
export function describeLevel({ peakDecibels, meanDecibels, holds, clipping }: TrackLevel): string {
  if (holds === 'silence' || peakDecibels === null || meanDecibels === null) return 'silence'
  const number = (decibels: number): string => `${decibels < 0 ? '−' : ''}${Math.abs(decibels).toFixed(1)}`
  const level =
    holds === 'sound'
      ? `${number(meanDecibels)} dBFS on the mean, ${number(peakDecibels)} at most`
      : `a steady sound, a tone or hiss, at ${number(meanDecibels)} dBFS`
  return clipping ? `${level}, ${describeClipping(clipping)}` : level
}
