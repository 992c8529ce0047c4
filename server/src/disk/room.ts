const inGigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(2)} GB`

/**
 * Why something cannot be written where so much is free, in a sentence; null where it can.
 * @param what that is to be written
 * @param where people know the place by
 */
export const whyNoRoom = (what: string, neededBytes: number, freeBytes: number, where: string): string | null =>
  neededBytes <= freeBytes
    ? null
    : `${what} does not fit: ${inGigabytes(neededBytes)} are to be written and ${inGigabytes(freeBytes)} are free ${where}.`
