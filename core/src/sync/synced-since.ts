import type { SoundLink } from './sound-link.ts'

/** Why a recording may lie otherwise beside its picture by now than its link says. */
export interface SyncChange {
  /** In a sentence, with what to do. */
  readonly why: string
  /** What marks the content of all of them now: a decision is one on this, and not on what may come after it. */
  readonly mark: string
}

/**
 * Whether a recording may lie otherwise beside its picture by now than its link says; null while nothing speaks for it.
 * @param picture what marks the content of the picture's files now
 * @param recordings the same of each clip of the recording, in the order of the link; null for one that is not known
 * any more
 */
export function syncedSince(
  { contents }: SoundLink,
  picture: string,
  recordings: readonly (string | null)[],
): SyncChange | null {
  if (!contents) return null
  const mark = [picture, ...recordings].join(' ')
  if (contents.picture !== picture)
    return { why: 'The picture holds something else than when it was synced with its recording: sync them anew.', mark }
  const isOther = contents.recordings.some((then, index) => (recordings[index] ?? then) !== then)
  return isOther
    ? { why: 'Its recording holds something else than when they were synced: sync them anew.', mark }
    : null
}
