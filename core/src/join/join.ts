import { type Cut, edl, writeProven } from '../cut/index.ts'
import {
  describeChannels,
  describePictureCodec,
  describeSoundCodec,
  type MediaFacts,
  type PictureFacts,
} from '../media/index.ts'
import { writeDelimited } from '../notes/index.ts'
import { formatRate, formatTimecode, parseTimecode, type Rate } from '../time/index.ts'

/** A made item that is to become a part of a joined file. */
export interface JoinPart {
  readonly name: string
  readonly clipName: string
  readonly clipId: string
  readonly reel: string | null
  readonly facts: MediaFacts
}

/** Where a part stands in a joined file. */
export interface JoinedEntry {
  readonly name: string
  readonly clipName: string
  /** The clip that it is of; absent of files that were joined before this was kept. */
  readonly clipId?: string
  readonly reel: string | null
  /** The frame of the source's own timecode at which it begins; null where it has none. */
  readonly sourceStartFrame: number | null
  readonly dropFrame: boolean
  /** Counted from the first frame of the joined file. */
  readonly startFrame: number
  readonly frames: number
}

/** Every joined file begins at this label, as a programme does. */
export const joinedStart = '01:00:00:00'

/**
 * Why some items cannot be parts of one file without being encoded again; each differing one with what it differs in
 * from the first.
 */
export function joinTroubles(parts: readonly JoinPart[]): string[] {
  const [first, ...others] = parts.map((part) => ({ part, traits: traitsOf(part.facts) }))
  if (!first) return []
  return others.flatMap(({ part, traits }) => {
    const differing = Object.entries(traits).find(([key, value]) => first.traits[key] !== value)
    if (!differing) return []
    const [key, value] = differing
    return [
      `${part.name} is ${value || 'without'} in ${key}, and ${first.part.name} ${first.traits[key] || 'without'}.`,
    ]
  })
}

/** What has to be alike for packets of several files to lie in one. */
function traitsOf({ picture, sound, container }: MediaFacts): Record<string, string> {
  const { width, height, pixelAspect, rotation, pixelFormat, rate, scan } = picture as PictureFacts
  return {
    container,
    codec: describePictureCodec(picture as PictureFacts),
    raster: `${width} × ${height}`,
    'pixel aspect': `${pixelAspect.numerator}:${pixelAspect.denominator}`,
    turn: `${rotation}°`,
    samples: pixelFormat ?? '',
    rate: formatRate(rate),
    scan: scan ?? '',
    sound: sound.length ? `${describeChannels(sound)}, ${sound.map(describeSoundCodec).join(', ')}` : '',
  }
}

/** Where each part stands, one behind the other. */
export function joinedEntries(parts: readonly JoinPart[]): JoinedEntry[] {
  let startFrame = 0
  return parts.map(({ name, clipName, clipId, reel, facts }) => {
    const { frames } = facts.picture as PictureFacts
    const entry = {
      name,
      clipName,
      clipId,
      reel,
      sourceStartFrame: facts.startFrame,
      dropFrame: facts.dropFrame,
      startFrame,
      frames,
    }
    startFrame += frames
    return entry
  })
}

/**
 * How many samples of sound lie before a frame: rounded once, from the first frame, so that no part's rounding is added
 * to another's.
 */
export const samplesBefore = (frame: number, { numerator, denominator }: Rate, sampleRate: number): number =>
  Math.round((frame * sampleRate * denominator) / numerator)

/** What is where in a joined file, as a table. */
export function joinedTable(entries: readonly JoinedEntry[], rate: Rate): string {
  const origin = parseTimecode(joinedStart, rate, false)
  const label = (frame: number | null, drop: boolean): string =>
    frame === null ? '' : formatTimecode(frame, rate, drop)
  return writeDelimited(
    ',',
    ['Name', 'Clip', 'Tape', 'Start', 'End', 'Joined start', 'Joined end', 'Frames'],
    entries.map(({ name, clipName, reel, sourceStartFrame: at, dropFrame, startFrame, frames }) => [
      ...[name, clipName, reel ?? ''],
      ...[label(at, dropFrame), label(at === null ? null : at + frames, dropFrame)],
      ...[label(origin + startFrame, false), label(origin + startFrame + frames, false)],
      String(frames),
    ]),
  )
}

/** What is where in a joined file, as a list of its parts: each an event whose record is the joined file's timecode. */
export function joinedList(name: string, entries: readonly JoinedEntry[], rate: Rate): string {
  const origin = parseTimecode(joinedStart, rate, false)
  const cut: Cut = {
    ...{ name, rate, dropFrame: false, tracks: [{ name: 'V1', kind: 'picture' }] },
    events: entries.map(({ clipName, reel, sourceStartFrame, dropFrame, startFrame, frames }, index) => ({
      ...{ number: String(index + 1).padStart(3, '0'), track: 'V1', kind: 'picture', clipName, reel, path: null },
      source: { startFrame: sourceStartFrame ?? 0, endFrame: (sourceStartFrame ?? 0) + frames },
      ...{ sourceRate: rate, mediumStartFrame: null, ...(dropFrame && { sourceDropFrame: true }) },
      record: { startFrame: origin + startFrame, endFrame: origin + startFrame + frames },
      ...{ transition: null, speed: { numerator: 1, denominator: 1 } },
      ...{ notes: [], location: '' },
    })),
  }
  return writeProven(cut, edl)
}
