import { nominalFramesPerSecond, parseRate } from '@ennick/core'
import { countShown, type TrackMoment, timecodeBegins } from './edit-list.ts'
import { mxfTimecodeBase } from './mxf-timecode.ts'
import { isPicture, type ProbeOutput, type Stream } from './probe-output.ts'

/** What the bytes of a file say that the probe does not tell. */
export interface FromBytes {
  /** How many of the pictures that it holds are shown; null for all. */
  readonly shownFrames: number | null
  /** Where its timecode track begins. */
  readonly timecodeBegins: TrackMoment | null
  /** How many labels a second its timecode counts. */
  readonly labelsPerSecond: number | null
}

/** Reads what concerns the picture and its timecode; null where the probe tells all. */
export async function readFromBytes(
  path: string,
  { format, streams = [] }: ProbeOutput,
  signal: AbortSignal | undefined,
): Promise<FromBytes | null> {
  const picture = streams.find(isPicture)
  const name = format?.format_name ?? ''
  // Other containers have no edit lists.
  if (picture && name.startsWith('mov,'))
    return {
      ...{ shownFrames: await readShown(path, picture, signal), timecodeBegins: await timecodeBegins(path) },
      labelsPerSecond: null,
    }
  const pictureRate = parseRate(picture?.r_frame_rate ?? '')
  if (name.startsWith('mxf') && pictureRate && nominalFramesPerSecond(pictureRate) > mostLabelsPerSecond)
    return { shownFrames: null, timecodeBegins: null, labelsPerSecond: await mxfTimecodeBase(path) }
  return null
}

/** Timecode counts no fewer labels a second and no more (SMPTE ST 12-1); of slower pictures each has one. */
export const [fewestLabelsPerSecond, mostLabelsPerSecond] = [24, 30] as const

/** Less of a picture than this is no edit: clocks of movies round to a tick, of which there may be 600 in a second. */
export const roundedPicture = 0.1

/** Counted only where a file says how many pictures it holds and runs for another time than they would. */
async function readShown(path: string, picture: Stream, signal: AbortSignal | undefined): Promise<number | null> {
  const [held, average, timeBase] = [
    Number(picture.nb_frames),
    parseRate(picture.avg_frame_rate ?? ''),
    parseRate(picture.time_base ?? ''),
  ]
  if (!held || !average || !timeBase || !picture.duration_ts) return null
  const seconds = (picture.duration_ts * timeBase.numerator) / timeBase.denominator
  // Part of a picture may be left out, and the decoder drops all of it.
  if (held - (seconds * average.numerator) / average.denominator < roundedPicture) return null
  const shown = await countShown(path, picture.index ?? 0, signal)
  return shown === null || shown === 0 || shown >= held ? null : shown
}
