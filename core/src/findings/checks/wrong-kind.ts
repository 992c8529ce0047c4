import { type Check, eventNumbers, type Finding, fact, keyedOn, usedClips } from '../finding.ts'

/** An event of pictures that lands on sound alone, or one of sound on a medium without any. */
export const wrongKind: Check = (context) =>
  usedClips(context).flatMap(({ clip, events }): Finding[] => {
    const { picture, sound } = clip.facts
    const wrong = events.filter((position) =>
      context.events[position]?.kind === 'picture' ? picture === null : sound.length === 0,
    )
    if (wrong.length === 0) return []
    const [wanted, found] = picture === null ? ['pictures', 'sound alone'] : ['sound', 'no sound']
    const asking = `${eventNumbers(context, wrong)} ${wrong.length === 1 ? 'asks' : 'ask'}`
    return [
      {
        ...keyedOn(`wrong kind:${clip.id}`, found),
        kind: 'wrong kind',
        severity: 'blocks handoff',
        message: `${clip.name} has ${found}, and ${asking} for ${wanted}.`,
        clipId: clip.id,
        pairIds: [],
        events: wrong,
        evidence: [fact('kind', wanted, found, 'another kind of medium')],
        mends: ['repoint', 'replace from the start'],
      },
    ]
  })
