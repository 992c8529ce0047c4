import { comparedFrames } from '../signature/index.ts'
import { type FrameRange, rangeLength } from '../time/index.ts'

const mostPlaces = 5
/** So few frames in a row still tell what a picture is. */
const fewestFrames = 4

/**
 * The places at which a stretch of a finished picture is held against its original: from its first frame to its last,
 * evenly, none over another. A short stretch is looked at whole.
 */
export function placesIn(span: FrameRange): FrameRange[] {
  const length = rangeLength(span)
  const count = Math.max(1, Math.min(mostPlaces, Math.floor(length / fewestFrames)))
  const frames = Math.min(comparedFrames, Math.floor(length / count))
  return Array.from({ length: count }, (_, index) => {
    const startFrame = span.startFrame + (count === 1 ? 0 : Math.floor(((length - frames) * index) / (count - 1)))
    return { startFrame, endFrame: startFrame + frames }
  })
}
