import { type EvidenceRow, judgePair, type PairVerdict, type Presence, worstPresence } from '@ennick/core'
import type { pairs } from './schema.ts'

interface File {
  readonly fingerprint: string
  readonly presence: Presence
}

/** What has to be known of a pair beside its files. */
interface Judged
  extends Pick<typeof pairs.$inferSelect, 'originalFingerprints' | 'madeFingerprints' | 'recipeVersion'> {
  /** The newest version of what it was made with. */
  readonly recipe: { readonly version: number } | null
  readonly comparison: EvidenceRow[] | null
  readonly soundChange: string | null
}

/** Whether files have other content than was noted of them, in order. */
export const differs = (noted: readonly string[], now: readonly Pick<File, 'fingerprint'>[]): boolean =>
  noted.some((fingerprint, index) => now[index]?.fingerprint !== fingerprint)

/** The verdict on a pair by what is known now. @param presence of the original, of whatever files */
export const judge = (
  pair: Judged,
  original: readonly File[],
  made: readonly File[],
  presence: Presence,
): PairVerdict =>
  judgePair({
    original: presence,
    made: made.length ? worstPresence(made.map((file) => file.presence)) : 'gone',
    comparison: pair.comparison,
    originalChanged: differs(pair.originalFingerprints, original),
    soundChanged: pair.soundChange !== null,
    madeChanged: differs(pair.madeFingerprints, made),
    recipeChanged: pair.recipe !== null && pair.recipeVersion !== null && pair.recipe.version > pair.recipeVersion,
  })
