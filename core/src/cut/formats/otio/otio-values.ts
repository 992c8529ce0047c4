import {
  divide,
  type Fraction,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  rateFromDecimal,
} from '../../../time/index.ts'
import { CutFormatError } from '../../model.ts'

export type Json = Record<string, unknown>

export interface ExactTime {
  /** Frames at `rate`; a fraction when the file has one. */
  readonly value: Fraction
  readonly rate: Rate
}

export interface ExactTimeRange {
  readonly start: ExactTime
  readonly duration: ExactTime
}

export function readObject(value: unknown, location: string): Json {
  if (value === null || typeof value !== 'object' || Array.isArray(value))
    throw new CutFormatError(location, 'an object is needed here.')
  return value as Json
}

export function readArray(value: unknown, location: string): unknown[] {
  if (!Array.isArray(value)) throw new CutFormatError(location, 'a list is needed here.')
  return value
}

/** The name of an item's schema without its version; empty where it says none. */
export function schemaOf(item: unknown): string {
  const said = item !== null && typeof item === 'object' ? (item as Json).OTIO_SCHEMA : null
  return typeof said === 'string' ? (said.split('.')[0] as string) : ''
}

/** The same, which has to be one of some. */
export function expectSchema(item: Json, names: readonly string[], location: string): string {
  const name = schemaOf(item)
  if (!names.includes(name))
    throw new CutFormatError(
      location,
      `its OTIO_SCHEMA is ${JSON.stringify(item.OTIO_SCHEMA ?? null)}; ${names.join(' or ')} is read here.`,
    )
  return name
}

export function readRange(value: unknown, location: string): ExactTimeRange {
  const range = readObject(value, location)
  return {
    start: readTime(range.start_time, `${location}.start_time`),
    duration: readTime(range.duration, `${location}.duration`),
  }
}

export function readTime(value: unknown, location: string): ExactTime {
  const time = readObject(value, location)
  const rate = typeof time.rate === 'number' ? rateFromDecimal(time.rate) : undefined
  if (!rate)
    throw new CutFormatError(location, `${JSON.stringify(time.rate)} is no frame rate that can be counted exactly.`)
  // A year of frames at any rate is far below the limit; what lies beyond is no time but a fault.
  if (typeof time.value !== 'number' || !Number.isFinite(time.value) || Math.abs(time.value) > 1e10)
    throw new CutFormatError(location, `${JSON.stringify(time.value)} is not a number of frames.`)
  // Sound is cut between frames; a millionth of a frame is far below a sample.
  return { value: fraction(BigInt(Math.round(time.value * 1_000_000)), 1_000_000n), rate }
}

/** A time in frames of another rate, exactly. */
export const atRate = (time: ExactTime, rate: Rate): Fraction =>
  multiply(time.value, divide(rateAsFraction(rate), rateAsFraction(time.rate)))

/** What programs keep under a name of their own; empty where there is nothing. */
export function metadataOf(item: Json, key: string): Json {
  const metadata = item.metadata as Json | null | undefined
  const inner = metadata?.[key]
  return inner !== null && typeof inner === 'object' ? (inner as Json) : {}
}
