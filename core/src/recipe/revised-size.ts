/** What a batch comes to, in bytes, by what of it is made. */
export interface RevisedSize {
  /** What was made so far. */
  readonly madeBytes: number
  /** What the plan said of everything that is made or still to come. */
  readonly plannedBytes: number
  /** What it comes to, when what is to come is off its plan as far as what is made. */
  readonly expectedBytes: number
  /** Whether what is made is so far off its plan that a person should look at the space again. */
  readonly isOff: boolean
}

/** Between these parts of what was planned, a plan held. */
const [least, most] = [0.7, 1.3]

/**
 * Holds what was made against its plan: an estimate is from parts of originals, or from what a codec usually takes.
 * @param items of a batch that are made or to come, with what was planned for each
 * @returns null while nothing is made that had a plan
 */
export function revisedSize(
  items: readonly { readonly plannedBytes: number; readonly madeBytes: number | null }[],
): RevisedSize | null {
  const sum = (sizes: readonly number[]): number => sizes.reduce((total, size) => total + size, 0)
  const made = items.filter(({ madeBytes }) => madeBytes !== null)
  const [planned, madeBytes] = [
    sum(made.map((item) => item.plannedBytes)),
    sum(made.map((item) => item.madeBytes ?? 0)),
  ]
  if (planned === 0) return null
  const part = madeBytes / planned
  const toCome = sum(items.filter((item) => item.madeBytes === null).map((item) => item.plannedBytes))
  return {
    madeBytes,
    plannedBytes: planned + toCome,
    expectedBytes: Math.round(madeBytes + toCome * part),
    isOff: part < least || part > most,
  }
}
