import type { SoundFacts } from '../media/index.ts'
import { compare } from '../time/index.ts'
import { readSoundLink, type SoundLink } from './sound-link.ts'
import { describeOffset } from './sound-words.ts'

/** What a made item's sound was made of, where its recipe wants a clip's recording and the clip had one. */
export interface LaidSound {
  /** Clips of the recording that was laid; none where nothing of it was used. */
  readonly soundIds: readonly string[]
  /** The streams of the clip as they were handed to the recipe. */
  readonly sound: readonly SoundFacts[]
  /** The link of the clip then, as text; absent where an earlier version did not keep it. */
  readonly link?: string
  /** Fingerprints of the recording's files then, in the order of the link. */
  readonly fingerprints?: readonly string[]
}

/**
 * Why the sound of a made item is not what it would be made of now, in a sentence; null while it is.
 * @param laid what it was made of; null where the clip had no recording
 * @param now the link of the clip as it is
 * @param fingerprints of the recording's files as they are; null for one that is not known any more
 * @param wantsRecording whether its recipe lays recordings at all
 */
export function soundChangedSince(
  laid: LaidSound | null,
  now: SoundLink | null,
  fingerprints: readonly (string | null)[],
  wantsRecording: boolean,
): string | null {
  if (!laid) return now && wantsRecording ? 'Its clip was synced with a recording since this was made.' : null
  if (!now) return 'It was made with a recording that its clip is not synced with any more.'
  const before = readSoundLink(laid.link)
  if (!before) return 'How its recording lay when it was made was not kept.'
  if (before.soundIds.join() !== now.soundIds.join())
    return 'Its clip was synced with another recording since this was made.'
  if (before.sampleRate !== now.sampleRate || compare(before.offsetSamples, now.offsetSamples) !== 0) {
    const [then, since] = [before, now].map(({ offsetSamples, sampleRate }) =>
      describeOffset(offsetSamples, sampleRate),
    )
    return `Its clip was synced anew since this was made: its recording began at ${then}, and now at ${since}.`
  }
  if (String(before.tracks) !== String(now.tracks))
    return 'Other tracks of its recording were chosen since this was made.'
  if (before.cameraSound !== now.cameraSound)
    return `The camera’s own sound was ${before.cameraSound} when this was made, and is ${now.cameraSound} now.`
  const isOther = (laid.fingerprints ?? []).some((mark, index) => (fingerprints[index] ?? mark) !== mark)
  return isOther ? 'Its recording has changed since this was made.' : null
}
