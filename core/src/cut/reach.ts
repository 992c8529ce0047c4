import { labelledRange } from '../media/index.ts'
import { type ExactRange, isCovered, type Shortfall, shortfall } from '../time/index.ts'
import type { CutEvent } from './model.ts'
import { onClipAxis } from './on-clip-axis.ts'
import type { ResolvableClip } from './resolution.ts'

/** What a use asks of a clip, and what of that the clip does not have. */
export interface Reach {
  /** What the use needs, on the clip's own timecode axis. */
  readonly use: ExactRange
  /** Null where it has all of it, or does not say how long it is. */
  readonly lack: Shortfall | null
}

/**
 * How far a clip reaches for a use.
 * @param needed what the use needs, as its list counts its source
 * @param suffixes of proxies' names, by which a list may name a file of a take over several
 */
export function reachOf(event: CutEvent, needed: ExactRange, clip: ResolvableClip, suffixes: readonly string[]): Reach {
  const use = onClipAxis(event, needed, clip, suffixes)
  const range = labelledRange(clip.facts, event.sourceRate)
  const lack = range && shortfall(use, range)
  return { use, lack: lack && !isCovered(lack) ? lack : null }
}
