import { type Fraction, fraction } from './fraction.ts'

/** Frames per second as an exact quotient of two positive integers, in lowest terms. */
export interface Rate {
  readonly numerator: number
  readonly denominator: number
}

/**
 * Makes a rate in lowest terms.
 * @throws RangeError when a part is not a positive safe integer.
 */
export function rate(numerator: number, denominator = 1): Rate {
  if (!Number.isSafeInteger(numerator) || !Number.isSafeInteger(denominator) || numerator <= 0 || denominator <= 0) {
    throw new RangeError(`A rate needs two positive whole numbers, not ${numerator}/${denominator}.`)
  }
  const reduced = fraction(numerator, denominator)
  return { numerator: Number(reduced.numerator), denominator: Number(reduced.denominator) }
}

/** The rates that film and television use, slowest first. */
export const commonRates: readonly Rate[] = [
  rate(24000, 1001),
  rate(24),
  rate(25),
  rate(30000, 1001),
  rate(30),
  rate(48000, 1001),
  rate(48),
  rate(50),
  rate(60000, 1001),
  rate(60),
  rate(100),
  rate(120000, 1001),
  rate(120),
]

export const rateAsFraction = (value: Rate): Fraction => fraction(value.numerator, value.denominator)

export const sameRate = (a: Rate, b: Rate): boolean => a.numerator * b.denominator === b.numerator * a.denominator

/** Equal for equal rates, and for no others. */
export function rateKey({ numerator, denominator }: Rate): string {
  let [a, b] = [numerator, denominator]
  while (b !== 0) [a, b] = [b, a % b]
  return `${numerator / a}/${denominator / a}`
}

/** The whole number of frame labels in a second of timecode: 30 for 30000/1001 (SMPTE ST 12-1, 5.2). */
export const nominalFramesPerSecond = (value: Rate): number => Math.round(value.numerator / value.denominator)

/**
 * The exact rate of labels that count so many a second.
 * @param isSlowed whether it is slower by 1000/1001, as what goes with NTSC television is
 */
export const rateOfLabels = (labelsPerSecond: number, isSlowed: boolean): Rate =>
  isSlowed ? rate(labelsPerSecond * 1000, 1001) : rate(labelsPerSecond)

/** Drop-frame counting exists for 30000/1001 and its doubles only (SMPTE ST 12-1, 5.2.2; ST 12-3 for the doubles). */
export const allowsDropFrame = (value: Rate): boolean => value.denominator === 1001 && value.numerator % 30000 === 0

/**
 * Reads "25", "30000/1001" or "25/1".
 * @returns undefined when the text is no positive rate ("0/0" is what a probe says of a still).
 */
export function parseRate(text: string): Rate | undefined {
  const match = /^(\d+)(?:\/(\d+))?$/.exec(text.trim())
  if (!match) return undefined
  const numerator = Number(match[1])
  const denominator = Number(match[2] ?? 1)
  if (!Number.isSafeInteger(numerator) || !Number.isSafeInteger(denominator) || !numerator || !denominator)
    return undefined
  return rate(numerator, denominator)
}

/**
 * Finds the exact rate behind a decimal such as 23.976 or 29.97002997, as interchange files write it.
 * A decimal within 0.002 of a common rate means that rate; another whole number means itself.
 * @returns undefined for anything else: an exact rate is never guessed.
 */
export function rateFromDecimal(decimal: number): Rate | undefined {
  if (!Number.isFinite(decimal) || decimal <= 0) return undefined
  let best: Rate | undefined
  let distance = 0.002
  for (const candidate of commonRates) {
    const off = Math.abs(candidate.numerator / candidate.denominator - decimal)
    if (off < distance) [best, distance] = [candidate, off]
  }
  return best ?? (Number.isSafeInteger(decimal) ? rate(decimal) : undefined)
}

/** The trade's short name of a rate: "25", "23.976", "29.97"; the exact quotient when it has none. */
export function formatRate(value: Rate): string {
  if (value.denominator === 1) return String(value.numerator)
  if (value.denominator !== 1001) return `${value.numerator}/${value.denominator}`
  const decimal = value.numerator / value.denominator
  return decimal.toFixed(value.numerator % 30000 === 0 ? 2 : 3)
}

/** The exact text that the encoder takes: "30000/1001". */
export const exactRate = (value: Rate): string => `${value.numerator}/${value.denominator}`
