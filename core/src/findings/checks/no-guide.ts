import { channelCount } from '../../media/index.ts'
import type { GuidelessTrack } from '../../sync/index.ts'
import { count } from '../../text/index.ts'
import { type Check, eventNumbers, type Finding, type FindingClip, fact, keyedOn, usedClips } from '../finding.ts'

/** A guide that was promised and is not there: who waits for it to sync or to hear what was said waits in vain. */
export const noGuide: Check = (context) =>
  usedClips(context).flatMap(({ clip, events }): Finding[] => {
    const what = clip.soundUse === 'guide' && clip.facts.picture ? lackOf(clip) : null
    if (what === null) return []
    return [
      {
        ...keyedOn(`no guide:${clip.id}`, what),
        kind: 'no guide',
        severity: 'needs a look',
        message: `A guide is promised on ${clip.name}, and ${what}. It serves ${eventNumbers(context, events)}.`,
        clipId: clip.id,
        pairIds: [],
        events,
        evidence: [fact('sound', 'a guide', what, 'no guide is heard there')],
        mends: [],
      },
    ]
  })

/** What keeps a clip from having a guide; null where one is heard, or where nobody has listened yet. */
function lackOf({ facts, guidelessTracks }: FindingClip): string | null {
  const channels = channelCount(facts)
  if (channels === 0) return 'it has no sound'
  if (guidelessTracks.length < channels) return null
  const [first, ...others] = guidelessTracks.map(({ holds }) => wordsFor[holds])
  if (channels === 1) return `its track holds ${first}`
  if (others.every((words) => words === first)) return `all of its ${count(channels, 'track')} hold ${first}`
  const each = guidelessTracks.map(({ track, holds }) => `track ${track} ${wordsFor[holds]}`)
  return `none of its ${count(channels, 'track')} holds one: ${each.join(', ')}`
}

const wordsFor: Record<GuidelessTrack['holds'], string> = {
  silence: 'silence',
  'a steady sound': 'a steady sound, a tone or hiss',
  music: 'what sounds like music',
}
