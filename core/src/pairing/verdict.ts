import type { EvidenceRow } from './compare.ts'

/** Where a file is as far as is known: there, absent with its volume, or absent from a volume that is there. */
export type Presence = 'here' | 'away' | 'gone'

/**
 * The words for a pair. It is proven when facts agree and its pictures, or its content, were compared with the
 * original's; matched when facts agree and nobody has looked at the pictures.
 */
export type PairVerdict =
  | 'proven'
  | 'matched'
  | 'unchecked'
  | 'stale'
  | 'mismatched'
  | 'proxy gone'
  | 'proxy away'
  | 'original gone'
  | 'original away'
  | 'both gone'

export interface PairState {
  readonly original: Presence
  readonly made: Presence
  /** Null when the two were never compared. */
  readonly comparison: readonly EvidenceRow[] | null
  /** The original's content differs from what it was when the pair was tied. */
  readonly originalChanged: boolean
  /** Its sound would be made of something else now. */
  readonly soundChanged: boolean
  /** The made file's content differs from what it was when it was checked. */
  readonly madeChanged: boolean
  /** The recipe has a newer version than the one it was made with. */
  readonly recipeChanged: boolean
}

/**
 * The verdict on a pair in a word. What is lost comes before what is away, then what is wrong, then what is old:
 * a proxy that plays never hides an original that is gone.
 */
export function judgePair(state: PairState): PairVerdict {
  if (state.original === 'gone' && state.made === 'gone') return 'both gone'
  if (state.original === 'gone') return 'original gone'
  if (state.made === 'gone') return 'proxy gone'
  if (state.original === 'away') return 'original away'
  if (state.made === 'away') return 'proxy away'
  if (state.originalChanged || state.soundChanged) return 'stale'
  if (state.comparison === null || state.madeChanged) return 'unchecked'
  if (state.comparison.some((row) => !row.agrees)) return 'mismatched'
  if (state.recipeChanged) return 'stale'
  return state.comparison.some(isOfContent) ? 'proven' : 'matched'
}

const isOfContent = ({ aspect }: EvidenceRow): boolean => aspect === 'pictures' || aspect === 'content'

/** Whether nothing about a pair needs anybody. */
export const isWell = (verdict: PairVerdict): boolean => verdict === 'proven' || verdict === 'matched'

/** The worst presence of several files: an item is here only when all of it is. */
export function worstPresence(presences: readonly Presence[]): Presence {
  if (presences.includes('gone')) return 'gone'
  return presences.includes('away') ? 'away' : 'here'
}
