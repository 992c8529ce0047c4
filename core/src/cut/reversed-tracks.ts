import type { EventChange } from './compare.ts'
import type { Cut } from './model.ts'

/** The outermost of tracks that came over in reverse order. */
export interface ReversedTracks {
  readonly from: string
  readonly to: string
}

const numberOf = (track: string): number => Number(track.slice(1))

/**
 * The tracks, of picture and of sound, that a version has in the reverse order of the one before: systems differ in
 * whether the first is the lowest or the uppermost. It is said only where every event that is known again stands on the
 * opposite track, and more than one track is told by that: what one editor swaps by hand is no other system's order.
 */
export function reversedTracks(before: Cut, after: Cut, changes: readonly EventChange[]): ReversedTracks[] {
  return (['picture', 'sound'] as const).flatMap((kind) => {
    const numbers = (cut: Cut): number[] =>
      cut.tracks.filter((track) => track.kind === kind).map(({ name }) => numberOf(name))
    const [was, is] = [numbers(before), numbers(after)]
    const [low, high] = [Math.min(...was), Math.max(...was)]
    if (was.length < 2 || low !== Math.min(...is) || high !== Math.max(...is)) return []
    const seen = new Set<number>()
    for (const change of changes) {
      const [old, now] = [before.events[change.before ?? -1], after.events[change.after ?? -1]]
      if (!old || !now || old.kind !== kind || change.kinds.includes('replaced')) continue
      if (numberOf(now.track) !== low + high - numberOf(old.track)) return []
      seen.add(numberOf(old.track))
    }
    const letter = kind === 'picture' ? 'V' : 'A'
    return seen.size > 1 ? [{ from: `${letter}${low}`, to: `${letter}${high}` }] : []
  })
}
