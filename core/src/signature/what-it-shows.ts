import { alikeBelow, otherAbove } from './offset.ts'

/** What is nearer than this is the same, however near another is: codecs differ by so much. */
export const surelySame = 0.02
/** Of look-alikes the one that is so many times nearer is it, and the others are not. */
const clearlyNearer = 4

/**
 * Which candidates show the same pictures, and which other ones; those of which it cannot be told are left out.
 * @param distances how far the pictures of each are, by its id, as `distanceOfSignatures` measures it
 */
export function whatItShows(distances: ReadonlyMap<string, number>): Map<string, 'the same' | 'other ones'> {
  const least = Math.min(...distances.values())
  const near = Math.min(alikeBelow, Math.max(surelySame, clearlyNearer * least))
  const far = least <= alikeBelow ? near : otherAbove
  const shown = new Map<string, 'the same' | 'other ones'>()
  for (const [id, distance] of distances) {
    if (distance <= near) shown.set(id, 'the same')
    else if (distance > far) shown.set(id, 'other ones')
  }
  return shown
}
