import { formatTimecode, type Rate } from '../../time/index.ts'
import type { Cut, CutEvent } from '../model.ts'

type Json = Record<string, unknown>

/** Writes a cut as an OTIO timeline (schemas Timeline.1, Stack.1, Track.1, Clip.1, Gap.1 and Transition.1). */
export function writeOtio(cut: Cut): string {
  const starts = cut.events.map((event) => event.record.startFrame)
  const globalStart = starts.length ? Math.min(...starts) : 0
  return `${JSON.stringify(
    {
      OTIO_SCHEMA: 'Timeline.1',
      name: cut.name,
      global_start_time: time(globalStart, cut.rate),
      metadata: {
        ennick: { dropFrame: cut.dropFrame, startTimecode: formatTimecode(globalStart, cut.rate, cut.dropFrame) },
      },
      tracks: {
        OTIO_SCHEMA: 'Stack.1',
        name: 'tracks',
        metadata: {},
        source_range: null,
        effects: [],
        markers: [],
        children: cut.tracks.map((track) => writeTrack(cut, track, globalStart)),
      },
    },
    null,
    2,
  )}\n`
}

function writeTrack(cut: Cut, track: Cut['tracks'][number], globalStart: number): Json {
  const children: Json[] = []
  let at = globalStart
  for (const event of cut.events.filter((candidate) => candidate.track === track.name)) {
    if (event.record.startFrame > at) children.push(gap(event.record.startFrame - at, cut.rate))
    if (event.transition) {
      children.push({
        OTIO_SCHEMA: 'Transition.1',
        name: '',
        transition_type: event.transition.kind === 'dissolve' ? 'SMPTE_Dissolve' : 'Custom_Transition',
        in_offset: time(0, cut.rate),
        out_offset: time(event.transition.durationFrames, cut.rate),
        metadata: {},
      })
    }
    children.push(writeClip(event, cut.rate))
    at = event.record.endFrame
  }
  return {
    OTIO_SCHEMA: 'Track.1',
    name: track.name,
    kind: track.kind === 'picture' ? 'Video' : 'Audio',
    source_range: null,
    effects: [],
    markers: [],
    metadata: {},
    children,
  }
}

function writeClip(event: CutEvent, recordRate: Rate): Json {
  const reel = event.reel === null ? {} : { reel: event.reel }
  const effects =
    event.speed.numerator === event.speed.denominator
      ? []
      : [
          {
            OTIO_SCHEMA: 'LinearTimeWarp.1',
            name: '',
            effect_name: '',
            time_scalar: event.speed.numerator / event.speed.denominator,
            metadata: {},
          },
        ]
  return {
    OTIO_SCHEMA: 'Clip.1',
    name: event.clipName ?? '',
    source_range: effects.length
      ? {
          OTIO_SCHEMA: 'TimeRange.1',
          start_time: time(event.source.startFrame, event.sourceRate),
          // What it takes of the record, whatever it shows of the medium in it.
          duration: time(event.record.endFrame - event.record.startFrame, recordRate),
        }
      : range(event.source.startFrame, event.source.endFrame, event.sourceRate),
    effects,
    markers: [],
    metadata: { cmx_3600: reel, ennick: { ...reel, event: event.number } },
    media_reference:
      event.path === null
        ? { OTIO_SCHEMA: 'MissingReference.1', name: event.clipName ?? '', available_range: null, metadata: {} }
        : {
            OTIO_SCHEMA: 'ExternalReference.1',
            target_url: event.path,
            available_range: null,
            metadata: { ennick: reel },
          },
  }
}

const decimal = (rate: Rate): number => rate.numerator / rate.denominator
const time = (frames: number, rate: Rate): Json => ({
  OTIO_SCHEMA: 'RationalTime.1',
  value: frames,
  rate: decimal(rate),
})
const range = (start: number, end: number, rate: Rate): Json => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, rate),
  duration: time(end - start, rate),
})
const gap = (frames: number, rate: Rate): Json => ({
  OTIO_SCHEMA: 'Gap.1',
  name: '',
  source_range: range(0, frames, rate),
  effects: [],
  markers: [],
  metadata: {},
})
