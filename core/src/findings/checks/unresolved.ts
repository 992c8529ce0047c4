import type { CutEvent } from '../../cut/index.ts'
import { compareText, groupBy } from '../../text/index.ts'
import { type Check, eventNumbers, type Finding, type FindingContext, fact, keyOfEvent, placeOf } from '../finding.ts'

/**
 * Events that no clip could be found for, or that several clips claim. Those that ask for the same source are one
 * finding. Those of a joined file are told by another check.
 */
export const unresolved: Check = (context) => {
  const open = context.resolutions.flatMap(({ state, rivals }, position) =>
    state === 'unresolved' && !context.joined?.of(context.events[position] as CutEvent) ? [{ position, rivals }] : [],
  )
  const groups = groupBy(open, ({ position, rivals }) => {
    const event = context.events[position] as CutEvent
    return JSON.stringify([event.clipName, event.reel, event.path, rivals])
  })
  return [...groups.values()].map((list) =>
    unresolvedFinding(
      context,
      list.map(({ position }) => position),
    ),
  )
}

function unresolvedFinding(context: FindingContext, events: number[]): Finding {
  const first = events[0] as number
  const event = context.events[first] as CutEvent
  const resolution = context.resolutions[first] as (typeof context.resolutions)[number]
  const name = event.clipName ?? event.path ?? `reel ${event.reel ?? 'not known'}`
  // By their paths, so that they stand in the same order each time somebody looks.
  const rivals = resolution.rivals
    .flatMap((id) => context.clips.get(id) ?? [])
    .sort((a, b) => compareText(a.originalPaths[0] ?? '', b.originalPaths[0] ?? ''))
  const kind = rivals.length > 1 ? 'ambiguous' : rivals.length === 1 ? 'another name' : 'unresolved'
  return {
    key: `${kind}:${event.clipName ?? ''}:${event.reel ?? ''}:${event.path ?? ''}:${keyOfEvent(context, first)}`,
    kind,
    severity: 'blocks handoff',
    message: {
      ambiguous: `${name}: ${rivals.length} originals fit ${eventNumbers(context, events)} equally well. Choose one.`,
      'another name': `${name}: ${rivals[0]?.name} fits ${eventNumbers(context, events)} by reel and timecode, and is called otherwise. Choose it if it is the same shot.`,
      unresolved: `${name}: no known original fits ${eventNumbers(context, events)}.`,
    }[kind],
    clipId: null,
    pairIds: [],
    events,
    evidence: [
      ...resolution.evidence,
      ...rivals.map((clip) =>
        fact(
          'place',
          'one original',
          placeOf(clip),
          rivals.length > 1 ? 'fits as well as the others' : 'called otherwise',
        ),
      ),
    ],
    mends: ['repoint', 'replace from the start'],
    choices: rivals.map((clip) => ({ clipId: clip.id, against: null })),
  }
}
