import type { Clip } from '@ennick/contract'

/** The cell that is being edited: of this clip, wherever the list has it by now. */
export interface EditedRow {
  readonly clip: Clip
  readonly field: string
  /** Where it stood when editing began. */
  readonly index: number
}

/**
 * Where the edited clip is drawn: at its place in the list as it is now, or, while the list does not have it, as near
 * as can be to where it stood. A list that is read again, sorted anew or filtered takes nobody's words away, and never
 * puts another clip under them.
 */
export function placeOfEdited(
  edited: EditedRow,
  total: number,
  placeOf: (clipId: string) => number | undefined,
): number {
  return placeOf(edited.clip.id) ?? Math.max(0, Math.min(edited.index, total - 1))
}
