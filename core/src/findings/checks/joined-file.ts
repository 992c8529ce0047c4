import type { CutEvent } from '../../cut/index.ts'
import { type JoinedSource, takeApart } from '../../join/index.ts'
import { count, groupBy } from '../../text/index.ts'
import { type Check, eventNumbers, type Finding, type FindingContext, fact, keyOfEvent } from '../finding.ts'

interface UseOfJoined {
  readonly position: number
  readonly source: JoinedSource
  /** Why it cannot be taken apart; null where it can. */
  readonly refusal: string | null
}

/**
 * Events that name a joined file: what they show are its parts, each of an original of its own. Those that can be taken
 * apart are one finding a file, and so are those that cannot for the same reason.
 */
export const joinedFile: Check = (context) => {
  const { joined } = context
  if (!joined) return []
  const uses = context.resolutions.flatMap(({ state, exactNeed }, position): UseOfJoined[] => {
    const event = context.events[position] as CutEvent
    const source = state === 'unresolved' ? joined.of(event) : undefined
    if (!source) return []
    const apart = takeApart(context, event, source, exactNeed)
    return [{ position, source, refusal: 'refusal' in apart ? apart.refusal : null }]
  })
  const groups = groupBy(uses, ({ source, refusal }) => JSON.stringify([source.id, refusal]))
  return [...groups.values()].map((list) => findingOf(context, list))
}

function findingOf(context: FindingContext, list: readonly UseOfJoined[]): Finding {
  const { source, refusal, position } = list[0] as UseOfJoined
  const events = list.map((use) => use.position)
  const isJoined = `${source.name} is a joined file of ${count(source.entries.length, 'item')}`
  return {
    key: `joined file:${source.id}:${refusal ?? ''}:${keyOfEvent(context, position)}`,
    kind: 'joined file',
    severity: 'blocks handoff',
    message:
      refusal === null
        ? `${isJoined}: taken apart, ${count(events.length, 'use')} of it will name what they show.`
        : `${isJoined}, and ${eventNumbers(context, events)} cannot be taken apart: ${refusal}.`,
    ...{ clipId: null, pairIds: [], events },
    evidence: [fact('name', 'one original', source.name, `joined of ${count(source.entries.length, 'item')}`)],
    mends: refusal === null ? ['take apart'] : ['replace from the start'],
  }
}
