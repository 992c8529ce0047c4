import { nominalFramesPerSecond, type Rate } from '../../../time/index.ts'
import { normalSpeed, type Speed } from '../../model.ts'

/**
 * The speed that a motion line of a list means. It says frames a second in decimals, and they are rounded: 48.0 in a
 * list at 24000/1001 is twice the speed, not 48 over 23.976; 33.333 at 25 is four thirds. Of all quotients that are
 * written so, that of the nominal rate is meant where it is one of them, else the simplest; and what is written with
 * one decimal or none is exact where the rate is a whole number.
 * @param framesPerSecond as the line has it, with its decimals
 */
export function motionSpeed(framesPerSecond: string, listRate: Rate): Speed {
  const [whole = '0', decimals = ''] = framesPerSecond.replace('-', '').split('.')
  const scale = 10n ** BigInt(decimals.length)
  const value = BigInt(whole + decimals)
  if (value === 0n) return { numerator: 0, denominator: 1 }
  const size = speedOf({ value, scale, isRough: decimals.length < 2 }, listRate)
  return framesPerSecond.startsWith('-') ? { numerator: -size.numerator, denominator: size.denominator } : size
}

/** The speed that a number of a list means: the simplest quotient that is written so with twelve decimals. */
export function speedOfNumber(number: number): Speed {
  const steps = BigInt(Math.round(Math.abs(number) * 1e12))
  if (steps === 0n) return { numerator: 0, denominator: 1 }
  const size = simplest([2n * steps - 1n, 2_000_000_000_000n], [2n * steps + 1n, 2_000_000_000_000n])
  return number < 0 ? { numerator: -size.numerator, denominator: size.denominator } : size
}

interface Written {
  readonly value: bigint
  readonly scale: bigint
  /** Whether it has one decimal or none. */
  readonly isRough: boolean
}

function speedOf({ value, scale, isRough }: Written, listRate: Rate): Speed {
  const [numerator, denominator] = [BigInt(listRate.numerator), BigInt(listRate.denominator)]
  const nominal = BigInt(nominalFramesPerSecond(listRate))
  if (denominator === 1n && isRough) return quotient(value, scale * nominal)
  // What is written is the nearest: half a step below and above. A whole number stands for one with a nought behind.
  const step = isRough && scale === 1n ? 10n : 1n
  const below = 2n * value * step - 1n
  const above = 2n * value * step + 1n
  const unit = 2n * scale * step
  // value ÷ nominal, times the rate, lies within: then the list counted by the nominal rate.
  const asNominal = value * numerator
  const isNominal =
    denominator !== 1n &&
    below * scale * nominal * denominator <= asNominal * unit &&
    asNominal * unit <= above * scale * nominal * denominator
  if (isNominal) return quotient(value, scale * nominal)
  return simplest([below * denominator, unit * numerator], [above * denominator, unit * numerator])
}

/** The quotient of the smallest denominator between two (Stern and Brocot). */
function simplest([n1, d1]: readonly [bigint, bigint], [n2, d2]: readonly [bigint, bigint]): Speed {
  const between = (an: bigint, ad: bigint, bn: bigint, bd: bigint): [bigint, bigint] => {
    const floor = an / ad
    if (floor * ad === an) return [floor, 1n]
    if (floor < bn / bd) return [floor + 1n, 1n]
    const [n, d] = between(bd, bn - floor * bd, ad, an - floor * ad)
    return [floor * n + d, n]
  }
  return quotient(...between(n1, d1, n2, d2))
}

function quotient(numerator: bigint, denominator: bigint): Speed {
  let [a, b] = [numerator, denominator]
  while (b) [a, b] = [b, a % b]
  return numerator === denominator
    ? normalSpeed
    : { numerator: Number(numerator / a), denominator: Number(denominator / a) }
}
