import type { CutEvent } from '../model.ts'

/** Keeps "out of black" only where it says something: where the event before ends just there. */
export function tidyBlack(events: readonly CutEvent[]): CutEvent[] {
  const last = new Map<string, CutEvent>()
  return events.map((event) => {
    const before = last.get(event.track)
    last.set(event.track, event)
    const { transition } = event
    if (!transition?.fromBlack) return event
    if (before && !before.fadeOut && before.record.endFrame === event.record.startFrame) return event
    const { fromBlack: _, ...rest } = transition
    return { ...event, transition: rest }
  })
}
