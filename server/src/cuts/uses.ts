import type { Span } from '@ennick/contract'
import { formatFrames, type Rate, type Shortfall, sameRate } from '@ennick/core'
import type { UsesOfClips } from '../clips/uses.ts'
import type { CutState } from './cut-state.ts'

/** What some cuts make of the clips. */
export function usesIn(states: readonly CutState[]): UsesOfClips {
  const counts = new Map<string, number>()
  for (const state of states)
    for (const { clipId } of state.resolutions) if (clipId) counts.set(clipId, (counts.get(clipId) ?? 0) + 1)
  return {
    count: (clipId) => counts.get(clipId) ?? 0,
    spans: (clipId, rate) => (counts.has(clipId) ? states.flatMap((state) => useSpans(state, clipId, rate)) : []),
    list: (clipId) =>
      states.flatMap((state) =>
        state.resolutions.flatMap((resolution, position) => {
          const event = state.cut.events[position]
          return resolution.clipId === clipId && event
            ? [
                {
                  cutId: state.row.id,
                  cutName: state.row.name,
                  event: event.number,
                  track: event.track,
                  state: resolution.state,
                },
              ]
            : []
        }),
      ),
  }
}

/** Where a cut uses a clip, in frames of a rate. */
function useSpans(state: CutState, clipId: string, rate: Rate): Span[] {
  return state.resolutions.flatMap((resolution, position) => {
    const event = state.cut.events[position]
    if (resolution.clipId !== clipId || !event) return []
    const scale = sameRate(event.sourceRate, rate)
      ? 1
      : (rate.numerator * event.sourceRate.denominator) / (rate.denominator * event.sourceRate.numerator)
    return [
      {
        label: `${event.track} ${event.number}`,
        start: resolution.needed.startFrame * scale,
        end: resolution.needed.endFrame * scale,
        note: resolution.shortfall ? shortfallNote(resolution.shortfall) : null,
        isWhollyOff: false,
      },
    ]
  })
}

export function shortfallNote(lack: Shortfall): string {
  const head = lack.headFrames.numerator > 0n ? `${formatFrames(lack.headFrames)} before the start` : ''
  const tail = lack.tailFrames.numerator > 0n ? `${formatFrames(lack.tailFrames)} past the end` : ''
  return [head, tail].filter(Boolean).join(', ')
}
