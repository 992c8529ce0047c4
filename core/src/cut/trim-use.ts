import { ceiling, fraction, type Shortfall, sameRate } from '../time/index.ts'
import { type Cut, type CutEvent, leavesInto } from './model.ts'

/** A use that gave up the frames which its medium does not have, or why it cannot. */
export type TrimmedUse =
  | { readonly event: CutEvent /** In whole frames. */; readonly gives: Shortfall }
  | { readonly refusal: string }

/**
 * Shortens a use by what its medium lacks, at the end where it lacks it: by whole frames, as a cut has no others. What
 * stands before and behind it stays where it is, so that black or silence is left in the place of what is given up.
 * Refused is what would change more than that: a retimed use, one with a transition at that end, one of which nothing,
 * or less than its transition, would be left.
 * @param lack in frames of the source
 */
export function trimUse(cut: Pick<Cut, 'rate' | 'events'>, position: number, lack: Shortfall): TrimmedUse {
  const event = cut.events[position] as CutEvent
  const head = Number(ceiling(lack.headFrames))
  const tail = Number(ceiling(lack.tailFrames))
  const left = event.record.endFrame - event.record.startFrame - head - tail
  const next = nextOnTrack(cut.events, position)
  const lent = Math.max(event.transition?.durationFrames ?? 0, event.fadeOut?.durationFrames ?? 0)
  const refusal =
    (event.speed.numerator !== event.speed.denominator && 'it is retimed') ||
    (!sameRate(event.sourceRate, cut.rate) && 'its source counts at another rate than the cut') ||
    (event.soundTimes && 'its sound begins or ends between frames') ||
    (event.key && 'it is part of a key') ||
    (head > 0 && event.transition && 'a transition stands at its head') ||
    (tail > 0 && (event.fadeOut || (next && leavesInto(event, next))) && 'a transition stands at its tail') ||
    (left <= 0 && 'nothing of it would be left') ||
    (left < lent && 'less of it would be left than its transition takes')
  if (refusal) return { refusal }
  const shorten = ({ startFrame, endFrame }: CutEvent['record']): CutEvent['record'] => ({
    ...{ startFrame: startFrame + head, endFrame: endFrame - tail },
  })
  return {
    event: { ...event, source: shorten(event.source), record: shorten(event.record) },
    gives: { headFrames: fraction(head), tailFrames: fraction(tail) },
  }
}

/** Events of a track stand in their order, mostly one behind another. */
function nextOnTrack(events: readonly CutEvent[], position: number): CutEvent | undefined {
  for (let at = position + 1; at < events.length; at++)
    if (events[at]?.track === events[position]?.track) return events[at]
  return undefined
}
