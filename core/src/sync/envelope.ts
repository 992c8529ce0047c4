/** The rate of the sound that an envelope is made from: speech and most of what a set sounds like lie below half. */
export const envelopeSourceRate = 8000
/** Values of an envelope for each second. */
export const envelopeRate = 50
const hop = envelopeSourceRate / envelopeRate
/** What is this much quieter than the mean counts as silence: dropouts and hiss say nothing. */
const floorOfMean = 0.001
/** Loudness is compared with what is around it, so that slow changes of level say nothing either. */
const around = envelopeRate
/** One step of a packed value, in bels of energy. */
const packedStep = 1 / 48

/**
 * How loud a sound is, fifty times a second, against the seconds around: in logarithms of energy, so that gain and
 * polarity do not change it. Sound without any change of loudness has an envelope of zeros.
 */
export class EnvelopeMaker {
  readonly #energies: number[] = []
  #sum = 0
  #count = 0

  /** Takes the next samples, mono, at `envelopeSourceRate`, from -1 to 1. */
  add(samples: Float32Array): void {
    // Hours of samples go through here: the sum is no field while it grows.
    let [sum, count] = [this.#sum, this.#count]
    for (let index = 0; index < samples.length; ) {
      const end = Math.min(samples.length, index + hop - count)
      count += end - index
      for (; index < end; index++) sum += (samples[index] as number) ** 2
      if (count < hop) break
      this.#energies.push(sum / hop)
      sum = 0
      count = 0
    }
    this.#sum = sum
    this.#count = count
  }

  /** The envelope of all that was taken. */
  finish(): Float32Array {
    const energies = this.#energies
    const mean = energies.reduce((sum, energy) => sum + energy, 0) / Math.max(1, energies.length)
    if (mean === 0) return new Float32Array(energies.length)
    const loud = Float64Array.from(energies, (energy) => Math.log10(energy + floorOfMean * mean))
    return againstAround(loud)
  }
}

function againstAround(loud: Float64Array): Float32Array {
  const sums = new Float64Array(loud.length + 1)
  for (let index = 0; index < loud.length; index++) sums[index + 1] = (sums[index] as number) + (loud[index] as number)
  return Float32Array.from(loud, (value, index) => {
    const from = Math.max(0, index - around)
    const to = Math.min(loud.length, index + around + 1)
    return value - ((sums[to] as number) - (sums[from] as number)) / (to - from)
  })
}

/** One byte a value, for keeping. */
export const packEnvelope = (envelope: Float32Array): Int8Array =>
  Int8Array.from(envelope, (value) => Math.max(-127, Math.min(127, Math.round(value / packedStep))))

export const unpackEnvelope = (packed: Int8Array): Float32Array =>
  Float32Array.from(packed, (value) => value * packedStep)

/** The part of an envelope that changes at all: the root of the mean square, in bels. */
export const liveliness = (envelope: Float32Array): number =>
  Math.sqrt(envelope.reduce((sum, value) => sum + value * value, 0) / Math.max(1, envelope.length))
