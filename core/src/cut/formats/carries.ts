import { isListedReel } from '../../naming/index.ts'
import {
  add,
  allowsDropFrame,
  ceiling,
  divide,
  type Fraction,
  type FrameRange,
  fraction,
  framesOfDaysBefore,
  isWhole,
  multiply,
  rateAsFraction,
  sameRate,
} from '../../time/index.ts'
import {
  type Cut,
  type CutEvent,
  type Marker,
  type PlainFraction,
  plain,
  type SoundTimes,
  type Speed,
} from '../model.ts'
import type { CutFormatId } from './format.ts'
import { tidyBlack } from './tidy-black.ts'

/** Whether a format says something: so that any reader takes it, so that only Ennick and people do, or not at all. */
export type Carrying = 'yes' | 'as a remark' | 'no'

export interface FeatureOfFormats {
  readonly id: string
  /** In the words of the trade. */
  readonly name: string
  readonly carries: Readonly<Record<CutFormatId, Carrying>>
  /** What becomes of it in a format that does not carry it, or carries it as a remark. */
  readonly becomes: Readonly<Partial<Record<CutFormatId, string>>>
  /** The positions of the events that have it; null where the cut as a whole has it or has not. */
  readonly events: ((event: CutEvent, cut: Cut, position: number) => boolean) | null
  readonly has?: (cut: Cut) => boolean
}

const isPlain = ({ numerator, denominator }: Speed): boolean => numerator === denominator

/** What each format can say of a cut: the one table that writers, handoffs, screens and docs go by. */
export const formatFeatures: readonly FeatureOfFormats[] = [
  {
    id: 'source-rate',
    name: 'Sources of another rate than the record',
    carries: { edl: 'no', otio: 'yes', xmeml: 'yes' },
    becomes: { edl: 'The list is not written: an EDL has one rate for all.' },
    events: (event, cut) => !event.isDisabled && !sameRate(event.sourceRate, cut.rate),
  },
  {
    id: 'drop',
    name: 'Drop-frame sources in a non-drop record, and the reverse',
    carries: { edl: 'yes', otio: 'as a remark', xmeml: 'yes' },
    becomes: { otio: 'Stands in metadata: OTIO counts frames and has no labels.' },
    events: (event) => event.sourceDropFrame !== undefined,
  },
  {
    id: 'speed',
    name: 'Speeds, forwards and backwards, and held frames',
    carries: { edl: 'yes', otio: 'yes', xmeml: 'yes' },
    becomes: {},
    events: (event) => !isPlain(event.speed),
  },
  {
    id: 'transition',
    name: 'Dissolves, fades to and from black',
    carries: { edl: 'yes', otio: 'yes', xmeml: 'yes' },
    becomes: {},
    events: (event) => event.transition !== null || event.fadeOut !== undefined,
  },
  {
    id: 'wipe',
    name: 'Wipes with their number',
    carries: { edl: 'yes', otio: 'as a remark', xmeml: 'yes' },
    becomes: { otio: 'A transition whose wipe number stands in metadata.' },
    events: (event) => event.transition?.kind === 'wipe' || event.fadeOut?.kind === 'wipe',
  },
  {
    id: 'key',
    name: 'Keys',
    carries: { edl: 'yes', otio: 'as a remark', xmeml: 'no' },
    becomes: {
      otio: 'Two pictures one above the other; that they are keyed stands in metadata.',
      xmeml: 'Two pictures one above the other, without the key.',
    },
    events: (event) => event.key !== undefined,
  },
  {
    id: 'picture-tracks',
    name: 'More than one picture track',
    carries: { edl: 'as a remark', otio: 'yes', xmeml: 'yes' },
    becomes: { edl: 'Stand as V2, V3 and so on, which many readers of EDLs do not take.' },
    events: (event) => event.kind === 'picture' && event.track !== 'V1' && event.key === undefined,
  },
  {
    id: 'disabled',
    name: 'Events that are switched off',
    carries: { edl: 'no', otio: 'yes', xmeml: 'yes' },
    becomes: { edl: 'Left out: an EDL would show them.' },
    events: (event) => event.isDisabled === true,
  },
  {
    id: 'sound-times',
    name: 'Sound that begins or ends between frames',
    carries: { edl: 'no', otio: 'yes', xmeml: 'no' },
    becomes: { edl: 'Begins and ends on a frame.', xmeml: 'Begins and ends on a frame.' },
    events: (event) => event.soundTimes !== undefined,
  },
  {
    id: 'channel',
    name: 'Which channel of a source is heard',
    carries: { edl: 'no', otio: 'as a remark', xmeml: 'yes' },
    becomes: { edl: 'Not said.', otio: 'Stands in metadata.' },
    events: (event) => event.sourceChannel !== undefined && event.sourceChannel !== 1,
  },
  {
    id: 'links',
    name: 'Pictures and the sound they were synced with, moved as one',
    carries: { edl: 'no', otio: 'no', xmeml: 'yes' },
    becomes: { edl: 'Stand apart.', otio: 'Stand one above the other, not linked.' },
    events: (event) => event.linkedBy !== undefined,
  },
  {
    id: 'fit',
    name: 'Scale and position',
    carries: { edl: 'no', otio: 'no', xmeml: 'yes' },
    becomes: { edl: 'Not said: the picture stands as it is.', otio: 'Not said: the picture stands as it is.' },
    events: (event) => event.fit !== undefined,
  },
  {
    id: 'level',
    name: 'Levels of sound',
    carries: { edl: 'no', otio: 'as a remark', xmeml: 'yes' },
    becomes: { edl: 'Not said: sound is as loud as it was recorded.', otio: 'Stand in metadata.' },
    events: (event) => event.level !== undefined,
  },
  {
    id: 'reel',
    name: 'Reels of more than eight characters, or with blanks',
    carries: { edl: 'as a remark', otio: 'yes', xmeml: 'yes' },
    becomes: { edl: 'The field has the reel as one word, or cut to eight; a remark has it whole.' },
    events: (event) => event.reel !== null && !isListedReel(event.reel),
  },
  {
    id: 'path',
    name: 'Paths of sources',
    carries: { edl: 'as a remark', otio: 'yes', xmeml: 'yes' },
    becomes: { edl: 'Stand in a remark, which only some readers look at.' },
    events: (event) => event.path !== null,
  },
  {
    id: 'notes',
    name: 'Remarks on events',
    carries: { edl: 'yes', otio: 'as a remark', xmeml: 'no' },
    becomes: { otio: 'Stand in metadata.', xmeml: 'Left out.' },
    events: (event) => event.notes.length > 0,
  },
  {
    id: 'number',
    name: 'Numbers of events',
    carries: { edl: 'yes', otio: 'as a remark', xmeml: 'no' },
    becomes: { otio: 'Stand in metadata.', xmeml: 'Left out: events are counted anew.' },
    events: (event, _, position) => event.number !== String(position + 1).padStart(3, '0'),
  },
  {
    id: 'generators',
    name: 'Colours, titles and other generated pictures',
    carries: { edl: 'no', otio: 'yes', xmeml: 'yes' },
    becomes: { edl: 'Black.' },
    events: null,
    has: (cut) => (cut.generators ?? []).length > 0,
  },
  {
    id: 'markers',
    name: 'Markers of the record',
    carries: { edl: 'no', otio: 'yes', xmeml: 'yes' },
    becomes: { edl: 'Left out.' },
    events: null,
    has: (cut) => (cut.markers ?? []).length > 0,
  },
  {
    id: 'raster',
    name: 'Raster of the record',
    carries: { edl: 'no', otio: 'as a remark', xmeml: 'yes' },
    becomes: { edl: 'Not said.', otio: 'Stands in metadata.' },
    events: null,
    has: (cut) => cut.raster !== undefined,
  },
  {
    id: 'nested',
    name: 'Sequences within the sequence',
    carries: { edl: 'no', otio: 'no', xmeml: 'no' },
    becomes: { edl: 'Written flat.', otio: 'Written flat.', xmeml: 'Written flat.' },
    events: null,
    has: (cut) => (cut.nestedSequences ?? 0) > 0,
  },
  {
    id: 'effects',
    name: 'Effects, markers and metadata of events',
    carries: { edl: 'no', otio: 'yes', xmeml: 'yes' },
    becomes: {
      edl: 'Left out.',
      otio: 'Left out, where they came from timeline XML.',
      xmeml: 'Left out, where they came from OTIO.',
    },
    events: (event) => event.carried !== undefined,
  },
]

/** Something of a cut that a format does not carry as it is. */
export interface Loss {
  readonly feature: string
  readonly name: string
  readonly carried: Exclude<Carrying, 'yes'>
  readonly becomes: string
  /** None where it is of the cut as a whole. */
  readonly events: readonly number[]
}

/** What a cut loses, or says only in remarks, when it is written in a format. */
export function lossesOf(cut: Cut, format: CutFormatId): Loss[] {
  return formatFeatures.flatMap(({ id, name, carries, becomes, events, has }): Loss[] => {
    const isHome = id === 'effects' && carries[format] === 'yes'
    const carried = isHome ? 'no' : carries[format]
    if (carried === 'yes') return []
    const positions = events
      ? cut.events.flatMap((event, position) =>
          events(event, cut, position) && !(isHome && event.carried?.format === format) ? [position] : [],
        )
      : []
    if (events ? positions.length === 0 : !has?.(cut)) return []
    return [{ feature: id, name, carried, becomes: becomes[format] ?? '', events: positions }]
  })
}

const carriesNot = (id: string, format: CutFormatId): boolean =>
  formatFeatures.find((feature) => feature.id === id)?.carries[format] === 'no'

/** The cut as a format can say it: what is written, and what reading it again must give. */
export function asCarried(cut: Cut, format: CutFormatId): Cut {
  const { generators, markers, raster, recordStartFrame, nestedSequences: _, leftOut: __, carried, ...rest } = cut
  const kept = cut.events.filter((event) => !(event.isDisabled && carriesNot('disabled', format)))
  const events = tidyBlack(kept).map((event) => eventAsCarried(event, cut, format))
  return {
    ...rest,
    tracks: format === 'edl' ? cut.tracks : withoutHoles(cut.tracks),
    events,
    ...(generators && !carriesNot('generators', format) && { generators }),
    ...(markers && !carriesNot('markers', format) && { markers: markers.map(markerOf(format)) }),
    ...(raster && !carriesNot('raster', format) && { raster }),
    ...(recordStartFrame !== undefined && format !== 'edl' && { recordStartFrame }),
    ...(carried?.format === format && { carried }),
  }
}

const markerOf =
  (format: CutFormatId) =>
  ({ colour, ...marker }: Marker): Marker => ({ ...marker, ...(colour && format === 'otio' && { colour }) })

/** Where tracks are told by their order, an empty one stands for each that is not there: V2 alone would become V1. */
function withoutHoles(tracks: Cut['tracks']): Cut['tracks'] {
  return (['picture', 'sound'] as const).flatMap((kind) => {
    const numbers = tracks.flatMap((track) => (track.kind === kind ? [Number(track.name.slice(1))] : []))
    const letter = kind === 'picture' ? 'V' : 'A'
    return Array.from({ length: Math.max(0, ...numbers) }, (_, index) => ({ name: `${letter}${index + 1}`, kind }))
  })
}

/** What labels alone can say: a use after midnight of a medium that runs across it has that day's label. */
function withinDay(
  { startFrame, endFrame }: FrameRange,
  { sourceRate, sourceDropFrame }: CutEvent,
  cut: Cut,
): FrameRange {
  const drop = allowsDropFrame(sourceRate) && (sourceDropFrame ?? cut.dropFrame)
  const before = framesOfDaysBefore(startFrame, sourceRate, drop)
  return { startFrame: startFrame - before, endFrame: endFrame - before }
}

function eventAsCarried(event: CutEvent, cut: Cut, format: CutFormatId): CutEvent {
  const { soundTimes: listed, sourceChannel, fit, level, key, carried, ...rest } = event
  const isRounded = listed !== undefined && carriesNot('sound-times', format)
  const soundTimes = (isRounded ? undefined : listed) ?? soundEnd(event, cut, format)
  const shown =
    isRounded || (!isPlain(event.speed) && format !== 'edl')
      ? { startFrame: event.source.startFrame, endFrame: event.source.startFrame + shownFrames(event, cut) }
      : event.source
  const source = format === 'edl' ? withinDay(shown, event, cut) : shown
  return {
    ...rest,
    source,
    path: format === 'otio' ? event.path : firstStillPath(event),
    ...(soundTimes && { soundTimes }),
    ...(sourceChannel !== undefined && !carriesNot('channel', format) && { sourceChannel }),
    ...(fit && !carriesNot('fit', format) && { fit }),
    ...(level && !carriesNot('level', format) && { level }),
    ...(key && !carriesNot('key', format) && { key }),
    ...(carried?.format === format && { carried }),
    ...(carriesNot('notes', format) && { notes: [] }),
  }
}

/** Numbered stills are one path of number signs here, and a sequence in OTIO; other lists name the first of them. */
function firstStillPath({ path, medium }: CutEvent): string | null {
  const number = medium?.firstStill
  if (path === null || number === undefined) return path
  return path.replace(/#+(?=[^/\\#]*$)/, (signs) => String(number).padStart(signs.length, '0'))
}

/** The source frames that an event's record frames show, whole ones; a held frame is one. */
function shownFrames(event: CutEvent, cut: Cut): number {
  return event.speed.numerator === 0 ? 1 : Math.max(1, Number(ceiling(exactlyShown(event, cut))))
}

function exactlyShown({ record, speed, sourceRate }: CutEvent, cut: Cut): Fraction {
  const perRecord = divide(rateAsFraction(sourceRate), rateAsFraction(cut.rate))
  const size = fraction(Math.abs(speed.numerator), speed.denominator)
  return multiply(multiply(fraction(record.endFrame - record.startFrame), size), perRecord)
}

/**
 * Where sound ends between frames that its list puts on frames, once a format has it as long as its record: at another
 * speed than its own, and in OTIO where it counts at another rate.
 */
function soundEnd(event: CutEvent, cut: Cut, format: CutFormatId): SoundTimes | undefined {
  const { kind, speed, source, record } = event
  const shown = exactlyShown(event, cut)
  const isByRecord = format === 'otio' || (format === 'xmeml' && !isPlain(speed))
  if (kind !== 'sound' || !isByRecord || speed.numerator === 0 || isWhole(shown)) return undefined
  const at = (frame: number): PlainFraction => ({ numerator: frame, denominator: 1 })
  return {
    ...{ sourceStart: at(source.startFrame), sourceEnd: plain(add(fraction(source.startFrame), shown)) },
    ...{ recordStart: at(record.startFrame), recordEnd: at(record.endFrame) },
  }
}
