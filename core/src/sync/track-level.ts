import { type Clipping, ClippingMeter } from './clipping.ts'
import { EnvelopeMaker, envelopeSourceRate, liveliness } from './envelope.ts'
import { NoteMeter, soundsLikeMusic } from './notes-held.ts'

/** What one channel of a file holds, measured from its first sample to its last. */
export interface TrackLevel {
  /** The loudest sample, in decibels below full scale (dBFS); null for digital silence. */
  readonly peakDecibels: number | null
  /** The root of the mean square, in the same. */
  readonly meanDecibels: number | null
  readonly holds: 'silence' | 'a steady sound' | 'music' | 'sound'
  /** Of music: of what was listened to, in percent, where a note is held. */
  readonly notesPercent?: number
  /** Null where it was nowhere clipped; what was measured before this was looked for says nothing. */
  readonly clipping?: Clipping | null
}

/** A track that was heard and holds something else than a guide. */
export interface GuidelessTrack {
  /** The first is 1. */
  readonly track: number
  readonly holds: Exclude<TrackLevel['holds'], 'sound'>
}

/** What stays below this is silence: the hiss of an open input is louder. */
const silentDecibels = -60
/** Changes of loudness that a tone, or hiss, does not have. */
const steadyBels = 0.05

/** Measures a channel as its samples come, at the rate of its file. */
export class TrackMeter {
  readonly #envelope = new EnvelopeMaker()
  readonly #notes = new NoteMeter()
  readonly #clipping: ClippingMeter
  readonly #sampleRate: number
  #peak = 0
  #squares = 0
  #count = 0
  /** Of the value that is being made: the sum of its samples, how many they are, and how many are still to come. */
  #sum = 0
  #width: number
  #left: number
  /** What is left over of the samples that do not divide evenly into values. */
  #over: number

  /** @param sampleRate of the samples to come, `envelopeSourceRate` at least */
  constructor(sampleRate: number) {
    this.#sampleRate = sampleRate
    this.#clipping = new ClippingMeter(sampleRate)
    this.#over = sampleRate % envelopeSourceRate
    this.#width = Math.floor(sampleRate / envelopeSourceRate)
    this.#left = this.#width
  }

  /**
   * Takes the next samples, from -1 to 1.
   * @returns the same at `envelopeSourceRate`, each the mean of what falls on it
   */
  add(samples: Float32Array): Float32Array {
    const even = Math.floor(this.#sampleRate / envelopeSourceRate)
    const odd = this.#sampleRate % envelopeSourceRate
    const lowered = new Float32Array(Math.ceil(samples.length / even) + 1)
    // Hours of samples go through here: nothing is a field, and nothing is made, while they do.
    const { length } = samples
    let made = 0
    let peak = 0
    let squares = 0
    let sum = this.#sum
    let width = this.#width
    let left = this.#left
    let over = this.#over
    for (let index = 0; index < length; ) {
      const end = Math.min(length, index + left)
      left -= end - index
      for (; index < end; index++) {
        const sample = samples[index] as number
        const loud = Math.abs(sample)
        if (loud > peak) peak = loud
        squares += sample * sample
        sum += sample
      }
      if (left > 0) break
      lowered[made++] = sum / width
      sum = 0
      over += odd
      width = even
      if (over >= envelopeSourceRate) {
        over -= envelopeSourceRate
        width++
      }
      left = width
    }
    this.#clipping.add(samples, peak)
    if (peak > this.#peak) this.#peak = peak
    this.#squares += squares
    this.#count += samples.length
    this.#sum = sum
    this.#width = width
    this.#left = left
    this.#over = over
    const values = lowered.subarray(0, made)
    this.#envelope.add(values)
    this.#notes.add(values)
    return values
  }

  finish(): TrackLevel {
    const peakDecibels = inDecibels(this.#peak)
    const meanDecibels = inDecibels(Math.sqrt(this.#squares / Math.max(1, this.#count)))
    const level = { peakDecibels, meanDecibels, clipping: this.#clipping.finish() }
    if (peakDecibels === null || peakDecibels < silentDecibels) return { ...level, holds: 'silence' }
    if (liveliness(this.#envelope.finish()) < steadyBels) return { ...level, holds: 'a steady sound' }
    const notes = this.#notes.finish()
    if (!soundsLikeMusic(notes)) return { ...level, holds: 'sound' }
    return { ...level, holds: 'music', notesPercent: Math.round(100 * notes.share) }
  }
}

/** To a tenth of a decibel; null for nothing at all. */
const inDecibels = (value: number): number | null => (value === 0 ? null : Math.round(200 * Math.log10(value)) / 10)

/** "clipped once, 12.4 s after its start". */
export function describeClipping({ places, firstSample, sampleRate }: Clipping): string {
  const first = `${(firstSample / sampleRate).toFixed(1)} s after its start`
  return places === 1 ? `clipped once, ${first}` : `clipped ${places} times, first ${first}`
}

/**
 * "−18.2 dBFS on the mean, −3.1 at most", "silence", "a steady sound, a tone or hiss, at −20.0 dBFS", "what sounds like
 * music (notes are held in 98 % of it), −18.2 dBFS on the mean, −3.1 at most".
 */
export function describeLevel({ peakDecibels, meanDecibels, holds, notesPercent, clipping }: TrackLevel): string {
  if (holds === 'silence' || peakDecibels === null || meanDecibels === null) return 'silence'
  const number = (decibels: number): string => `${decibels < 0 ? '−' : ''}${Math.abs(decibels).toFixed(1)}`
  const loud = `${number(meanDecibels)} dBFS on the mean, ${number(peakDecibels)} at most`
  const level = {
    'a steady sound': `a steady sound, a tone or hiss, at ${number(meanDecibels)} dBFS`,
    music: `what sounds like music (notes are held in ${notesPercent} % of it), ${loud}`,
    sound: loud,
  }[holds]
  return clipping ? `${level}, ${describeClipping(clipping)}` : level
}
