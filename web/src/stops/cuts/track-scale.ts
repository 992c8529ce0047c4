/** The stretch of the record that a picture shows, in frames. */
export interface Window {
  readonly from: number
  readonly to: number
}

/** The narrowest stretch that is shown: below it nothing more is to be seen. */
const fewestFrames = 12

/** A window made narrower (below 1) or wider around a frame, and kept within the whole. */
export function zoomed(window: Window, whole: Window, factor: number, around: number): Window {
  const span = Math.min(whole.to - whole.from, Math.max(fewestFrames, (window.to - window.from) * factor))
  const share = (around - window.from) / Math.max(1, window.to - window.from)
  return within({ from: around - share * span, to: around + (1 - share) * span }, whole)
}

/** A window moved by frames, and kept within the whole. */
export const panned = (window: Window, whole: Window, frames: number): Window =>
  within({ from: window.from + frames, to: window.to + frames }, whole)

function within({ from, to }: Window, whole: Window): Window {
  const span = Math.min(to - from, whole.to - whole.from)
  const start = Math.min(Math.max(from, whole.from), whole.to - span)
  return { from: start, to: start + span }
}

/** What is drawn as one: an event, or several that are too narrow to be told apart. */
export interface Block {
  /** Of the first. */
  readonly index: number
  readonly count: number
  readonly from: number
  readonly to: number
  readonly isWell: boolean
}

/**
 * The events of a track as blocks of at least some frames, so that as many are drawn as can be seen, however many there
 * are. Events that are well and others are never one block.
 * @param events in the order of the record
 * @param leastFrames what is narrower is drawn with its neighbours
 */
export function blocksOf(
  events: readonly { readonly from: number; readonly to: number; readonly isWell: boolean; readonly index: number }[],
  window: Window,
  leastFrames: number,
): Block[] {
  const blocks: Block[] = []
  for (const { from, to, isWell, index } of events) {
    if (to <= window.from || from >= window.to) continue
    const last = blocks.at(-1)
    const isNarrow = to - from < leastFrames
    const joins =
      last && last.isWell === isWell && isNarrow && from - last.to < leastFrames && last.to - last.from < leastFrames
    if (joins) blocks[blocks.length - 1] = { ...last, to, count: last.count + 1 }
    else blocks.push({ index, count: 1, from, to, isWell })
  }
  return blocks
}

/** Steps of the ruler, in frames: so that labels stand some room apart. */
export function rulerStep(window: Window, nominalRate: number, mostLabels: number): number {
  const seconds = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 1800, 3600]
  const steps = [1, 2, 5, 10, ...seconds.map((each) => each * nominalRate)]
  return steps.find((step) => (window.to - window.from) / step <= mostLabels) ?? 7200 * nominalRate
}
