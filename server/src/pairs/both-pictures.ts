import type { FramePair } from '@ennick/contract'
import { type FrameRange, formatTimecode, sameRate } from '@ennick/core'
import type { KnownClip, KnownFile } from '../store/material.ts'

/**
 * Frames of an original and of an item that stand beside each other at the same timecode, at head, middle and tail of
 * what both have; where they share no timecode, by their numbers.
 * @param within of these frames of the original alone, counted from its first
 */
export function bothPictures(clip: KnownClip, made: KnownFile, within?: FrameRange): FramePair[] {
  const [original, item] = [clip.main.facts, made.facts]
  if (!original?.picture || !item?.picture) return []
  const { rate, frames } = original.picture
  const length = item.picture.frames
  const byTimecode =
    original.startFrame !== null && item.startFrame !== null && sameRate(rate, item.picture.rate)
      ? item.startFrame - original.startFrame
      : 0
  const shared = (beside: number): [from: number, to: number] => [
    Math.max(0, -beside),
    Math.min(length, frames - beside) - 1,
  ]
  const isShared = shared(byTimecode)[0] <= shared(byTimecode)[1]
  const beside = isShared ? byTimecode : 0
  const [first, last] = shared(beside)
  const from = Math.max(first, (within?.startFrame ?? 0) - beside)
  const to = Math.min(last, (within?.endFrame ?? frames) - 1 - beside)
  if (from > to) return []
  return [...new Set([from, Math.floor((from + to) / 2), to])].flatMap((frame) => {
    const place = placeIn(clip, frame + beside)
    const label =
      original.startFrame === null
        ? `frame ${frame + beside}`
        : formatTimecode(original.startFrame + frame + beside, rate, original.dropFrame)
    return place ? [{ label, original: place, made: { fileId: made.id, frame } }] : []
  })
}

/** In which file of a clip a frame lies. */
function placeIn(clip: KnownClip, frame: number): { fileId: string; frame: number } | null {
  let before = 0
  for (const file of clip.files) {
    const length = file.facts?.picture?.frames ?? 0
    if (frame < before + length) return { fileId: file.id, frame: frame - before }
    before += length
  }
  return null
}
