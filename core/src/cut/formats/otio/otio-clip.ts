import { baseName, pathOfReference } from '../../../naming/index.ts'
import { type Fraction, isWhole, type Rate, round, sameRate } from '../../../time/index.ts'
import {
  type Carried,
  type CutEvent,
  CutFormatError,
  type Level,
  normalSpeed,
  type PlainFraction,
  type Speed,
} from '../../model.ts'
import { speedOfNumber } from '../edl/motion-speed.ts'
import { type Placed, product } from '../placing.ts'
import { meansReel } from '../reel-words.ts'
import {
  atRate,
  type ExactTimeRange,
  type Json,
  metadataOf,
  readArray,
  readObject,
  readRange,
  schemaOf,
} from './otio-values.ts'

export interface OtioClip {
  /** What it takes of the record. */
  readonly frames: Fraction
  /** Null for a generator. */
  readonly placed: Omit<Placed, 'start' | 'end'> | null
  readonly generator: string | null
  /** What is wrong with it, although its length is known and everything behind it stands where it stands. */
  readonly fault: CutFormatError | null
}

/**
 * Reads a clip of a track.
 * @throws CutFormatError for one that does not say how long it is
 */
export function readOtioClip(item: Json, kind: 'picture' | 'sound', place: string, recordRate: Rate): OtioClip {
  const reference = referenceOf(item, place)
  const available =
    reference?.available_range == null
      ? null
      : readRange(reference.available_range, `${place}.media_reference.available_range`)
  const shown = item.source_range == null ? available : readRange(item.source_range, `${place}.source_range`)
  if (!shown) throw new CutFormatError(place, 'neither source_range nor available_range says how long it is.')
  const frames = atRate(shown.duration, recordRate)
  const none = { frames, placed: null, generator: null, fault: null }
  if (schemaOf(reference) === 'GeneratorReference') return { ...none, generator: nameOf(item) ?? 'generator' }
  try {
    return { ...none, placed: placedOf(item, reference, shown, { available, kind, place }) }
  } catch (error) {
    if (error instanceof CutFormatError) return { ...none, fault: error }
    throw error
  }
}

function placedOf(
  item: Json,
  reference: Json | null,
  shown: ExactTimeRange,
  at: { available: ExactTimeRange | null; kind: 'picture' | 'sound'; place: string },
): Omit<Placed, 'start' | 'end'> {
  const { place, kind, available } = at
  const sourceRate = shown.start.rate
  const speed = speedOf(item, place)
  const isPlain = speed.numerator === speed.denominator
  const sourceFrames = isPlain ? atRate(shown.duration, sourceRate) : null
  if (shown.duration.value.numerator <= 0n)
    throw new CutFormatError(`${place}.source_range.duration`, 'a clip lasts at least one frame.')
  if (kind === 'picture') {
    assertWhole(shown.start.value, `${place}.source_range.start_time`)
    if (sourceFrames && sameRate(shown.duration.rate, sourceRate))
      assertWhole(sourceFrames, `${place}.source_range.duration`)
  }
  const path = pathOf(reference)
  const own = metadataOf(item, 'ennick')
  const notes = Array.isArray(own.notes) ? own.notes.filter((note): note is string => typeof note === 'string') : []
  const medium = available && Number(round(atRate(available.start, sourceRate)))
  const event: Placed['event'] = {
    kind,
    clipName: nameOf(item) ?? (path === null ? null : baseName(path)),
    reel: reelOf(item, reference),
    path,
    sourceRate,
    ...(typeof own.sourceDropFrame === 'boolean' && { sourceDropFrame: own.sourceDropFrame }),
    mediumStartFrame: medium,
    transition: null,
    speed,
    ...(item.enabled === false && { isDisabled: true as const }),
    ...keyOf(own),
    ...(typeof own.sourceChannel === 'number' && { sourceChannel: own.sourceChannel }),
    ...levelOf(own),
    notes,
    location: place,
    ...carriedOf(item, reference),
  }
  const number = typeof own.event === 'string' && own.event !== '' ? own.event : null
  return { number, event, sourceStart: shown.start.value, sourceFrames }
}

function keyOf(own: Json): Pick<CutEvent, 'key'> {
  const key = own.key as CutEvent['key'] | undefined
  const isKey =
    key && /^(background|foreground|foreground out)$/.test(String(key.part)) && Number.isInteger(key.durationFrames)
  return isKey ? { key: { part: key.part, durationFrames: key.durationFrames } } : {}
}

function levelOf({ level }: Json): Pick<CutEvent, 'level'> {
  const { gain, points } = (level ?? {}) as { gain?: unknown; points?: unknown }
  if (!isGain(gain) || (points !== undefined && !Array.isArray(points))) return {}
  const read = points?.map((point: Json) => ({ sourceFrame: point?.sourceFrame as PlainFraction, gain: point?.gain }))
  const isRead = (read ?? []).every(
    ({ sourceFrame, gain: at }) =>
      isGain(at) &&
      Number.isSafeInteger(sourceFrame?.numerator) &&
      Number.isSafeInteger(sourceFrame?.denominator) &&
      sourceFrame.denominator > 0,
  )
  return isRead ? { level: { gain, ...(read && { points: read as Required<Level>['points'] }) } } : {}
}

const isGain = (value: unknown): value is number => typeof value === 'number' && Number.isFinite(value) && value >= 0

/** What only OTIO can say: metadata of other programs, effects, markers. */
function carriedOf(item: Json, reference: Json | null): { carried?: Carried } {
  const { ennick: _, cmx_3600: __, ...metadata } = (item.metadata as Json | null | undefined) ?? {}
  const { ennick: ___, ...ofMedia } = (reference?.metadata as Json | null | undefined) ?? {}
  const effects = (Array.isArray(item.effects) ? item.effects : []).filter((effect) => !isTimeEffect(effect))
  const markers = Array.isArray(item.markers) ? item.markers : []
  const parts = {
    ...(Object.keys(metadata).length && { metadata }),
    ...(Object.keys(ofMedia).length && { ofMedia }),
    ...(effects.length && { effects }),
    ...(markers.length && { markers }),
  }
  return Object.keys(parts).length ? { carried: { format: 'otio', parts } } : {}
}

const isTimeEffect = (effect: unknown): boolean => ['LinearTimeWarp', 'FreezeFrame'].includes(schemaOf(effect))

const nameOf = (item: Json): string | null => (typeof item.name === 'string' && item.name ? item.name : null)

function assertWhole(value: Fraction, location: string): void {
  if (!isWhole(value))
    throw new CutFormatError(location, 'it falls between two frames, which no picture or timecode can.')
}

/** Where the medium is; numbered stills by the path that stands for all of them. */
function pathOf(reference: Json | null): string | null {
  if (!reference) return null
  if (schemaOf(reference) === 'ImageSequenceReference') {
    const text = (value: unknown): string => (typeof value === 'string' ? value : '')
    const base = pathOfReference(text(reference.target_url_base))
    const digits = Number(reference.frame_zero_padding) || 1
    const name = `${text(reference.name_prefix)}${'#'.repeat(Math.min(digits, 20))}${text(reference.name_suffix)}`
    // A number sign in a URL would begin its fragment.
    return base === '' || base.endsWith('/') ? `${base}${name}` : `${base}/${name}`
  }
  const { target_url: url } = reference
  return typeof url === 'string' && url ? pathOfReference(url) : null
}

function referenceOf(item: Json, place: string): Json | null {
  if (item.media_references != null) {
    const all = readObject(item.media_references, `${place}.media_references`)
    const key = typeof item.active_media_reference_key === 'string' ? item.active_media_reference_key : 'DEFAULT_MEDIA'
    return all[key] == null ? null : readObject(all[key], `${place}.media_references.${key}`)
  }
  return item.media_reference == null ? null : readObject(item.media_reference, `${place}.media_reference`)
}

/** The reel that a list gives: under the names that are agreed upon first, then under any that means one. */
function reelOf(item: Json, reference: Json | null): string | null {
  const places = reference ? [item, reference] : [item]
  const agreed = places.flatMap((holder) => ['cmx_3600', 'ennick'].map((key) => metadataOf(holder, key).reel))
  const others = places.flatMap((holder) =>
    Object.keys((holder.metadata as Json | null | undefined) ?? {}).flatMap((key) =>
      Object.entries(metadataOf(holder, key)).flatMap(([word, value]) => (meansReel(word) ? [value] : [])),
    ),
  )
  const reel = [...agreed, ...others].find((value) => typeof value === 'string' && value.trim() !== '')
  return (reel as string | undefined) ?? null
}

/** Nothing is played faster: beyond it a number is no speed but a fault. */
const mostSpeed = 100_000

/** Its speed after all of its time effects, one upon the other. */
export function speedOf(item: Json, place: string): Speed {
  const effects = item.effects == null ? [] : readArray(item.effects, `${place}.effects`)
  let speed = normalSpeed
  for (const [index, value] of effects.entries()) {
    const effect = readObject(value, `${place}.effects[${index}]`)
    const schema = schemaOf(effect)
    if (schema === 'FreezeFrame') return { numerator: 0, denominator: 1 }
    if (schema === 'TimeEffect')
      throw new CutFormatError(`${place}.effects[${index}]`, 'its time effect says no speed.')
    if (schema !== 'LinearTimeWarp') continue
    const scalar = effect.time_scalar
    if (typeof scalar !== 'number' || !Number.isFinite(scalar) || Math.abs(scalar) > mostSpeed)
      throw new CutFormatError(`${place}.effects[${index}].time_scalar`, 'it is no speed.')
    const exact = metadataOf(effect, 'ennick').speed as Speed | undefined
    const isExact =
      Number.isSafeInteger(exact?.numerator) &&
      Number.isSafeInteger(exact?.denominator) &&
      (exact as Speed).denominator > 0 &&
      Math.abs((exact as Speed).numerator / (exact as Speed).denominator - scalar) < 1e-9
    const one = isExact ? (exact as Speed) : speedOfNumber(scalar)
    speed = speed === normalSpeed ? one : product(speed, one)
  }
  return speed
}
