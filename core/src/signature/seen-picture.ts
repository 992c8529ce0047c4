import { byOrder, leastJudged, leastVariation, type NormalPicture, normalise } from './normal-stretch.ts'

/** A single picture, and what it can be judged by. */
export interface Seen {
  readonly picture: NormalPicture
  /** Whether it is more than a codec may leave of nothing. */
  readonly isStrong: boolean
  /** Made when it is first asked for. */
  order: Float32Array | null
}

export const see = (cells: Float32Array): Seen => ({
  picture: normalise(cells, leastVariation),
  isStrong: normalise(cells, leastJudged) !== null,
  order: null,
})

/** The picture as it is; of one that holds something. */
export const asIs = ({ picture }: Seen): Float32Array => picture as Float32Array

/** The order of its levels, which no tone curve changes; of one that holds something. */
export function inOrder(seen: Seen): Float32Array {
  seen.order ??= byOrder(seen.picture) as Float32Array
  return seen.order
}
