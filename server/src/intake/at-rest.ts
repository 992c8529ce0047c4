import type { FileStamp } from '../disk/fingerprint.ts'

/**
 * Whether something may still be writing a file: it was changed less than `restSeconds` ago. A time far in the future
 * comes from a camera's clock and says nothing of that.
 */
export const isGrowing = ({ mtimeMicros }: Pick<FileStamp, 'mtimeMicros'>, restSeconds: number): boolean =>
  Math.abs(Date.now() * 1000 - mtimeMicros) < restSeconds * 1_000_000
