/**
 * A discrete Fourier transform of one length, a power of two; all its tables are made once. Spectra stay in the order
 * in which the transform leaves them: line k is at `places[k]`.
 */
export class Fourier {
  readonly size: number
  /** Where each line of a spectrum is: its number with the bits turned round. */
  readonly places: Uint32Array
  /** Turns of all pairs of stages one after another, so that each is read in the order in which it lies. */
  readonly #cosines: Float64Array
  readonly #sines: Float64Array

  /** @throws RangeError unless the size is a power of two */
  constructor(size: number) {
    const bits = Math.log2(size)
    if (!Number.isInteger(bits) || size < 2) throw new RangeError(`${size} is no power of two.`)
    this.size = size
    this.#cosines = new Float64Array(size)
    this.#sines = new Float64Array(size)
    for (let quarter = size >> 2; quarter >= 1; quarter >>= 2)
      for (let index = 0; index < quarter; index++) {
        const angle = (Math.PI * index) / (2 * quarter)
        this.#cosines[quarter + index] = Math.cos(angle)
        this.#sines[quarter + index] = Math.sin(angle)
      }
    this.places = new Uint32Array(size)
    for (let index = 0; index < size; index++)
      this.places[index] = ((this.places[index >> 1] as number) >> 1) | ((index & 1) << (bits - 1))
  }

  /** The spectrum of real values, filled up with zeros. */
  spectrum(values: ArrayLike<number>): Spectrum {
    const spectrum = { real: new Float64Array(this.size), imaginary: new Float64Array(this.size) }
    for (let index = 0; index < values.length; index++) spectrum.real[index] = values[index] as number
    this.#forwards(spectrum.real, spectrum.imaginary)
    return spectrum
  }

  /** The spectrum of the correlation of two lists of real values, as `crossSpectrum` of both, by one transform. */
  crossOf(one: ArrayLike<number>, other: ArrayLike<number>): Spectrum {
    const { size, places } = this
    const both = { real: new Float64Array(size), imaginary: new Float64Array(size) }
    for (let index = 0; index < one.length; index++) both.real[index] = one[index] as number
    for (let index = 0; index < other.length; index++) both.imaginary[index] = other[index] as number
    this.#forwards(both.real, both.imaginary)
    // The even part of the whole is the one's, the odd part the other's.
    for (let line = 0; line <= size / 2; line++) {
      const place = places[line] as number
      const mirrored = places[(size - line) % size] as number
      const [a, b] = [both.real[place] as number, both.imaginary[place] as number]
      const [c, d] = [both.real[mirrored] as number, both.imaginary[mirrored] as number]
      const [x, y] = [(a + c) / 2, (b - d) / 2]
      const [u, v] = [(b + d) / 2, (c - a) / 2]
      const [real, imaginary] = [x * u + y * v, x * v - y * u]
      both.real[place] = real
      both.imaginary[place] = imaginary
      both.real[mirrored] = real
      if (mirrored !== place) both.imaginary[mirrored] = -imaginary
    }
    return both
  }

  /** The real values of a spectrum, which is used up; those of one that came from real values are all there is. */
  values({ real, imaginary }: Spectrum): Float64Array {
    this.#backwards(real, imaginary)
    for (let index = 0; index < this.size; index++) real[index] = (real[index] as number) / this.size
    return real
  }

  /**
   * The correlations of one with two others, by one transform, as all that comes out is real.
   * @param scratch is overwritten, and is what comes out: the first as real parts, the second beside them
   */
  correlationsWithTwo(
    one: Spectrum,
    first: Spectrum,
    second: Spectrum,
    scratch: Spectrum,
  ): readonly [Float64Array, Float64Array] {
    const { real, imaginary } = scratch
    const part = 1 / this.size
    for (let index = 0; index < this.size; index++) {
      const a = (one.real[index] as number) * part
      const b = (one.imaginary[index] as number) * -part
      const c = first.real[index] as number
      const d = first.imaginary[index] as number
      const e = second.real[index] as number
      const f = second.imaginary[index] as number
      real[index] = a * (c - f) - b * (d + e)
      imaginary[index] = a * (d + e) + b * (c - f)
    }
    this.#backwards(real, imaginary)
    return [real, imaginary]
  }

  /**
   * In place, by decimation in frequency (Gentleman and Sande 1966), two stages in one pass over the values; what
   * comes out lies in the order of `places`. Nothing is made in these loops: they run many millions of times.
   */
  #forwards(real: Float64Array, imaginary: Float64Array): void {
    const { size } = this
    const cosines = this.#cosines
    const sines = this.#sines
    for (let quarter = size >> 2; quarter >= 1; quarter >>= 2)
      for (let start = 0; start < size; start += 4 * quarter)
        for (let index = start, turn = quarter; turn < 2 * quarter; index++, turn++) {
          const c1 = cosines[turn] as number
          const s1 = -(sines[turn] as number)
          const c2 = c1 * c1 - s1 * s1
          const s2 = 2 * c1 * s1
          const c3 = c1 * c2 - s1 * s2
          const s3 = c1 * s2 + s1 * c2
          const second = index + quarter
          const third = second + quarter
          const fourth = third + quarter
          const evenReal = (real[index] as number) + (real[third] as number)
          const evenImaginary = (imaginary[index] as number) + (imaginary[third] as number)
          const apartReal = (real[index] as number) - (real[third] as number)
          const apartImaginary = (imaginary[index] as number) - (imaginary[third] as number)
          const oddReal = (real[second] as number) + (real[fourth] as number)
          const oddImaginary = (imaginary[second] as number) + (imaginary[fourth] as number)
          const turnedReal = (imaginary[second] as number) - (imaginary[fourth] as number)
          const turnedImaginary = (real[fourth] as number) - (real[second] as number)
          real[index] = evenReal + oddReal
          imaginary[index] = evenImaginary + oddImaginary
          const x2 = evenReal - oddReal
          const y2 = evenImaginary - oddImaginary
          real[second] = x2 * c2 - y2 * s2
          imaginary[second] = x2 * s2 + y2 * c2
          const x1 = apartReal + turnedReal
          const y1 = apartImaginary + turnedImaginary
          real[third] = x1 * c1 - y1 * s1
          imaginary[third] = x1 * s1 + y1 * c1
          const x3 = apartReal - turnedReal
          const y3 = apartImaginary - turnedImaginary
          real[fourth] = x3 * c3 - y3 * s3
          imaginary[fourth] = x3 * s3 + y3 * c3
        }
    if (this.#isOdd) inPairs(real, imaginary)
  }

  /** The way back, without the division by the size, from the order of `places` (Cooley and Tukey 1965). */
  #backwards(real: Float64Array, imaginary: Float64Array): void {
    const { size } = this
    const cosines = this.#cosines
    const sines = this.#sines
    if (this.#isOdd) inPairs(real, imaginary)
    for (let quarter = this.#isOdd ? 2 : 1; quarter < size; quarter <<= 2)
      for (let start = 0; start < size; start += 4 * quarter)
        for (let index = start, turn = quarter; turn < 2 * quarter; index++, turn++) {
          const c1 = cosines[turn] as number
          const s1 = sines[turn] as number
          const c2 = c1 * c1 - s1 * s1
          const s2 = 2 * c1 * s1
          const c3 = c1 * c2 - s1 * s2
          const s3 = c1 * s2 + s1 * c2
          const second = index + quarter
          const third = second + quarter
          const fourth = third + quarter
          const a = real[index] as number
          const b = imaginary[index] as number
          const x2 = (real[second] as number) * c2 - (imaginary[second] as number) * s2
          const y2 = (real[second] as number) * s2 + (imaginary[second] as number) * c2
          const x1 = (real[third] as number) * c1 - (imaginary[third] as number) * s1
          const y1 = (real[third] as number) * s1 + (imaginary[third] as number) * c1
          const x3 = (real[fourth] as number) * c3 - (imaginary[fourth] as number) * s3
          const y3 = (real[fourth] as number) * s3 + (imaginary[fourth] as number) * c3
          real[index] = a + x2 + x1 + x3
          imaginary[index] = b + y2 + y1 + y3
          real[third] = a + x2 - x1 - x3
          imaginary[third] = b + y2 - y1 - y3
          real[second] = a - x2 - y1 + y3
          imaginary[second] = b - y2 + x1 - x3
          real[fourth] = a - x2 + y1 - y3
          imaginary[fourth] = b - y2 - x1 + x3
        }
  }

  /** Whether its stages leave one over when they are taken two at a time. */
  get #isOdd(): boolean {
    return Math.log2(this.size) % 2 === 1
  }
}

/** The stage without turns: neighbours, by their sum and their difference. */
function inPairs(real: Float64Array, imaginary: Float64Array): void {
  for (let index = 0; index < real.length; index += 2) {
    const a = real[index] as number
    const b = real[index + 1] as number
    const c = imaginary[index] as number
    const d = imaginary[index + 1] as number
    real[index] = a + b
    real[index + 1] = a - b
    imaginary[index] = c + d
    imaginary[index + 1] = c - d
  }
}

export interface Spectrum {
  readonly real: Float64Array
  readonly imaginary: Float64Array
}

/** The least power of two that holds so many values. */
export const powerOfTwo = (values: number): number => 2 ** Math.ceil(Math.log2(Math.max(2, values)))
