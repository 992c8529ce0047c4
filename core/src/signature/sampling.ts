/** Consecutive pictures of each place at which a file is looked at, for telling clips apart. */
export const signedFrames = 8
/** Of each place at which an item is compared with its original, for telling frames apart. */
export const comparedFrames = 16
/** By so many frames pictures may run early or late and be found. */
export const mostShift = 3
const places = 5

/**
 * The first frames of the stretches at which a file is looked at: its head, its quarters and its tail. A proxy that is
 * a little shorter is looked at nearly at the same frames.
 */
export function stretchStarts(frames: number, stretchFrames: number): number[] {
  const last = Math.max(0, frames - stretchFrames)
  return [...new Set(Array.from({ length: places }, (_, index) => Math.floor((last * index) / (places - 1))))]
}
