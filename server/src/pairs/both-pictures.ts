import type { FramePair } from '@ennick/contract'
import { alignFrames, type FrameRange, formatTimecode, frameBeside, sharedFrames } from '@ennick/core'
import type { KnownClip, KnownFile } from '../store/known-material.ts'

/**
 * Frames of an original and of an item that stand beside each other at the same timecode, at head, middle and tail of
 * what both have; where they share no timecode, by their numbers.
 * @param within of these frames of the original alone, counted from its first
 */
export function bothPictures(clip: KnownClip, made: KnownFile, within?: FrameRange): FramePair[] {
  const [original, item] = [clip.main.facts, made.facts]
  const alignment = original && item ? alignFrames(original, item) : null
  if (!original?.picture || !item?.picture || !alignment) return []
  const { rate, frames } = original.picture
  const shared = sharedFrames(alignment, frames, item.picture.frames)
  const from = Math.max(shared.startFrame, within?.startFrame ?? 0)
  const to = Math.min(shared.endFrame, within?.endFrame ?? frames) - 1
  if (from > to) return []
  return [...new Set([from, Math.floor((from + to) / 2), to])].flatMap((frame) => {
    const place = placeIn(clip, frame)
    const label =
      original.startFrame === null
        ? `frame ${frame}`
        : formatTimecode(original.startFrame + frame, rate, original.dropFrame)
    return place ? [{ label, original: place, made: { fileId: made.id, frame: frameBeside(alignment, frame) } }] : []
  })
}

/** In which file of a clip a frame lies. */
export function placeIn(clip: KnownClip, frame: number): { fileId: string; frame: number } | null {
  let before = 0
  for (const file of clip.files) {
    const length = file.facts?.picture?.frames ?? 0
    if (frame < before + length) return { fileId: file.id, frame: frame - before }
    before += length
  }
  return null
}
