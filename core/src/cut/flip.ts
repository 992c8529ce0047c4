import type { Cut } from './model.ts'

/**
 * The names that tracks get when the order of those between two of a kind is turned over: systems differ in whether the
 * first track is the lowest or the uppermost.
 * @returns null unless both are tracks of the cut, of one kind, and not the same
 */
export function flippedTracks(tracks: Cut['tracks'], from: string, to: string): Map<string, string> | null {
  const ends = [from, to].map((name) => tracks.find((track) => track.name === name))
  const [first, last] = ends
  if (!first || !last || first === last || first.kind !== last.kind) return null
  const numbers = ends.map((track) => Number(track?.name.slice(1)))
  const [low, high] = [Math.min(...numbers), Math.max(...numbers)]
  const letter = from.slice(0, 1)
  return new Map(
    Array.from({ length: high - low + 1 }, (_, index) => [`${letter}${low + index}`, `${letter}${high - index}`]),
  )
}
