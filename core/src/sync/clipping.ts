/** Where a channel ran into full scale. */
export interface Clipping {
  /** How many times. */
  readonly places: number
  /** Of the first time, counted from the first sample of the file. */
  readonly firstSample: number
  readonly sampleRate: number
}

/** So many samples in a row at full scale are no peak any more: the wave would have gone on, and is cut off. */
const fewestInARow = 3
/** The largest number of 16 bits is a little less than one; what goes beyond one has room there, and is not cut off. */
const [fullScale, beyond] = [0.9999, 1.00001]
/** What follows within a hundredth of a second is the same time. */
const apartSeconds = 0.01

const loudestOf = (samples: Float32Array): number =>
  samples.reduce((loudest, sample) => Math.max(loudest, Math.abs(sample)), 0)

/** Finds where a channel was clipped, as its samples come, at the rate of its file. */
export class ClippingMeter {
  readonly #sampleRate: number
  #at = 0
  #run = 0
  #sign = 0
  #places = 0
  #first = -1
  #last = Number.NEGATIVE_INFINITY

  constructor(sampleRate: number) {
    this.#sampleRate = sampleRate
  }

  /**
   * Takes the next samples, from -1 to 1.
   * @param loudest of them; most sound never reaches full scale, and hours of it need not be looked through twice
   */
  add(samples: Float32Array, loudest = loudestOf(samples)): void {
    if (loudest < fullScale) {
      this.#run = 0
      this.#sign = 0
      this.#at += samples.length
      return
    }
    for (const sample of samples) {
      const loud = Math.abs(sample)
      if (loud >= fullScale && loud <= beyond && Math.sign(sample) === (this.#sign || Math.sign(sample))) {
        this.#sign = Math.sign(sample)
        if (++this.#run === fewestInARow) this.#note(this.#at - fewestInARow + 1)
        if (this.#run >= fewestInARow) this.#last = this.#at
      } else {
        this.#run = 0
        this.#sign = 0
      }
      this.#at++
    }
  }

  /** @returns null for a channel that never ran into full scale */
  finish(): Clipping | null {
    if (this.#places === 0) return null
    return { places: this.#places, firstSample: this.#first, sampleRate: this.#sampleRate }
  }

  #note(start: number): void {
    if (start - this.#last > apartSeconds * this.#sampleRate) this.#places++
    if (this.#first < 0) this.#first = start
  }
}
