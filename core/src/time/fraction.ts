/** An exact quotient of two integers, always in lowest terms with a positive denominator. */
export interface Fraction {
  readonly numerator: bigint
  readonly denominator: bigint
}

/**
 * Makes a fraction in lowest terms.
 * @throws RangeError when the denominator is zero.
 */
export function fraction(numerator: bigint | number, denominator: bigint | number = 1n): Fraction {
  let n = BigInt(numerator)
  let d = BigInt(denominator)
  // Whole frames, as nearly all are.
  if (d === 1n) return { numerator: n, denominator: d }
  if (d === 0n) throw new RangeError('A fraction needs a denominator other than zero.')
  if (d < 0n) [n, d] = [-n, -d]
  const divisor = greatestCommonDivisor(n < 0n ? -n : n, d)
  return { numerator: n / divisor, denominator: d / divisor }
}

function greatestCommonDivisor(a: bigint, b: bigint): bigint {
  while (b !== 0n) [a, b] = [b, a % b]
  return a === 0n ? 1n : a
}

export const zero: Fraction = fraction(0)

export const add = (a: Fraction, b: Fraction): Fraction =>
  fraction(a.numerator * b.denominator + b.numerator * a.denominator, a.denominator * b.denominator)

export const negative = (a: Fraction): Fraction => ({ ...a, numerator: -a.numerator })

export const subtract = (a: Fraction, b: Fraction): Fraction => add(a, negative(b))

export const multiply = (a: Fraction, b: Fraction): Fraction =>
  fraction(a.numerator * b.numerator, a.denominator * b.denominator)

export const divide = (a: Fraction, b: Fraction): Fraction =>
  fraction(a.numerator * b.denominator, a.denominator * b.numerator)

/** Negative when a is less than b, zero when equal, positive when greater. */
export function compare(a: Fraction, b: Fraction): number {
  const difference = a.numerator * b.denominator - b.numerator * a.denominator
  return difference < 0n ? -1 : difference > 0n ? 1 : 0
}

export const maximum = (a: Fraction, b: Fraction): Fraction => (compare(a, b) >= 0 ? a : b)
export const isWhole = (a: Fraction): boolean => a.denominator === 1n

/** The greatest integer not above the fraction. */
export function floor(a: Fraction): bigint {
  const quotient = a.numerator / a.denominator
  return a.numerator < 0n && a.numerator % a.denominator !== 0n ? quotient - 1n : quotient
}

/** The smallest integer not below the fraction. */
export const ceiling = (a: Fraction): bigint => -floor({ ...a, numerator: -a.numerator })

/** The nearest integer; a half goes up. */
export const round = (a: Fraction): bigint => floor(add(a, fraction(1, 2)))

/** For drawing and sorting only: exactness ends here. */
export const toNumber = (a: Fraction): number => Number(a.numerator) / Number(a.denominator)

/**
 * Decimal text rounded half up to the given number of places, without trailing zeros: 8/3 is "2.67".
 */
export function toDecimal(a: Fraction, places = 2): string {
  const scale = 10n ** BigInt(places)
  const scaled = round(multiply(a, fraction(scale)))
  const negative = scaled < 0n
  const digits = (negative ? -scaled : scaled).toString().padStart(places + 1, '0')
  const whole = digits.slice(0, digits.length - places)
  const decimals = digits.slice(digits.length - places).replace(/0+$/, '')
  return `${negative ? '-' : ''}${whole}${decimals ? `.${decimals}` : ''}`
}
