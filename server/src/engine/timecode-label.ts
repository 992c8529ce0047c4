import {
  allowsDropFrame,
  floor,
  framesPerDay,
  isDropLabel,
  nominalFramesPerSecond,
  parseRate,
  parseTimecode,
  type Rate,
  rateOfLabels,
  sameLabel,
  TimecodeError,
} from '@ennick/core'
import { type FromBytes, fewestLabelsPerSecond, roundedPicture } from './from-bytes.ts'
import type { Stream } from './probe-output.ts'

/** How many labels a second a timecode track counts; null where nothing says. */
export function labelsOf(streams: readonly Stream[], text: string | null): number | null {
  const track = streams.find(({ codec_tag_string: kind, tags }) => kind === 'tmcd' && tags?.timecode === text)
  const counted = parseRate(track?.avg_frame_rate ?? '')
  const labels = counted ? nominalFramesPerSecond(counted) : 0
  return labels >= fewestLabelsPerSecond ? labels : null
}

/**
 * The frame of a picture at which a label stands. Two pictures of 50 a second have one label where 25 are counted: it
 * is that of the first.
 */
export function readTimecode(
  text: string | null,
  frameRate: Rate,
  labelsPerSecond: number | null,
): { frame: number; drop: boolean } | null {
  if (text === null) return null
  const labelRate = labelsPerSecond === null ? frameRate : rateOfLabels(labelsPerSecond, frameRate.denominator === 1001)
  const drop = isDropLabel(text) && allowsDropFrame(labelRate)
  try {
    const frame = floor(sameLabel(parseTimecode(text, labelRate, drop), labelRate, frameRate, drop))
    return { frame: Number(frame), drop: drop && allowsDropFrame(frameRate) }
  } catch (error) {
    // A label that no clock shows says nothing that could be trusted.
    if (error instanceof TimecodeError) return null
    throw error
  }
}

/** The label at which a file is shown to begin: its timecode track may be cut as its picture is. */
export function labelShown(
  { frame, drop }: { frame: number; drop: boolean },
  frameRate: Rate,
  fromBytes: FromBytes | null,
): number {
  const { ticks, ticksPerSecond } = fromBytes?.timecodeBegins ?? { ticks: 0, ticksPerSecond: 1 }
  const skipped = Math.ceil((ticks * frameRate.numerator) / (ticksPerSecond * frameRate.denominator) - roundedPicture)
  return (frame + skipped) % framesPerDay(frameRate, drop)
}
