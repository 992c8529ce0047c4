import {
  add,
  ceiling,
  divide,
  type Fraction,
  fraction,
  isWhole,
  multiply,
  type Rate,
  rateAsFraction,
  round,
  subtract,
  toDecimal,
} from '../../../time/index.ts'
import type { CutEvent } from '../../model.ts'

export interface WrittenSpeed {
  readonly percent: string
  readonly isReversed: boolean
  readonly keyframes: readonly { readonly when: string; readonly value: string }[] | null
}

export interface WrittenMotion {
  readonly in: number
  /** Of the item, as retimed. */
  readonly frames: number
  readonly duration: number
  readonly isHeld: boolean
  readonly speed: WrittenSpeed | null
}

/** A retimed item counts its own frames: at twice the speed a medium of 100 frames is an item of 50. */
export function writtenMotion(
  event: CutEvent,
  file: { readonly startFrame: number; readonly frames: number },
  lentFrames: number,
  recordRate: Rate,
): WrittenMotion {
  const { speed, source, sourceRate } = event
  const offset = source.startFrame - file.startFrame
  const perRecord = divide(rateAsFraction(sourceRate), rateAsFraction(recordRate))
  const inItem = (recordFrames: number): number => Number(round(multiply(fraction(recordFrames), perRecord)))
  const recordFrames = event.record.endFrame - event.record.startFrame
  const isPlain = speed.numerator === speed.denominator
  const frames = isPlain
    ? source.endFrame - source.startFrame + halfDown(multiply(fraction(lentFrames), perRecord))
    : inItem(recordFrames + lentFrames)
  const plain = { in: offset, frames, duration: file.frames, isHeld: false, speed: null }
  if (isPlain) return plain
  if (speed.numerator === 0) return { ...plain, isHeld: true }
  const size = fraction(Math.abs(speed.numerator), speed.denominator)
  const isReversed = speed.numerator < 0
  const exactIn = divide(fraction(isReversed ? file.frames - 1 - offset : offset), size)
  const start = Number(round(exactIn))
  const percent = multiply(size, fraction(100))
  const isSaid = isWhole(exactIn) && isShort(percent)
  const end = start + frames
  const valueAt = (when: number): Fraction => {
    const shown = multiply(fraction(when - start), size)
    return isReversed ? subtract(fraction(offset), shown) : add(fraction(offset), shown)
  }
  return {
    in: start,
    frames,
    duration: Math.max(end, Number(round(divide(fraction(file.frames), size)))),
    isHeld: false,
    speed: {
      percent: toDecimal(percent, 6),
      isReversed,
      keyframes: isSaid
        ? null
        : [start, end].map((when) => ({ when: String(when), value: toDecimal(valueAt(when), 12) })),
    },
  }
}

/** Whether six decimals say it exactly. */
const isShort = (value: Fraction): boolean => 1_000_000n % value.denominator === 0n

/** The nearest integer; a half goes down, so that what is left goes up to what it was. */
const halfDown = (value: Fraction): number => Number(ceiling(subtract(value, fraction(1, 2))))
