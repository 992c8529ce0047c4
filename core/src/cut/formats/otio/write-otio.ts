import { fileName, fileUrl } from '../../../naming/index.ts'
import {
  add,
  ceiling,
  compare,
  divide,
  type Fraction,
  formatTimecode,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  subtract,
  toNumber,
} from '../../../time/index.ts'
import { type Cut, type CutEvent, exact, type Generator, type Transition } from '../../model.ts'
import { asCarried } from '../carries.ts'

type Json = Record<string, unknown>

/** Of markers that say no colour (OTIO, "Marker"). */
export const plainColour = 'GREEN'

/**
 * Writes a cut as an OTIO timeline (schemas Timeline.1, Stack.1, Track.1, Gap.1, Transition.1, Marker.2, and Clip.1,
 * which every reader takes).
 * Metadata, effects and markers that came from such a file go back into it.
 */
export function writeOtio(whole: Cut): string {
  const cut = asCarried(whole, 'otio')
  const starts = [...cut.events, ...(cut.generators ?? [])].map((item) => item.record.startFrame)
  const first = starts.length ? starts.reduce((least, start) => Math.min(least, start)) : 0
  const globalStart = Math.min(cut.recordStartFrame ?? first, first)
  const own = {
    dropFrame: cut.dropFrame,
    startTimecode: formatTimecode(globalStart, cut.rate, cut.dropFrame),
    ...(cut.raster && { raster: cut.raster }),
  }
  const kept = cut.carried?.format === 'otio' ? (cut.carried.parts.metadata as Json | undefined) : undefined
  return `${JSON.stringify(
    {
      OTIO_SCHEMA: 'Timeline.1',
      name: cut.name,
      global_start_time: time(globalStart, cut.rate),
      metadata: { ...kept, ennick: own },
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        name: 'tracks',
        metadata: {},
        source_range: null,
        effects: [],
        markers: (cut.markers ?? []).map((marker) => ({
          OTIO_SCHEMA: 'Marker.2',
          name: marker.name,
          color: marker.colour ?? plainColour,
          comment: marker.note,
          marked_range: range(marker.recordFrame - globalStart, marker.durationFrames, cut.rate),
          metadata: {},
        })),
        enabled: true,
        children: cut.tracks.map((track) => new TrackWriter(cut, track, globalStart).write()),
      },
    },
    null,
    2,
  )}\n`
}

type Item = {
  readonly record: CutEvent['record']
  readonly event: CutEvent | null
  readonly generator: Generator | null
}

class TrackWriter {
  readonly #cut: Cut
  readonly #track: Cut['tracks'][number]
  readonly #children: Json[] = []
  #at: Fraction
  /** Whether a clip ends there, from which a transition could lead. */
  #follows = false
  /** The frame of the record on which the last item ends. */
  #recordEnd: number | null = null
  /** A clip ends where black begins, and so much of it is still to be written. */
  #fade = fraction(0)

  constructor(cut: Cut, track: Cut['tracks'][number], globalStart: number) {
    this.#cut = cut
    this.#track = track
    this.#at = fraction(globalStart)
  }

  write(): Json {
    const { name, kind } = this.#track
    const items: Item[] = [
      ...this.#cut.events.flatMap((event) =>
        event.track === name ? [{ record: event.record, event, generator: null }] : [],
      ),
      ...(this.#cut.generators ?? []).flatMap((generator) =>
        generator.track === name ? [{ record: generator.record, event: null, generator }] : [],
      ),
    ].sort((a, b) => a.record.startFrame - b.record.startFrame)
    for (const item of items) this.#item(item)
    if (this.#fade.numerator > 0n) this.#children.push(gap(this.#fade, this.#cut.rate))
    return {
      OTIO_SCHEMA: 'Track.1',
      name,
      kind: kind === 'picture' ? 'Video' : 'Audio',
      source_range: null,
      effects: [],
      markers: [],
      metadata: {},
      enabled: true,
      children: this.#children,
    }
  }

  #item({ event, generator, record }: Item): void {
    const start = event?.soundTimes ? exact(event.soundTimes.recordStart) : fraction(record.startFrame)
    // Sources of other rates end a part of a frame off: what stands behind them is on its frame all the same.
    const isDrift = !event?.soundTimes && this.#recordEnd === record.startFrame
    const between = isDrift ? fraction(0) : subtract(start, this.#at)
    const isApart = between.numerator > 0n
    if (isApart) this.#gap(between)
    const from = isDrift ? this.#at : start
    if (event?.transition) {
      // Black before it, however short, for a transition that comes out of nothing.
      if (event.transition.fromBlack && this.#follows && !isApart) this.#gap(fraction(0))
      this.#children.push(this.#transition(event.transition))
    }
    if (event) this.#at = this.#clip(event, from)
    else {
      if (generator) this.#children.push(writeGenerator(generator, this.#cut.rate))
      this.#at = fraction(record.endFrame)
    }
    this.#follows = event !== null
    this.#recordEnd = record.endFrame
    this.#fade = fraction(0)
    if (event?.fadeOut) {
      this.#children.push(this.#transition(event.fadeOut))
      this.#fade = fraction(event.fadeOut.durationFrames)
    }
  }

  /** @returns where it ends: on its frame, or a part of one beside it */
  #clip(event: CutEvent, from: Fraction): Fraction {
    const { source, sourceRate, record, soundTimes, speed } = event
    const { rate } = this.#cut
    const onStart = soundTimes ? exact(soundTimes.recordStart) : fraction(record.startFrame)
    const onFrame = soundTimes ? exact(soundTimes.recordEnd) : fraction(record.endFrame)
    const isPlain = speed.numerator === speed.denominator
    const start = soundTimes ? exact(soundTimes.sourceStart) : fraction(source.startFrame)
    const frames = soundTimes
      ? subtract(exact(soundTimes.sourceEnd), start)
      : subtract(fraction(source.endFrame), start)
    const perRecord = divide(rateAsFraction(sourceRate), rateAsFraction(rate))
    const size = isPlain ? perRecord : multiply(perRecord, fraction(Math.abs(speed.numerator), speed.denominator))
    const isSameRate = compare(perRecord, fraction(1)) === 0
    const shows = (recordFrames: Fraction): boolean =>
      (isPlain && isSameRate) || speed.numerator === 0 || ceiling(multiply(recordFrames, size)) === ceiling(frames)
    const taken = isPlain ? divide(frames, perRecord) : subtract(onFrame, onStart)
    // As long as it shows the same frames: what ends on its frame, then what is as long as it should be.
    const recordFrames = [subtract(onFrame, from), subtract(onFrame, onStart)].find(shows)
    const isBySource = isPlain && (isSameRate || !recordFrames)
    const length = isBySource ? taken : (recordFrames ?? taken)
    const duration = isBySource ? time(toNumber(frames), sourceRate) : time(toNumber(length), rate)
    this.#children.push(writeClip(event, duration, toNumber(start)))
    return add(from, length)
  }

  #gap(frames: Fraction): void {
    this.#children.push(gap(frames, this.#cut.rate))
    this.#follows = false
    this.#fade = fraction(0)
  }

  #transition({ kind, wipeCode, durationFrames }: Transition): Json {
    return {
      OTIO_SCHEMA: 'Transition.1',
      name: '',
      transition_type: kind === 'dissolve' ? 'SMPTE_Dissolve' : 'Custom_Transition',
      in_offset: time(0, this.#cut.rate),
      out_offset: time(durationFrames, this.#cut.rate),
      metadata: kind === 'wipe' ? { ennick: { wipeCode: wipeCode ?? '001' } } : {},
    }
  }
}

/** @param duration what it takes of the record, whatever it shows of the medium in it */
function writeClip(event: CutEvent, duration: Json, sourceStart: number): Json {
  const reel = event.reel === null ? {} : { reel: event.reel }
  const kept = (event.carried?.format === 'otio' ? event.carried.parts : {}) as Record<string, Json | Json[]>
  const isPlain = event.speed.numerator === event.speed.denominator
  const warp = isPlain
    ? []
    : event.speed.numerator === 0
      ? [{ OTIO_SCHEMA: 'FreezeFrame.1', name: '', effect_name: 'FreezeFrame', time_scalar: 0, metadata: {} }]
      : [
          {
            OTIO_SCHEMA: 'LinearTimeWarp.1',
            name: '',
            effect_name: 'LinearTimeWarp',
            time_scalar: event.speed.numerator / event.speed.denominator,
            metadata: { ennick: { speed: event.speed } },
          },
        ]
  const own = {
    ...reel,
    event: event.number,
    ...(event.notes.length && { notes: event.notes }),
    ...(event.sourceDropFrame !== undefined && { sourceDropFrame: event.sourceDropFrame }),
    ...(event.key && { key: event.key }),
    ...(event.sourceChannel !== undefined && { sourceChannel: event.sourceChannel }),
    ...(event.level && { level: event.level }),
  }
  return {
    OTIO_SCHEMA: 'Clip.1',
    name: event.clipName ?? '',
    source_range: {
      OTIO_SCHEMA: 'TimeRange.1',
      start_time: time(sourceStart, event.sourceRate),
      duration,
    },
    effects: [...warp, ...((kept.effects as Json[] | undefined) ?? [])],
    markers: kept.markers ?? [],
    enabled: !event.isDisabled,
    metadata: { ...(kept.metadata as Json | undefined), cmx_3600: reel, ennick: own },
    media_reference: writeReference(event, { ...(kept.ofMedia as Json | undefined), ennick: reel }),
  }
}

function writeReference(event: CutEvent, metadata: Json): Json {
  const { path, medium, sourceRate } = event
  const start = medium?.frames.startFrame ?? event.mediumStartFrame
  const available =
    medium && start !== null ? range(start, medium.frames.endFrame - medium.frames.startFrame, sourceRate) : null
  if (path === null)
    return { OTIO_SCHEMA: 'MissingReference.1', name: event.clipName ?? '', available_range: available, metadata }
  const stills = /^(.*?)(#+)([^/#]*)$/.exec(fileName(path))
  if (!stills)
    return { OTIO_SCHEMA: 'ExternalReference.1', target_url: fileUrl(path), available_range: available, metadata }
  const [, prefix, digits, suffix] = stills as unknown as [string, string, string, string]
  return {
    OTIO_SCHEMA: 'ImageSequenceReference.1',
    target_url_base: fileUrl(path.slice(0, path.length - fileName(path).length)),
    name_prefix: prefix,
    name_suffix: suffix,
    start_frame: medium?.firstStill ?? 0,
    frame_step: 1,
    rate: decimal(sourceRate),
    frame_zero_padding: digits.length,
    missing_frame_policy: 'error',
    available_range: available,
    metadata,
  }
}

const writeGenerator = ({ name, record }: Generator, rate: Rate): Json => ({
  OTIO_SCHEMA: 'Clip.1',
  name,
  source_range: range(0, record.endFrame - record.startFrame, rate),
  effects: [],
  markers: [],
  enabled: true,
  metadata: {},
  media_reference: {
    OTIO_SCHEMA: 'GeneratorReference.1',
    name,
    generator_kind: name,
    parameters: {},
    available_range: null,
    metadata: {},
  },
})

const decimal = (rate: Rate): number => rate.numerator / rate.denominator
const time = (frames: number, rate: Rate): Json => ({
  OTIO_SCHEMA: 'RationalTime.1',
  value: frames,
  rate: decimal(rate),
})
const range = (start: number, frames: number, rate: Rate): Json => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, rate),
  duration: time(frames, rate),
})
const gap = (frames: Fraction, rate: Rate): Json => ({
  OTIO_SCHEMA: 'Gap.1',
  name: '',
  source_range: range(0, toNumber(frames), rate),
  effects: [],
  markers: [],
  enabled: true,
  metadata: {},
})
