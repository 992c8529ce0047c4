import { formatRate } from '../../time/index.ts'
import { type Check, eventNumbers, type Finding, fact, usedClips } from '../finding.ts'

/**
 * Originals whose pictures do not follow each other evenly, as phones record them. A list counts frames: which picture
 * stands at one of them, each program decides for itself, so nobody can say that two show the same.
 */
export const variableRate: Check = (context) =>
  usedClips(context).flatMap(({ clip, events }): Finding[] => {
    const { picture } = clip.facts
    const shown = events.filter((position) => context.events[position]?.kind === 'picture')
    if (!picture?.variableRate || shown.length === 0) return []
    const rate = formatRate(picture.rate)
    return [
      {
        key: `variable rate:${clip.id}`,
        kind: 'variable rate',
        severity: 'needs a look',
        message:
          `${clip.name}, used in ${eventNumbers(context, shown)}, has a variable frame rate: which picture stands at ` +
          'a frame of the list is another in one program than in the next. Compare its pictures after the handoff, ' +
          'or replace it by a copy of a constant rate.',
        clipId: clip.id,
        pairIds: [],
        events: shown,
        evidence: [fact('rate', 'one for all of its pictures', `${clip.name}: ${rate}, varies`, 'its pictures shift')],
        mends: [],
      },
    ]
  })
