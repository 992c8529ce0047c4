import type { MediaFacts } from '../media/index.ts'
import { type FrameRange, type Rate, sameRate } from '../time/index.ts'

/** How the frames of an item stand beside those of its original. */
export interface Alignment {
  /** What puts them beside each other: equal labels, their first frames, or the time since those at another rate. */
  readonly basis: 'timecode' | 'first frame' | 'time'
  /** The frame of the item beside the original's first; below zero when the item begins later. */
  readonly shiftFrames: number
  readonly original: Rate
  readonly item: Rate
}

/**
 * Puts an item beside its original: by timecode where both have one at the same rate and share any of it, else by
 * their first frames. Null unless both are pictures.
 */
export function alignFrames(original: MediaFacts, item: MediaFacts): Alignment | null {
  if (!original.picture || !item.picture) return null
  const rates = { original: original.picture.rate, item: item.picture.rate }
  if (!sameRate(rates.original, rates.item)) return { basis: 'time', shiftFrames: 0, ...rates }
  if (original.startFrame !== null && item.startFrame !== null) {
    const shiftFrames = original.startFrame - item.startFrame
    if (shiftFrames < item.picture.frames && shiftFrames + original.picture.frames > 0)
      return { basis: 'timecode', shiftFrames, ...rates }
  }
  return { basis: 'first frame', shiftFrames: 0, ...rates }
}

/**
 * The frame of the item that is seen while a frame of the original is.
 * @param frame of the original, whose first is 0
 * @returns counted from the item's first; it may lie outside of the item
 */
export function frameBeside({ shiftFrames, original, item }: Alignment, frame: number): number {
  const scaled =
    (BigInt(frame) * BigInt(item.numerator) * BigInt(original.denominator)) /
    (BigInt(item.denominator) * BigInt(original.numerator))
  return Number(scaled) + shiftFrames
}

/** The first frame of the original during which a frame of the item, counted from its first, is seen. */
export function originalBeside({ shiftFrames, original, item }: Alignment, frame: number): number {
  const up = BigInt(original.numerator * item.denominator)
  const down = BigInt(original.denominator * item.numerator)
  return Number((BigInt(frame - shiftFrames) * up + down - 1n) / down)
}

/** The frames of the original beside which the item has one; empty when it has none. */
export function sharedFrames(alignment: Alignment, originalFrames: number, itemFrames: number): FrameRange {
  const startFrame = Math.max(0, originalBeside(alignment, 0))
  return { startFrame, endFrame: Math.max(startFrame, Math.min(originalFrames, originalBeside(alignment, itemFrames))) }
}
