import { add, type Fraction, fraction } from './fraction.ts'
import { allowsDropFrame, formatRate, nominalFramesPerSecond, type Rate } from './rate.ts'

/** A text that is no timecode at the rate it was read with. The message names the text and the reason. */
export class TimecodeError extends Error {
  override readonly name = 'TimecodeError'
}

/** Frames in 24 hours of timecode at a rate: counting wraps there (SMPTE ST 12-1, 5.2). */
export function framesPerDay(rate: Rate, drop: boolean): number {
  const nominal = nominalFramesPerSecond(rate)
  return nominal * 86_400 - (drop ? droppedPerMinute(rate) * 9 * 6 * 24 : 0)
}

/** The frames of the whole days before a frame, whose label is that of its own day. */
export function framesOfDaysBefore(frame: number, rate: Rate, drop: boolean): number {
  const day = framesPerDay(rate, drop)
  return Math.floor(frame / day) * day
}

/** Labels skipped at each minute that is no tenth: 2 at 30000/1001, 4 at 60000/1001. */
const droppedPerMinute = (rate: Rate): number => nominalFramesPerSecond(rate) / 15

/**
 * Reads a timecode label as a count of frames since midnight.
 * Separators may be ":", ";" or "."; ";" or "." before the frames means drop-frame unless `drop` says otherwise.
 * @throws TimecodeError for a malformed label, a field out of range, drop-frame at a rate that has none,
 * or a label that drop-frame counting skips.
 */
export function parseTimecode(text: string, rate: Rate, drop?: boolean): number {
  const match = /^(\d{1,2})[:;.](\d{2})[:;.](\d{2})([:;.,])(\d{2,3})$/.exec(text.trim())
  if (!match) throw new TimecodeError(`"${text}" is not a timecode: it should read like 01:00:00:00.`)
  const [hours, minutes, seconds, frames] = [match[1], match[2], match[3], match[5]].map(Number) as [
    number,
    number,
    number,
    number,
  ]
  const nominal = nominalFramesPerSecond(rate)
  if (hours > 23) throw new TimecodeError(`"${text}" has hour ${hours}: timecode ends at 23.`)
  if (minutes > 59) throw new TimecodeError(`"${text}" has minute ${minutes}: the last is 59.`)
  if (seconds > 59) throw new TimecodeError(`"${text}" has second ${seconds}: the last is 59.`)
  if (frames >= nominal)
    throw new TimecodeError(`"${text}" has frame ${frames}: at ${formatRate(rate)} the last is ${nominal - 1}.`)
  const counted = ((hours * 60 + minutes) * 60 + seconds) * nominal + frames
  if (!(drop ?? isDropLabel(text))) return counted
  if (!allowsDropFrame(rate))
    throw new TimecodeError(`"${text}" is drop-frame, which ${formatRate(rate)} frames per second does not have.`)
  const skipped = droppedPerMinute(rate)
  if (minutes % 10 !== 0 && seconds === 0 && frames < skipped) {
    throw new TimecodeError(`"${text}" does not exist: drop-frame counting skips it.`)
  }
  const totalMinutes = hours * 60 + minutes
  return counted - skipped * (totalMinutes - Math.floor(totalMinutes / 10))
}

/** Whether a label is written in the drop-frame way, with ";" or "." before the frames. */
export const isDropLabel = (text: string): boolean => /[;.,]\d{2,3}$/.test(text.trim())

/**
 * Writes a count of frames as a label, "HH:MM:SS:FF", with ";" before the frames for drop-frame.
 * Counts below zero or beyond a day wrap around midnight.
 * @throws TimecodeError for drop-frame at a rate that has none, or a count that is no safe integer.
 */
export function formatTimecode(frames: number, rate: Rate, drop = false): string {
  if (!Number.isSafeInteger(frames)) throw new TimecodeError(`${frames} is not a whole number of frames.`)
  if (drop && !allowsDropFrame(rate))
    throw new TimecodeError(`${formatRate(rate)} frames per second has no drop-frame timecode.`)
  const nominal = nominalFramesPerSecond(rate)
  const day = framesPerDay(rate, drop)
  let count = ((frames % day) + day) % day
  if (drop) {
    const skipped = droppedPerMinute(rate)
    const perMinute = nominal * 60 - skipped
    const perTenMinutes = perMinute * 10 + skipped
    const tens = Math.floor(count / perTenMinutes)
    const rest = count % perTenMinutes
    count += skipped * 9 * tens
    if (rest >= nominal * 60) count += skipped * (1 + Math.floor((rest - nominal * 60) / perMinute))
  }
  const two = (value: number): string => String(value).padStart(2, '0')
  const totalSeconds = Math.floor(count / nominal)
  const frame = String(count % nominal).padStart(nominal > 100 ? 3 : 2, '0')
  return `${two(Math.floor(totalSeconds / 3600))}:${two(Math.floor(totalSeconds / 60) % 60)}:${two(totalSeconds % 60)}${drop ? ';' : ':'}${frame}`
}

/** A number of frames in words with their time: "128 frames (5.12 s)" without ever computing in seconds elsewhere. */
export function formatFrameCount(frames: number, rate: Rate): string {
  const seconds = (frames * rate.denominator) / rate.numerator
  return `${frames} ${Math.abs(frames) === 1 ? 'frame' : 'frames'} (${seconds.toFixed(2)} s)`
}

/**
 * The same label in frames of another rate: 10:00:00:00 is 864,000 frames at 23.976 and at 24, and another real time.
 * Frames within the second are scaled. A conform matches labels; a sync matches real time.
 * @param drop whether the label is drop-frame; it stays so where the other rate has that
 */
export function sameLabel(frame: number, from: Rate, to: Rate, drop: boolean): Fraction {
  const label = /^(.*)[:;](\d+)$/.exec(formatTimecode(frame, from, drop)) as unknown as [string, string, string]
  const [, second, frames] = label
  const dropsThere = drop && allowsDropFrame(to)
  const day = framesPerDay(from, drop)
  const days = Math.floor(frame / day)
  const scaled = fraction(Number(frames) * nominalFramesPerSecond(to), nominalFramesPerSecond(from))
  // The labels that are skipped at the top of a minute are counted from behind it.
  const top = dropsThere && /:00$/.test(second) && !/[0-9]:.0:00$/.test(second) ? droppedPerMinute(to) : 0
  const start = parseTimecode(`${second}${dropsThere ? ';' : ':'}${String(top).padStart(2, '0')}`, to, dropsThere) - top
  return add(fraction(start + days * framesPerDay(to, dropsThere)), scaled)
}
