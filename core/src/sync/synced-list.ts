import { type Cut, type CutEvent, mediumOf, normalSpeed, plain } from '../cut/index.ts'
import { channelCount, type MediaFacts, mediumRange, pictureRange } from '../media/index.ts'
import {
  add,
  ceiling,
  compare,
  divide,
  type ExactRange,
  exactRange,
  type Fraction,
  type FrameRange,
  floor,
  formatRate,
  fraction,
  isWhole,
  maximum,
  multiply,
  type Rate,
  rateAsFraction,
  round,
  sameRate,
  subtract,
  zero,
} from '../time/index.ts'
import type { SoundLink } from './sound-link.ts'
import { withRecording } from './with-recording.ts'

/** A file of a picture or of its recording, as a list names it. */
export interface ListedFile {
  readonly name: string
  readonly path: string
  readonly reel: string | null
  readonly facts: MediaFacts
}

/** A picture with the recording that it was synced with. */
export interface SyncedClip {
  readonly picture: ListedFile
  readonly link: SoundLink
  readonly recordings: readonly ListedFile[]
}

/**
 * Synced clips as a list, one behind another: each picture, its camera's own sound where that is kept, and the used
 * tracks of its recording from the very part of a sample on, all linked. What a recording lacks is left empty.
 * @returns the cut, and what is not in it with the reason
 */
export function syncedList(
  name: string,
  format: { readonly rate: Rate; readonly width: number; readonly height: number },
  clips: readonly SyncedClip[],
): { readonly cut: Cut; readonly leftOut: readonly string[] } {
  const { rate, width, height } = format
  const pictures: CutEvent[] = []
  const lanes: CutEvent[][] = []
  const leftOut: string[] = []
  let at = 0
  for (const clip of clips) {
    const { picture } = clip.picture.facts
    const laid = withRecording(
      clip.picture.facts,
      clip.link,
      clip.recordings.map(({ facts }) => facts),
    )
    if (!picture || !laid) {
      leftOut.push(`${clip.picture.name}: nothing of its recording is used, or that is not here.`)
      continue
    }
    if (!sameRate(picture.rate, rate)) {
      leftOut.push(
        `${clip.picture.name}: it has ${formatRate(picture.rate)} frames a second, the list ${formatRate(rate)}.`,
      )
      continue
    }
    const number = String(pictures.length + 1).padStart(3, '0')
    const linked = { number, linkedBy: number }
    const own = { ...linked, ...common(clip.picture, rate) }
    const record = { startFrame: at, endFrame: at + picture.frames }
    const startFrame = clip.picture.facts.startFrame ?? 0
    const source = { startFrame, endFrame: startFrame + picture.frames }
    pictures.push({ ...own, track: 'V1', kind: 'picture', source, record })
    const hear = (lane: number, event: Omit<CutEvent, 'track' | 'kind'>): void => {
      lanes[lane] ??= []
      lanes[lane].push({ ...event, track: `A${lane + 1}`, kind: 'sound' })
    }
    const kept = clip.link.cameraSound === 'kept' ? channelCount(clip.picture.facts) : 0
    for (let channel = 0; channel < kept; channel++)
      hear(channel, { ...own, source, record, sourceChannel: channel + 1 })
    laid.tracks.forEach(({ file, stream, channel }, index) => {
      const recording = clip.recordings[file] as ListedFile
      const before = recording.facts.sound.slice(0, stream).reduce((sum, { channels }) => sum + channels, 0)
      const placed = placeRecording(recording, clip.link, record, rate)
      if (placed)
        hear(kept + index, {
          ...{ ...linked, ...common(recording, rate), ...placed },
          sourceChannel: before + channel + 1,
        })
    })
    at = record.endFrame
  }
  const tracks: Cut['tracks'] = [
    { name: 'V1', kind: 'picture' },
    ...Array.from(lanes, (_, lane) => ({ name: `A${lane + 1}`, kind: 'sound' as const })),
  ]
  const events = [pictures, ...lanes].flatMap((lane) => lane ?? [])
  return {
    cut: { name, rate, dropFrame: false, tracks, events, recordStartFrame: 0, raster: { width, height } },
    leftOut,
  }
}

/** What every use of a file says of it. */
function common(file: ListedFile, rate: Rate) {
  const { name, path, reel, facts } = file
  const medium = mediumOf(facts, facts.picture ? exactRange(pictureRange(facts) as FrameRange) : rangeOf(file, rate))
  return {
    ...{ clipName: name, reel, path, sourceRate: facts.picture?.rate ?? rate },
    ...{ medium, mediumStartFrame: medium.frames.startFrame },
    ...(facts.dropFrame && { sourceDropFrame: true }),
    ...{ transition: null, speed: normalSpeed, notes: [], location: '' },
  } as const
}

/** Where a recording lies, in frames of a rate and their millionths; one whose length is not known has none. */
function rangeOf({ facts }: ListedFile, rate: Rate): ExactRange {
  const { start, end } = mediumRange(facts, rate) ?? { start: zero, end: zero }
  return { start: toMillionth(start), end: toMillionth(end) }
}

/** Lists count in numbers with a point: a millionth of a frame is what is read of them, and far below a sample. */
const toMillionth = (frames: Fraction): Fraction => fraction(round(multiply(frames, fraction(1_000_000))), 1_000_000)

/** Where a recording stands beside its picture, and what of it; null where nothing of it does. */
function placeRecording(
  recording: ListedFile,
  { offsetSamples, sampleRate }: SoundLink,
  record: CutEvent['record'],
  rate: Rate,
): Pick<CutEvent, 'source' | 'record' | 'soundTimes'> | null {
  const offset = toMillionth(multiply(divide(offsetSamples, fraction(sampleRate)), rateAsFraction(rate)))
  const { start, end } = rangeOf(recording, rate)
  const length = subtract(end, start)
  const from = maximum(offset, zero)
  const wanted = add(offset, fraction(record.endFrame - record.startFrame))
  const to = compare(wanted, length) < 0 ? wanted : length
  if (compare(to, from) <= 0) return null
  const [sourceStart, sourceEnd] = [add(start, from), add(start, to)]
  const onRecord = (frame: Fraction): Fraction => add(fraction(record.startFrame), subtract(frame, offset))
  const [recordStart, recordEnd] = [onRecord(from), onRecord(to)]
  const isBetween = ![sourceStart, sourceEnd, recordStart, recordEnd].every(isWhole)
  return {
    source: { startFrame: Number(floor(sourceStart)), endFrame: Number(ceiling(sourceEnd)) },
    record: { startFrame: Number(round(recordStart)), endFrame: Number(round(recordEnd)) },
    ...(isBetween && {
      soundTimes: {
        ...{ sourceStart: plain(sourceStart), sourceEnd: plain(sourceEnd) },
        ...{ recordStart: plain(recordStart), recordEnd: plain(recordEnd) },
      },
    }),
  }
}
