import { Fourier, powerOfTwo, type Spectrum } from './fourier.ts'

/** An envelope made ready for being compared with many others. */
export interface PreparedEnvelope {
  readonly values: Float32Array
  readonly spectrum: Spectrum
  /** Sums of squares up to each value. */
  readonly squares: Float64Array
}

/** Where one envelope lies in another. */
export interface EnvelopeMatch {
  /** The value of the other at the first value of the one; below zero when the other begins later. */
  readonly lag: number
  /** How alike they are there, from -1 to 1. */
  readonly likeness: number
  /** The likeness times the root of the values that overlap: how far it is from chance. */
  readonly weight: number
  /** The same of the best place elsewhere. */
  readonly nextWeight: number
}

/** Places so near to the best one are the same. */
const near = 25

/** Compares envelopes of one length at most, each prepared once. */
export class EnvelopeMatcher {
  readonly #fourier: Fourier
  #scratch: Spectrum | null = null

  /** @param longest values of the longest envelope */
  constructor(longest: number) {
    this.#fourier = new Fourier(powerOfTwo(2 * longest))
  }

  prepare(values: Float32Array): PreparedEnvelope {
    const squares = new Float64Array(values.length + 1)
    for (let index = 0; index < values.length; index++)
      squares[index + 1] = (squares[index] as number) + (values[index] as number) ** 2
    return { values, spectrum: this.#fourier.spectrum(values), squares }
  }

  /**
   * The places where one envelope is most like each of some others, over what overlaps. Two are transformed at once, as
   * all that comes out is real.
   * @param leastOverlap values that have to overlap; of a shorter one all of it
   * @returns null where nothing overlaps enough, or one of them is all silence
   */
  match(
    one: PreparedEnvelope,
    others: readonly PreparedEnvelope[],
    leastOverlap: number,
  ): readonly (EnvelopeMatch | null)[] {
    const { size } = this.#fourier
    this.#scratch ??= { real: new Float64Array(size), imaginary: new Float64Array(size) }
    const matches: (EnvelopeMatch | null)[] = []
    for (let index = 0; index < others.length; index += 2) {
      const [first, second] = [others[index] as PreparedEnvelope, others[index + 1]]
      const both = this.#fourier.correlationsWithTwo(
        one.spectrum,
        first.spectrum,
        (second ?? first).spectrum,
        this.#scratch,
      )
      matches.push(this.#place(one, first, both[0], Math.min(leastOverlap, first.values.length)))
      if (second) matches.push(this.#place(one, second, both[1], Math.min(leastOverlap, second.values.length)))
    }
    return matches
  }

  #place(
    one: PreparedEnvelope,
    other: PreparedEnvelope,
    sums: Float64Array,
    leastOverlap: number,
  ): EnvelopeMatch | null {
    const { size } = this.#fourier
    const [length, otherLength] = [one.values.length, other.values.length]
    const from = -(length - leastOverlap)
    const weights = new Float64Array(Math.max(0, otherLength - leastOverlap - from + 1))
    let best = -1
    const [squares, otherSquares] = [one.squares, other.squares]
    // Nothing is made in this loop: a day asks it some hundred million times.
    for (let index = 0; index < weights.length; index++) {
      const lag = from + index
      const start = Math.max(0, -lag)
      const end = Math.min(length, otherLength - lag)
      const energy =
        ((squares[end] as number) - (squares[start] as number)) *
        ((otherSquares[end + lag] as number) - (otherSquares[start + lag] as number))
      if (energy <= 0) continue
      const weight = (sums[lag < 0 ? lag + size : lag] as number) * Math.sqrt((end - start) / energy)
      weights[index] = weight
      if (best < 0 || weight > (weights[best] as number)) best = index
    }
    if (best < 0) return null
    let nextWeight = 0
    for (let index = 0; index < weights.length; index++)
      if ((weights[index] as number) > nextWeight && Math.abs(index - best) > near)
        nextWeight = weights[index] as number
    const lag = from + best
    const overlap = Math.min(length, otherLength - lag) - Math.max(0, -lag)
    const weight = weights[best] as number
    return { lag, likeness: weight / Math.sqrt(overlap), weight, nextWeight }
  }
}

/** How a stretch of sound lies against another of the same length. */
export interface SoundAlignment {
  /** Samples by which the other is later; between two samples where the peak lies there. */
  readonly shiftSamples: number
  /** From 0 to 1: how sharp the peak stands out. */
  readonly sharpness: number
  readonly isInverted: boolean
}

/** How much of a spectrum's own colour is taken out, so that a room or a microphone does not blur the peak. */
const whitening = 0.7

/**
 * Lays two stretches of one moment on each other to the sample, by a correlation that is whitened in part (Knapp and
 * Carter 1976).
 * @param most samples that they may lie apart
 */
export function alignSound(one: Float32Array, other: Float32Array, most: number): SoundAlignment | null {
  // Both are transformed as one: what rounding leaves of the louder would be taken for the silent one.
  if (isSilent(one) || isSilent(other)) return null
  const fourier = fourierOf(powerOfTwo(one.length + most))
  const cross = fourier.crossOf(windowed(one), windowed(other))
  let power = 0
  // Of real values the upper half of the spectrum mirrors the lower one.
  for (let line = 0; line <= fourier.size / 2; line++) {
    const place = fourier.places[line] as number
    const real = cross.real[place] as number
    const imaginary = cross.imaginary[place] as number
    const magnitude = Math.sqrt(real * real + imaginary * imaginary)
    if (magnitude === 0) continue
    const weight = magnitude ** -whitening
    const mirrored = fourier.places[(fourier.size - line) % fourier.size] as number
    cross.real[place] = real * weight
    cross.imaginary[place] = imaginary * weight
    cross.real[mirrored] = real * weight
    if (mirrored !== place) cross.imaginary[mirrored] = -imaginary * weight
    power += magnitude * weight * (mirrored === place ? 1 : 2)
  }
  if (power === 0) return null
  const values = fourier.values(cross)
  const at = (lag: number): number => values[lag < 0 ? lag + fourier.size : lag] as number
  let best = 0
  for (let lag = -most; lag <= most; lag++) if (Math.abs(at(lag)) > Math.abs(at(best))) best = lag
  const [before, peak, after] = [at(best - 1), at(best), at(best + 1)].map(Math.abs) as [number, number, number]
  const curve = before - 2 * peak + after
  return {
    shiftSamples: best + (curve < 0 ? (before - after) / (2 * curve) : 0),
    sharpness: (peak * fourier.size) / power,
    isInverted: at(best) < 0,
  }
}

const isSilent = (samples: Float32Array): boolean => samples.every((sample) => sample === 0)

/** Transforms that were used before: many stretches are of one length. */
const known = new Map<number, Fourier>()

function fourierOf(size: number): Fourier {
  const fourier = known.get(size) ?? new Fourier(size)
  known.set(size, fourier)
  return fourier
}

/** Faded in and out (von Hann), so that the ends of a stretch are no event of their own. */
function windowed(samples: Float32Array): Float32Array {
  const window = windows.get(samples.length) ?? windowOf(samples.length)
  windows.set(samples.length, window)
  return samples.map((sample, index) => sample * (window[index] as number))
}

const windows = new Map<number, Float64Array>()

function windowOf(length: number): Float64Array {
  const turn = (2 * Math.PI) / (length - 1)
  return new Float64Array(length).map((_, index) => 0.5 - 0.5 * Math.cos(index * turn))
}
