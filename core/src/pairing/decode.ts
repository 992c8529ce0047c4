import type { EvidenceRow } from './compare.ts'

/**
 * The line of evidence that a made item decodes from its first frame to its last.
 * @param frames that it holds; null for sound alone
 * @param complaint what the decoder said against it, or null
 */
export function decodeEvidence(frames: number | null, complaint: string | null): EvidenceRow {
  const expected = frames === null ? 'all of its sound' : `${frames} frames, first to last`
  return { aspect: 'decode', expected, found: complaint ?? expected, agrees: complaint === null, difference: complaint }
}

/** Whether every frame was decoded, cleanly or not, since the item was last another file. */
export const wasDecodedWhole = (evidence: readonly EvidenceRow[] | null): boolean =>
  evidence?.some(({ aspect }) => aspect === 'decode') ?? false
