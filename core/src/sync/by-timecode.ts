import { type MediaFacts, recordedAs } from '../media/index.ts'
import { groupBy } from '../text/index.ts'
import {
  add,
  compare,
  divide,
  type Fraction,
  fraction,
  maximum,
  multiply,
  rateAsFraction,
  subtract,
  toNumber,
  zero,
} from '../time/index.ts'
import {
  type Counting,
  describeCounting,
  pictureSpan,
  samePace,
  secondsBetween,
  soundSpan,
  type TimecodeSpan,
} from './timecode-span.ts'

/** A picture or a recording that is to be synced. */
export interface SyncMedium {
  readonly id: string
  readonly name: string
  readonly facts: MediaFacts
  /** The shoot day that is said of it; of two that are said and differ neither is looked at for the other. */
  readonly day: string | null
}

/** By what a recording was laid to a picture. */
export const syncMethods = ['timecode', 'waveform', 'clock', 'points'] as const
export type SyncMethod = (typeof syncMethods)[number]

/** A picture with the recording that ran while it was taken. */
export interface SyncedSound {
  readonly method: SyncMethod
  readonly pictureId: string
  /** One recording; several where a recorder wrote its tracks as files of their own, alike in start and length. */
  readonly soundIds: readonly string[]
  /** The sample of the recording at the picture's first frame, exact; below zero when the recording begins later. */
  readonly offsetSamples: Fraction
  readonly sampleRate: number
  /** Real seconds at the picture's head and tail of which there is no sound; zero where it is covered. */
  readonly lacksHeadSeconds: Fraction
  readonly lacksTailSeconds: Fraction
}

/** A picture that got no recording, or a choice that is left to a person. */
export type Unsynced =
  | { readonly kind: 'no timecode'; readonly id: string }
  | { readonly kind: 'no sound'; readonly id: string; readonly ofOtherDays: readonly string[] }
  | { readonly kind: 'other pace'; readonly id: string; readonly soundId: string; readonly countings: [string, string] }
  | { readonly kind: 'several'; readonly id: string; readonly candidates: readonly SyncedSound[] }

export interface TimecodeSync {
  readonly synced: readonly SyncedSound[]
  readonly unsynced: readonly Unsynced[]
  /** Recordings that no picture was taken during, and those without a time reference. */
  readonly unusedSoundIds: readonly string[]
}

/**
 * Finds for each picture the recording that ran meanwhile, by the timecode that camera and recorder shared. It is
 * synced where one recording is left, or one alone covers all of it; where several do, a person chooses.
 * @param choices the first file of the recording that a person chose, by picture
 * @param fallback how recorders count that do not say
 */
export function syncByTimecode(
  pictures: readonly SyncMedium[],
  sounds: readonly SyncMedium[],
  fallback: Counting,
  choices: ReadonlyMap<string, string> = new Map(),
): TimecodeSync {
  const recordings = gather(sounds, fallback)
  const synced: SyncedSound[] = []
  const unsynced: Unsynced[] = []
  const used = new Set<string>()
  for (const picture of pictures) {
    const outcome = syncOne(picture, recordings, choices.get(picture.id))
    if ('pictureId' in outcome) {
      synced.push(outcome)
      for (const id of outcome.soundIds) used.add(id)
    } else {
      unsynced.push(outcome)
      if (outcome.kind === 'several')
        for (const { soundIds } of outcome.candidates) for (const id of soundIds) used.add(id)
    }
  }
  return { synced, unsynced, unusedSoundIds: sounds.filter(({ id }) => !used.has(id)).map(({ id }) => id) }
}

/** One recording: the files that a recorder wrote of it, alike in start and length. */
interface Recording {
  readonly media: readonly SyncMedium[]
  readonly span: TimecodeSpan
  readonly rough: RoughSpan
  readonly sampleRate: number
}

/** Seconds as they are good enough to tell what cannot meet, which is nearly all of a day. */
interface RoughSpan {
  readonly start: number
  readonly length: number
}

const roughly = ({ startSeconds, seconds }: TimecodeSpan): RoughSpan => ({
  start: toNumber(startSeconds),
  length: toNumber(seconds),
})

/** Whether two cannot meet, whatever rounding and pace have done to either: the rest is asked exactly. */
function isFarOff(picture: RoughSpan, sound: RoughSpan): boolean {
  const apart = Math.abs(picture.start - sound.start) % 86_400
  return Math.min(apart, 86_400 - apart) > (picture.length + sound.length) * 1.01 + 1
}

function gather(sounds: readonly SyncMedium[], fallback: Counting): Recording[] {
  return gatherRecordings(sounds).flatMap((media): Recording[] => {
    const [{ facts }] = media as [SyncMedium]
    const span = soundSpan(facts, fallback)
    const [first] = facts.sound
    return span && first ? [{ media, span, rough: roughly(span), sampleRate: first.sampleRate }] : []
  })
}

/**
 * Recordings, each with the files that a recorder wrote of it: alike in start, length, rate, day and tape, and called
 * alike but for a track number. A file of another name is a recording of its own.
 */
export function gatherRecordings(sounds: readonly SyncMedium[]): SyncMedium[][] {
  const ofRecording = ({ name, facts, day }: SyncMedium): string => JSON.stringify([recordedAs(name, facts), day])
  return [...groupBy(sounds, ofRecording).values()]
}

function syncOne(
  picture: SyncMedium,
  recordings: readonly Recording[],
  choice: string | undefined,
): SyncedSound | Unsynced {
  const span = pictureSpan(picture.facts)
  if (!span) return { kind: 'no timecode', id: picture.id }
  const rough = roughly(span)
  const meeting = recordings.flatMap((recording) => {
    if (isFarOff(rough, recording.rough)) return []
    const match = meet(picture, span, recording)
    return match ? [{ recording, match }] : []
  })
  const ofDay = meeting.filter(({ recording }) => sameDay(picture, recording.media[0] as SyncMedium))
  const atPace = ofDay.filter(({ recording }) => samePace(span, recording.span)).map(({ match }) => match)
  const chosen = atPace.find(({ soundIds }) => choice !== undefined && soundIds.includes(choice))
  if (chosen) return chosen
  const whole = atPace.filter(hasWholeSound)
  const fitting = whole.length > 0 ? whole : atPace
  const [only] = fitting
  if (only && fitting.length === 1) return only
  if (only) return { kind: 'several', id: picture.id, candidates: fitting }
  const [other] = ofDay
  if (other)
    return {
      kind: 'other pace',
      id: picture.id,
      soundId: other.match.soundIds[0] as string,
      countings: [describeCounting(span.counting), describeCounting(other.recording.span.counting)],
    }
  return { kind: 'no sound', id: picture.id, ofOtherDays: meeting.flatMap(({ match }) => match.soundIds) }
}

/** Whether two may be of one shoot day. A date and a number of one say nothing of each other. */
export const sameDay = ({ day: one }: Pick<SyncMedium, 'day'>, { day: other }: Pick<SyncMedium, 'day'>): boolean =>
  !one || !other || one === other || isDate(one) !== isDate(other)

const isDate = (day: string): boolean => /^\d{4}-\d{2}-\d{2}$/.test(day)

export const hasWholeSound = ({ lacksHeadSeconds, lacksTailSeconds }: SyncedSound): boolean =>
  compare(lacksHeadSeconds, zero) === 0 && compare(lacksTailSeconds, zero) === 0

/** How a recording lies to a picture by both timecodes; null where they do not run at the same time. */
function meet(picture: SyncMedium, at: TimecodeSpan, { media, span, sampleRate }: Recording): SyncedSound | null {
  const offset = secondsBetween(span, at)
  const soundIds = media.map(({ id }) => id)
  return laidBeside(picture, { soundIds, seconds: span.seconds, sampleRate }, multiply(offset, fraction(sampleRate)))
}

/**
 * A recording as it lies to a picture at some offset; null where nothing of the two overlaps.
 * @param recording how long it is in seconds, exact
 * @param offsetSamples of the recording at the picture's first frame
 */
export function laidBeside(
  picture: SyncMedium,
  recording: { readonly soundIds: readonly string[]; readonly seconds: Fraction; readonly sampleRate: number },
  offsetSamples: Fraction,
  method: SyncMethod = 'timecode',
): SyncedSound | null {
  const { picture: facts } = picture.facts
  if (!facts) return null
  const offset = divide(offsetSamples, fraction(recording.sampleRate))
  const end = add(offset, divide(fraction(facts.frames), rateAsFraction(facts.rate)))
  if (compare(end, zero) <= 0 || compare(offset, recording.seconds) >= 0) return null
  return {
    method,
    pictureId: picture.id,
    soundIds: recording.soundIds,
    offsetSamples,
    sampleRate: recording.sampleRate,
    lacksHeadSeconds: maximum(zero, subtract(zero, offset)),
    lacksTailSeconds: maximum(zero, subtract(end, recording.seconds)),
  }
}
