import { baseName } from '../../naming/index.ts'
import {
  ceiling,
  divide,
  type Fraction,
  fraction,
  isWhole,
  multiply,
  type Rate,
  rateAsFraction,
  rateFromDecimal,
  round,
  add as sum,
} from '../../time/index.ts'
import {
  type Cut,
  type CutEvent,
  CutFormatError,
  mediaFrames,
  normalSpeed,
  type Speed,
  type Transition,
} from '../model.ts'
import type { CutFormat, ReadOptions } from './format.ts'
import { speedOfNumber } from './motion-speed.ts'
import { writeOtio } from './write-otio.ts'

/**
 * OpenTimelineIO JSON: a Timeline of Tracks of Clips, Gaps and Transitions (schemas Timeline.1, Stack.1, Track.1,
 * Clip.1 and .2).
 */
export const otio: CutFormat = {
  id: 'otio',
  name: 'OTIO',
  extension: '.otio',
  recognises: (fileName, text) => /\.otio$/i.test(fileName) || /^\s*\{[\s\S]{0,2000}"OTIO_SCHEMA"/.test(text),
  read: (text, options) => new OtioReader(options).read(text),
  write: writeOtio,
}

type Json = Record<string, unknown>

interface ExactTime {
  /** Frames at `rate`; a fraction when the file has one. */
  value: Fraction
  rate: Rate
}

class OtioReader {
  readonly #options: ReadOptions
  readonly #events: CutEvent[] = []
  #number = 0

  constructor(options: ReadOptions) {
    this.#options = options
  }

  read(text: string): Cut {
    let root: unknown
    try {
      root = JSON.parse(text.replace(/^\uFEFF/, ''))
    } catch (error) {
      throw new CutFormatError('the file', `it is not JSON: ${(error as Error).message}`)
    }
    const timeline = this.#object(root, 'the file')
    this.#expectSchema(timeline, ['Timeline'], 'the file')
    const stack = this.#object(timeline.tracks, 'tracks')
    this.#expectSchema(stack, ['Stack'], 'tracks')
    const start =
      timeline.global_start_time == null ? null : this.#time(timeline.global_start_time, 'global_start_time')
    const children = this.#array(stack.children, 'tracks.children')
    const rate = start?.rate ?? this.#firstRecordRate(children) ?? this.#options.rate
    const offset = start ? start.value : fraction(0)
    const counts = { V: 0, A: 0 }
    const tracks = children.map((child, index) => {
      const location = `tracks.children[${index}]`
      const track = this.#object(child, location)
      this.#expectSchema(track, ['Track'], location)
      const kind = track.kind === 'Audio' ? ('sound' as const) : ('picture' as const)
      const letter = kind === 'sound' ? 'A' : 'V'
      const name = `${letter}${++counts[letter]}`
      this.#readTrack(track, name, kind, rate, offset, location)
      return { name, kind }
    })
    if (this.#events.length === 0) throw new CutFormatError('tracks', 'there is no clip in this timeline.')
    const dropFrame = (this.#metadata(timeline, 'ennick').dropFrame as boolean | undefined) === true
    return {
      name:
        typeof timeline.name === 'string' && timeline.name
          ? timeline.name
          : this.#options.fileName.replace(/\.otio$/i, ''),
      rate,
      dropFrame,
      tracks,
      events: this.#events,
    }
  }

  /** Without a global start the first length on a track of gaps and clips tells the rate at which the record counts. */
  #firstRecordRate(children: unknown[]): Rate | null {
    for (const [index, child] of children.entries()) {
      const items = (child as Json | null)?.children
      if (!Array.isArray(items)) continue
      for (const [at, item] of items.entries()) {
        const range = (item as Json | null)?.source_range as Json | null | undefined
        if (range?.duration)
          return this.#time(range.duration, `tracks.children[${index}].children[${at}].source_range.duration`).rate
      }
    }
    return null
  }

  #readTrack(
    track: Json,
    name: string,
    kind: 'picture' | 'sound',
    rate: Rate,
    start: Fraction,
    location: string,
  ): void {
    let at = start
    let transition: { readonly into: Fraction; readonly event: Transition } | null = null
    const children = this.#array(track.children, `${location}.children`)
    for (const [index, value] of children.entries()) {
      const place = `${location}.children[${index}]`
      const item = this.#object(value, place)
      const schema = this.#expectSchema(item, ['Clip', 'Gap', 'Transition', 'Stack', 'Track'], place)
      if (schema === 'Stack' || schema === 'Track')
        throw new CutFormatError(
          place,
          'a nested sequence is not read: flatten it in the cutting room, and export again.',
        )
      if (schema === 'Transition') {
        // It begins before the cut, by the first offset, and ends behind it, by the second (OTIO, "Transition"). Here
        // an event begins where its transition does, as in a CMX 3600 list.
        const into = this.#time(item.in_offset, `${place}.in_offset`)
        const out = this.#time(item.out_offset, `${place}.out_offset`)
        const frames = sum(this.#at(into, rate), this.#at(out, rate))
        const event = { kind: 'dissolve', wipeCode: null, durationFrames: Number(round(frames)) } as const
        transition = { into: this.#at(into, rate), event }
        continue
      }
      const range = item.source_range == null ? null : this.#range(item.source_range, `${place}.source_range`)
      const reference = schema === 'Clip' ? this.#reference(item, place) : null
      const available =
        reference?.available_range == null
          ? null
          : this.#range(reference.available_range, `${place}.media_reference.available_range`)
      const shown = range ?? available
      if (!shown) throw new CutFormatError(place, 'neither source_range nor available_range says how long it is.')
      const end = sum(at, this.#at(shown.duration, rate))
      if (schema === 'Clip') {
        const read = { name, kind, place, transition: transition?.event ?? null, start: at, end }
        const event = this.#event(item, reference, shown, available, read)
        // Before the beginning of a track there is nothing to go over from.
        const room = event.record.startFrame - Number(round(start))
        const early = transition ? Math.min(room, Number(round(transition.into))) : 0
        if (early > 0) this.#endEarlier(name, event, early, rate)
        this.#events.push(early > 0 ? beginEarlier(event, early, rate) : event)
      }
      transition = null
      at = end
    }
  }

  /** What goes before a transition ends where that begins; what the transition shows of it is lent to it. */
  #endEarlier(track: string, { record, location }: CutEvent, early: number, rate: Rate): void {
    const before = this.#events.at(-1)
    const cutFrame = record.startFrame
    if (!before || before.track !== track || before.record.endFrame !== cutFrame) return
    if (early >= before.record.endFrame - before.record.startFrame)
      throw new CutFormatError(location, 'the transition into it begins before the clip that it goes over from.')
    const frames = mediaFrames(early, before.speed, before.sourceRate, rate)
    this.#events[this.#events.length - 1] = {
      ...before,
      record: { ...before.record, endFrame: cutFrame - early },
      source: { ...before.source, endFrame: before.source.endFrame - frames },
    }
  }

  #event(
    item: Json,
    reference: Json | null,
    shown: { start: ExactTime; duration: ExactTime },
    available: { start: ExactTime } | null,
    at: {
      name: string
      kind: 'picture' | 'sound'
      place: string
      transition: Transition | null
      start: Fraction
      end: Fraction
    },
  ): CutEvent {
    const sourceRate = shown.start.rate
    const startFrame = this.#whole(shown.start.value, `${at.place}.source_range.start_time`)
    const speed = this.#speed(item, at.place)
    // The length is what the clip takes of the record; a warp shows more or fewer frames of the medium in it.
    const frames =
      speed.numerator === speed.denominator
        ? this.#whole(this.#at(shown.duration, sourceRate), `${at.place}.source_range.duration`)
        : Number(ceiling(multiply(this.#at(shown.duration, sourceRate), sizeOf(speed))))
    if (frames <= 0) throw new CutFormatError(`${at.place}.source_range.duration`, 'a clip lasts at least one frame.')
    const url = typeof reference?.target_url === 'string' ? reference.target_url : null
    return {
      number: String(++this.#number).padStart(3, '0'),
      track: at.name,
      kind: at.kind,
      clipName: typeof item.name === 'string' && item.name ? item.name : url ? baseName(url) : null,
      reel: this.#reelOf(item, reference),
      path: url,
      source: { startFrame, endFrame: startFrame + frames },
      sourceRate,
      mediumStartFrame: available ? Number(round(this.#at(available.start, sourceRate))) : null,
      record: { startFrame: Number(round(at.start)), endFrame: Number(round(at.end)) },
      transition: at.transition,
      speed,
      notes: [],
      location: at.place,
    }
  }

  /** The reel that a list gives: under the names that are agreed upon first, then under any that means one. */
  #reelOf(item: Json, reference: Json | null | undefined): string | null {
    const places = reference ? [item, reference] : [item]
    const agreed = places.flatMap((holder) => ['cmx_3600', 'ennick'].map((key) => this.#metadata(holder, key).reel))
    const others = places.flatMap((holder) =>
      Object.keys((holder.metadata as Json | null | undefined) ?? {}).flatMap((key) =>
        Object.entries(this.#metadata(holder, key)).flatMap(([word, value]) => (meansReel(word) ? [value] : [])),
      ),
    )
    const reel = [...agreed, ...others].find((value) => typeof value === 'string' && value.trim() !== '')
    return (reel as string | undefined) ?? null
  }

  #speed(item: Json, place: string): Speed {
    const effects = item.effects == null ? [] : this.#array(item.effects, `${place}.effects`)
    for (const [index, value] of effects.entries()) {
      const effect = this.#object(value, `${place}.effects[${index}]`)
      const schema = typeof effect.OTIO_SCHEMA === 'string' ? effect.OTIO_SCHEMA : ''
      if (schema.startsWith('FreezeFrame.')) return { numerator: 0, denominator: 1 }
      if (!schema.startsWith('LinearTimeWarp.')) continue
      const scalar = effect.time_scalar
      if (typeof scalar !== 'number' || !Number.isFinite(scalar) || Math.abs(scalar) > mostSpeed)
        throw new CutFormatError(`${place}.effects[${index}].time_scalar`, 'it is no speed.')
      return speedOfNumber(scalar)
    }
    return normalSpeed
  }

  #reference(item: Json, place: string): Json | null {
    if (item.media_references != null) {
      const all = this.#object(item.media_references, `${place}.media_references`)
      const key =
        typeof item.active_media_reference_key === 'string' ? item.active_media_reference_key : 'DEFAULT_MEDIA'
      return all[key] == null ? null : this.#object(all[key], `${place}.media_references.${key}`)
    }
    return item.media_reference == null ? null : this.#object(item.media_reference, `${place}.media_reference`)
  }

  #range(value: unknown, location: string): { start: ExactTime; duration: ExactTime } {
    const range = this.#object(value, location)
    return {
      start: this.#time(range.start_time, `${location}.start_time`),
      duration: this.#time(range.duration, `${location}.duration`),
    }
  }

  #time(value: unknown, location: string): ExactTime {
    const time = this.#object(value, location)
    const rate = typeof time.rate === 'number' ? rateFromDecimal(time.rate) : undefined
    if (!rate)
      throw new CutFormatError(location, `${JSON.stringify(time.rate)} is no frame rate that can be counted exactly.`)
    // A year of frames at any rate is far below the limit; what lies beyond is no time but a fault.
    if (typeof time.value !== 'number' || !Number.isFinite(time.value) || Math.abs(time.value) > 1e10) {
      throw new CutFormatError(location, `${JSON.stringify(time.value)} is not a number of frames.`)
    }
    // Sound is cut between frames; a millionth of a frame is far below a sample.
    return { value: fraction(BigInt(Math.round(time.value * 1_000_000)), 1_000_000n), rate }
  }

  /** A time in frames of another rate, exactly. */
  #at(time: ExactTime, rate: Rate): Fraction {
    return multiply(time.value, divide(rateAsFraction(rate), rateAsFraction(time.rate)))
  }

  #whole(value: Fraction, location: string): number {
    if (!isWhole(value))
      throw new CutFormatError(location, 'it falls between two frames, which no picture or timecode can.')
    return Number(value.numerator)
  }

  #metadata(item: Json, key: string): Json {
    const metadata = item.metadata as Json | null | undefined
    const inner = metadata?.[key]
    return inner !== null && typeof inner === 'object' ? (inner as Json) : {}
  }

  #object(value: unknown, location: string): Json {
    if (value === null || typeof value !== 'object' || Array.isArray(value))
      throw new CutFormatError(location, 'an object is needed here.')
    return value as Json
  }

  #array(value: unknown, location: string): unknown[] {
    if (!Array.isArray(value)) throw new CutFormatError(location, 'a list is needed here.')
    return value
  }

  #expectSchema(item: Json, names: string[], location: string): string {
    const name = typeof item.OTIO_SCHEMA === 'string' ? (item.OTIO_SCHEMA.split('.')[0] as string) : ''
    if (!names.includes(name))
      throw new CutFormatError(
        location,
        `its OTIO_SCHEMA is ${JSON.stringify(item.OTIO_SCHEMA ?? null)}; ${names.join(' or ')} is read here.`,
      )
    return name
  }
}

/** Nothing is played faster: beyond it a number is no speed but a fault. */
const mostSpeed = 100_000

/** The share of the medium's frames that a speed shows; a held frame is one, whose length is the record's. */
const sizeOf = ({ numerator, denominator }: Speed): Fraction =>
  numerator === 0 ? fraction(1) : fraction(BigInt(Math.abs(numerator)), BigInt(denominator))

/** An event that begins some record frames earlier, and shows as many more of its medium before what it shows. */
function beginEarlier(event: CutEvent, early: number, rate: Rate): CutEvent {
  const frames = mediaFrames(early, event.speed, event.sourceRate, rate) * (event.speed.numerator < 0 ? -1 : 1)
  return {
    ...event,
    record: { ...event.record, startFrame: event.record.startFrame - early },
    source: { ...event.source, startFrame: event.source.startFrame - frames },
  }
}

/** Words by which programs keep a reel in metadata of their own, whatever their case and separators. */
const reelWords = new Set(['reel', 'reelname', 'reelnumber', 'tape', 'tapename', 'sourcetape'])
const meansReel = (word: string): boolean => reelWords.has(word.toLowerCase().replace(/[ _-]/g, ''))
