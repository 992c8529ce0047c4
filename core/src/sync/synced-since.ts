import type { SoundLink } from './sound-link.ts'

/**
 * Why a recording may lie otherwise beside its picture by now than its link says, in a sentence; null while nothing
 * speaks for it.
 * @param picture what marks the content of the picture's files now
 * @param recordings the same of each clip of the recording, in the order of the link; null for one that is not known
 * any more
 */
export function syncedSince(
  { contents }: SoundLink,
  picture: string,
  recordings: readonly (string | null)[],
): string | null {
  if (!contents) return null
  if (contents.picture !== picture)
    return 'The picture holds something else than when it was synced with its recording: sync them anew.'
  const isOther = contents.recordings.some((mark, index) => (recordings[index] ?? mark) !== mark)
  return isOther ? 'Its recording holds something else than when they were synced: sync them anew.' : null
}
