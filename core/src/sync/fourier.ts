/** A discrete Fourier transform of one length, a power of two; all its tables are made once. */
export class Fourier {
  readonly size: number
  /** Turns of all stages one after another, from the second on, so that each is read in the order in which it lies. */
  readonly #cosines: Float64Array
  readonly #sines: Float64Array
  readonly #reversed: Uint32Array

  /** @throws RangeError unless the size is a power of two */
  constructor(size: number) {
    const bits = Math.log2(size)
    if (!Number.isInteger(bits) || size < 2) throw new RangeError(`${size} is no power of two.`)
    this.size = size
    this.#cosines = new Float64Array(size)
    this.#sines = new Float64Array(size)
    for (let half = 1; half < size; half *= 2)
      for (let index = 0; index < half; index++) {
        const angle = (Math.PI * index) / half
        this.#cosines[half + index] = Math.cos(angle)
        this.#sines[half + index] = Math.sin(angle)
      }
    const reversed = new Uint32Array(size)
    for (let index = 0; index < size; index++)
      reversed[index] = ((reversed[index >> 1] as number) >> 1) | ((index & 1) << (bits - 1))
    this.#reversed = reversed
  }

  /** The spectrum of real values, filled up with zeros. */
  spectrum(values: ArrayLike<number>): Spectrum {
    const spectrum = { real: new Float64Array(this.size), imaginary: new Float64Array(this.size) }
    for (let index = 0; index < values.length; index++) spectrum.real[index] = values[index] as number
    this.#transform(spectrum.real, spectrum.imaginary)
    return spectrum
  }

  /** The spectrum of the correlation of two lists of real values, as `crossSpectrum` of both, by one transform. */
  crossOf(one: ArrayLike<number>, other: ArrayLike<number>): Spectrum {
    const { size } = this
    const both = { real: new Float64Array(size), imaginary: new Float64Array(size) }
    for (let index = 0; index < one.length; index++) both.real[index] = one[index] as number
    for (let index = 0; index < other.length; index++) both.imaginary[index] = other[index] as number
    this.#transform(both.real, both.imaginary)
    // The even part of the whole is the one's, the odd part the other's.
    for (let index = 0; index <= size / 2; index++) {
      const mirrored = (size - index) % size
      const [a, b] = [both.real[index] as number, both.imaginary[index] as number]
      const [c, d] = [both.real[mirrored] as number, both.imaginary[mirrored] as number]
      const [x, y] = [(a + c) / 2, (b - d) / 2]
      const [u, v] = [(b + d) / 2, (c - a) / 2]
      const [real, imaginary] = [x * u + y * v, x * v - y * u]
      both.real[index] = real
      both.imaginary[index] = imaginary
      both.real[mirrored] = real
      if (mirrored !== index) both.imaginary[mirrored] = -imaginary
    }
    return both
  }

  /** The real values of a spectrum, which is used up; those of one that came from real values are all there is. */
  values({ real, imaginary }: Spectrum): Float64Array {
    // Backwards is forwards with the parts exchanged.
    this.#transform(imaginary, real)
    for (let index = 0; index < this.size; index++) real[index] = (real[index] as number) / this.size
    return real
  }

  /** The real values of two spectra at once, which are used up: the one's as real parts, the other's beside them. */
  valuesOfTwo(one: Spectrum, other: Spectrum): readonly [Float64Array, Float64Array] {
    const { real, imaginary } = one
    for (let index = 0; index < this.size; index++) {
      real[index] = (real[index] as number) - (other.imaginary[index] as number)
      imaginary[index] = (imaginary[index] as number) + (other.real[index] as number)
    }
    this.#transform(imaginary, real)
    for (let index = 0; index < this.size; index++) {
      real[index] = (real[index] as number) / this.size
      imaginary[index] = (imaginary[index] as number) / this.size
    }
    return [real, imaginary]
  }

  /** In place, by the scheme of Cooley and Tukey (1965). */
  #transform(real: Float64Array, imaginary: Float64Array): void {
    const { size } = this
    // Nothing is made in these loops: they run many millions of times.
    const reversed = this.#reversed
    const cosines = this.#cosines
    const sines = this.#sines
    for (let index = 0; index < size; index++) {
      const other = reversed[index] as number
      if (other <= index) continue
      const a = real[index] as number
      const b = imaginary[index] as number
      real[index] = real[other] as number
      imaginary[index] = imaginary[other] as number
      real[other] = a
      imaginary[other] = b
    }
    for (let half = 1; half < size; half *= 2)
      for (let start = 0; start < size; start += 2 * half)
        for (let index = start, turn = half; index < start + half; index++, turn++) {
          const cosine = cosines[turn] as number
          const sine = -(sines[turn] as number)
          const a = real[index + half] as number
          const b = imaginary[index + half] as number
          const turnedReal = a * cosine - b * sine
          const turnedImaginary = a * sine + b * cosine
          const x = real[index] as number
          const y = imaginary[index] as number
          real[index] = x + turnedReal
          imaginary[index] = y + turnedImaginary
          real[index + half] = x - turnedReal
          imaginary[index + half] = y - turnedImaginary
        }
  }
}

export interface Spectrum {
  readonly real: Float64Array
  readonly imaginary: Float64Array
}

/**
 * The spectrum of the correlation of two: the first conjugated, times the second.
 * @param cross where it goes
 */
export function crossSpectrum(
  one: Spectrum,
  other: Spectrum,
  cross: Spectrum = { real: new Float64Array(one.real.length), imaginary: new Float64Array(one.real.length) },
): Spectrum {
  const size = one.real.length
  for (let index = 0; index < size; index++) {
    const a = one.real[index] as number
    const b = -(one.imaginary[index] as number)
    const c = other.real[index] as number
    const d = other.imaginary[index] as number
    cross.real[index] = a * c - b * d
    cross.imaginary[index] = a * d + b * c
  }
  return cross
}

/** The least power of two that holds so many values. */
export const powerOfTwo = (values: number): number => 2 ** Math.ceil(Math.log2(Math.max(2, values)))
