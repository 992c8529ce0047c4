import type { EvidenceRow } from '../pairing/index.ts'
import type { PictureComparison } from './offset.ts'

/**
 * The line of evidence that comparing the pictures of an item with its original's gives; null where that says nothing.
 * @param shows the name of the clip whose pictures it shows, when it shows other ones and that is known
 */
export function pictureEvidence(comparison: PictureComparison, shows: string | null): EvidenceRow | null {
  if (comparison.kind === 'not known') return null
  if (comparison.kind === 'other')
    return {
      aspect: 'pictures',
      expected: 'those of its original',
      found: shows === null ? 'other pictures' : `those of ${shows}`,
      agrees: false,
      difference: shows === null ? 'it shows other pictures' : `it shows the pictures of ${shows}`,
    }
  const { shift, pictures } = comparison
  if (shift !== null && shift !== 0) {
    const frames = `${Math.abs(shift)} ${Math.abs(shift) === 1 ? 'frame' : 'frames'} ${shift < 0 ? 'late' : 'early'}`
    return {
      aspect: 'pictures',
      expected: 'each at its own frame',
      found: frames,
      agrees: false,
      difference: `its pictures run ${frames}`,
    }
  }
  const count = `${pictures} pictures alike`
  return {
    aspect: 'pictures',
    expected: count,
    found: shift === null ? `${count}; too little moves in them to tell each from the next` : count,
    agrees: true,
    difference: null,
  }
}
