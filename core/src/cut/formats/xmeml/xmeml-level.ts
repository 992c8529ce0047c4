import { add, divide, type Fraction, fraction, multiply, round, subtract, toDecimal } from '../../../time/index.ts'
import { type CutEvent, exact, type Level, plain } from '../../model.ts'
import { gainOf } from '../../sound-level.ts'
import { childOf, childrenOf, isTrue, textAt, type XmlNode } from './xmeml-document.ts'
import { effectId, effectOf, parameterOf } from './xmeml-effect.ts'

/** How an item of sound runs: a frame of its own, the one of its source that is heard there, and how many for one. */
export interface LevelClock {
  readonly itemFrame: Fraction
  readonly sourceFrame: Fraction
  readonly perItemFrame: Fraction
}

/** Where a keyframe stands is kept to a thousandth of a frame: so it is written again as it was read. */
const perFrame = 1000n

/**
 * How loud an item of sound is: the amplitude of its "audiolevels", with keyframes that count frames of the item.
 * Nothing for one that is as it was recorded, or whose keyframes cannot be read: those stay in what is carried.
 */
export function levelOf(item: XmlNode, clock: LevelClock): { level?: Level } {
  const level = parameterOf(effectOf(item, 'audiolevels'), 'level')
  if (!level || !saysLevelAlone(level)) return {}
  const points = childrenOf(level, 'keyframe')
    .map((node) => ({ when: Number(textAt(node, 'when')), gain: amplitudeOf(node) as number }))
    .sort((a, b) => a.when - b.when)
    .map(({ when, gain }) => ({ sourceFrame: plain(sourceFrameAt(when, clock)), gain }))
  const gain = points[0]?.gain ?? (amplitudeOf(level) as number)
  if (points.length === 0 || clock.perItemFrame.numerator === 0n) return gain === 1 ? {} : { level: { gain } }
  return { level: { gain, points } }
}

/** How much louder or softer all that is in a nested sequence is, where that is the same all the way. */
export function outerGain(item: XmlNode): number {
  const level = parameterOf(effectOf(item, 'audiolevels'), 'level')
  return level && childrenOf(level, 'keyframe').length === 0 ? (amplitudeOf(level) ?? 1) : 1
}

/** Whether a filter says nothing but what `level` says. */
export function isPlainLevel(filter: XmlNode): boolean {
  const effect = childOf(filter, 'effect')
  const isOn = textAt(filter, 'enabled') === null || isTrue(textAt(filter, 'enabled'))
  const [level, ...others] = childrenOf(effect, 'parameter')
  return (
    effectId(effect) === 'audiolevels' &&
    isOn &&
    others.length === 0 &&
    level !== undefined &&
    level === parameterOf(effect, 'level') &&
    saysLevelAlone(level)
  )
}

const saysLevelAlone = (level: XmlNode): boolean => {
  const points = childrenOf(level, 'keyframe')
  const isRead = (node: XmlNode): boolean => amplitudeOf(node) !== null && isFrame(textAt(node, 'when'))
  return points.length ? points.every(isRead) : amplitudeOf(level) !== null
}

const isFrame = (text: string | null): boolean => text !== null && Math.abs(Number(text)) <= 1e10

function amplitudeOf(node: XmlNode): number | null {
  const text = textAt(node, 'value')
  const value = Number(text)
  return text !== null && Number.isFinite(value) && value >= 0 && value < 1e6 ? gainOf(value) : null
}

function sourceFrameAt(when: number, { itemFrame, sourceFrame, perItemFrame }: LevelClock): Fraction {
  const behind = subtract(fraction(Math.round(when * 1e6), 1_000_000), itemFrame)
  const frame = add(sourceFrame, multiply(behind, perItemFrame))
  return fraction(round(multiply(frame, fraction(perFrame))), perFrame)
}

export interface WrittenLevel {
  readonly gain: string
  readonly keyframes: readonly { readonly when: string; readonly value: string }[]
}

/** The level of an event, for the document; null for one without. */
export function writtenLevel({ level, speed, source }: CutEvent, itemFrame: number): WrittenLevel | null {
  if (!level) return null
  return {
    gain: String(level.gain),
    keyframes: (level.points ?? []).map((point) => {
      const behind = subtract(exact(point.sourceFrame), fraction(source.startFrame))
      const own = divide(behind, fraction(speed.numerator, speed.denominator))
      return { when: toDecimal(add(fraction(itemFrame), own), 9), value: String(point.gain) }
    }),
  }
}
