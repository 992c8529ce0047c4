/**
 * How the lines of a picture were taken, in the trade's words, from the encoder's name of their order.
 * @returns an empty text where the file does not say
 */
export function describeScan(scan: string | null): string {
  if (scan === null) return ''
  if (scan === 'tt') return 'interlaced, top field first'
  if (scan === 'bb') return 'interlaced, bottom field first'
  // Stored in one order and shown in the other: writers mean different things by it.
  return isInterlaced(scan) ? 'interlaced' : scan
}

/** Whether each frame holds two fields, of two moments. */
export const isInterlaced = (scan: string | null): boolean => scan !== null && /^[tb][tb]$/.test(scan)
