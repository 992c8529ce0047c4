import type { Span } from '@ennick/contract'
import {
  type CutEvent,
  divide,
  formatFrames,
  fraction,
  framesInto,
  multiply,
  type Rate,
  type Resolution,
  rateAsFraction,
  type Shortfall,
  sameRate,
  toNumber,
} from '@ennick/core'
import type { UsesOfClips } from '../clips/uses.ts'
import type { CutState } from './cut-state.ts'

/** One event of a cut, by its place in the list. */
export interface Use {
  readonly state: CutState
  readonly position: number
}

/** The events of some cuts by the clips that they land on. */
export function usesByClip(states: readonly CutState[]): ReadonlyMap<string, readonly Use[]> {
  const usesOf = new Map<string, Use[]>()
  for (const state of states)
    state.resolutions.forEach(({ clipId }, position) => {
      if (clipId === null || !state.cut.events[position]) return
      const list = usesOf.get(clipId)
      if (list) list.push({ state, position })
      else usesOf.set(clipId, [{ state, position }])
    })
  return usesOf
}

/** What some cuts make of the clips. */
export function usesIn(states: readonly CutState[]): UsesOfClips {
  const usesOf = usesByClip(states)
  const of = (clipId: string): readonly Use[] => usesOf.get(clipId) ?? []
  return {
    count: (clipId) => of(clipId).length,
    spans: (clipId, rate) => of(clipId).map((use) => spanOf(use, rate)),
    list: (clipId) =>
      of(clipId).map(({ state, position }) => {
        const event = state.cut.events[position] as CutEvent
        return {
          cutId: state.row.id,
          cutName: state.row.name,
          event: event.number,
          track: event.track,
          state: (state.resolutions[position] as Resolution).state,
        }
      }),
  }
}

/** Where an event uses its clip, in frames of a rate. */
function spanOf({ state, position }: Use, rate: Rate): Span {
  const event = state.cut.events[position] as CutEvent
  const { needed, shortfall, clipId } = state.resolutions[position] as Resolution
  const facts = clipId === null ? undefined : state.clips.get(clipId)?.facts
  const at = (frame: number): number => {
    if (sameRate(event.sourceRate, rate)) return frame
    // Sound has no labels: it lies where its samples are in real time. Of a picture a list means the labels.
    if (!facts?.picture)
      return toNumber(multiply(fraction(frame), divide(rateAsFraction(rate), rateAsFraction(event.sourceRate))))
    return (facts.startFrame ?? 0) + toNumber(framesInto(facts, event.sourceRate, fraction(frame)))
  }
  return {
    label: `${event.track} ${event.number}`,
    start: at(needed.startFrame),
    end: at(needed.endFrame),
    note: shortfall ? shortfallNote(shortfall) : null,
    isWhollyOff: false,
  }
}

export function shortfallNote(lack: Shortfall): string {
  const head = lack.headFrames.numerator > 0n ? `${formatFrames(lack.headFrames)} before the start` : ''
  const tail = lack.tailFrames.numerator > 0n ? `${formatFrames(lack.tailFrames)} past the end` : ''
  return [head, tail].filter(Boolean).join(', ')
}
