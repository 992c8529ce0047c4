import type { CutEvent } from '../../cut/index.ts'
import { formatRate, sameRate } from '../../time/index.ts'
import { type Check, eventNumbers, type Finding, keyedOn, usedClips } from '../finding.ts'

/**
 * A list counts a source at a rate that its original does not have: its timecodes for that source cannot be trusted.
 */
export const listRate: Check = (context) =>
  usedClips(context).flatMap(({ clip, events }): Finding[] => {
    const own = clip.facts.picture?.rate
    if (!own) return []
    const wrong = events.filter((position) => !sameRate((context.events[position] as CutEvent).sourceRate, own))
    if (wrong.length === 0) return []
    const counted = (context.events[wrong[0] as number] as CutEvent).sourceRate
    return [
      {
        ...keyedOn(`list rate:${clip.id}`, `${formatRate(counted)}:${formatRate(own)}`),
        kind: 'rate mismatch',
        severity: 'needs a look',
        message: `The list counts ${clip.name} at ${formatRate(counted)}, but it was recorded at ${formatRate(own)}: check the ins and outs of ${eventNumbers(context, wrong)}.`,
        clipId: clip.id,
        pairIds: [],
        events: wrong,
        evidence: [
          {
            aspect: 'rate',
            expected: formatRate(counted),
            found: formatRate(own),
            agrees: false,
            difference: 'the rates differ',
          },
        ],
        mends: [],
      },
    ]
  })
