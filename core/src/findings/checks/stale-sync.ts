import { type Check, eventNumbers, type Finding, fact, keyedOn, usedClips } from '../finding.ts'

/**
 * Pictures that were synced with a recording before it, or they, held something else: the samples that tables and pull
 * lists name are those of what was there then. Where their sound is in the cut, that is what the mix would get.
 */
export const staleSync: Check = (context) =>
  usedClips(context).flatMap(({ clip, events }): Finding[] => {
    const { syncChange } = clip
    if (syncChange === null) return []
    const isHeard = events.some((position) => context.events[position]?.kind === 'sound')
    return [
      {
        ...keyedOn(`stale sync:${clip.id}`, syncChange.mark),
        kind: 'stale sync',
        severity: isHeard ? 'blocks handoff' : 'needs a look',
        message: `${clip.name} carries ${eventNumbers(context, events)}. ${syncChange.why}`,
        clipId: clip.id,
        pairIds: [],
        events,
        evidence: [fact('sound', 'what was synced', 'something else', 'changed since')],
        mends: [],
      },
    ]
  })
