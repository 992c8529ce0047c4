import { canonicalJson } from '../text/index.ts'
import type { Level } from './model.ts'

/** Below this nobody hears anything: −80 dB. */
const silentGain = 1e-4

/** Levels that are so near each other are equal: lists write them with few digits. */
const tolerance = 0.1

/** A gain as lists can say it again: to six decimals. */
export const gainOf = (amplitude: number): number => Math.round(amplitude * 1e6) / 1e6

/** A gain in decibels; null for silence. */
const decibelsOf = (gain: number): number | null => (gain < silentGain ? null : 20 * Math.log10(gain))

function sameGain(a: number, b: number): boolean {
  const [first, second] = [decibelsOf(a), decibelsOf(b)]
  if (first === null || second === null) return first === second
  return Math.abs(first - second) <= tolerance + 1e-9
}

/** Whether sound is as loud in one list as in another, all the way; one that says nothing has it as it was recorded. */
export function sameLevel(a: Level | undefined, b: Level | undefined): boolean {
  const [was, is] = [a?.points ?? [], b?.points ?? []]
  if (!sameGain(a?.gain ?? 1, b?.gain ?? 1) || was.length !== is.length) return false
  return was.every((point, index) => {
    const other = is[index] as (typeof is)[number]
    return canonicalJson(point.sourceFrame) === canonicalJson(other.sourceFrame) && sameGain(point.gain, other.gain)
  })
}

/** Whether sound is as loud as it was recorded, all the way. */
export const isAsRecorded = (level: Level | undefined): boolean => sameLevel(level, undefined)

/** A level in words: "−6.0 dB", "silent", "−6.0 dB at first, 3 keyframes". */
export function levelWords(level: Level | undefined): string {
  const decibels = decibelsOf(level?.gain ?? 1)
  const words = decibels === null ? 'silent' : `${signed(decibels)} dB`
  return level?.points ? `${words} at first, ${level.points.length} keyframes` : words
}

function signed(decibels: number): string {
  const text = Math.abs(decibels).toFixed(1)
  return text === '0.0' ? text : `${decibels < 0 ? '−' : '+'}${text}`
}

/** A level within something that has one of its own; undefined for sound that is as it was recorded. */
export function timesLevel(level: Level | undefined, outer: number): Level | undefined {
  const gain = gainOf((level?.gain ?? 1) * outer)
  const points = level?.points?.map((point) => ({ ...point, gain: gainOf(point.gain * outer) }))
  return gain === 1 && !points ? undefined : { gain, ...(points && { points }) }
}
