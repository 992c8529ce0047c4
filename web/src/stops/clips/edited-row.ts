import type { Clip } from '@ennick/contract'

/** The cell that is being edited: of this clip, wherever the list has it by now. */
export interface EditedRow {
  readonly clip: Clip
  readonly field: string
  /** Where it stood when editing began. */
  readonly index: number
}

/** Where the edited clip is drawn: as its own row of the list, or as one more beside those. */
export interface EditedPlace {
  readonly at: number
  readonly isBeside: boolean
}

/**
 * The edited clip is drawn at its place in the list as it is now, or, while the list does not have it, as near as can be
 * to where it stood, and no row of the list goes for it. A list that is read again, sorted anew or filtered takes
 * nobody's words away, and never puts another clip under them.
 * @param isRead whether the row at a place was read: a page that is on its way may have the clip
 */
export function placeOfEdited(
  edited: EditedRow,
  total: number,
  placeOf: (clipId: string) => number | undefined,
  isRead: (index: number) => boolean,
): EditedPlace {
  const place = placeOf(edited.clip.id)
  if (place !== undefined) return { at: place, isBeside: false }
  const nearest = Math.min(edited.index, total - 1)
  if (total > 0 && !isRead(nearest)) return { at: nearest, isBeside: false }
  return { at: Math.min(edited.index, total), isBeside: true }
}
