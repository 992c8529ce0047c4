import type { CutEvent } from '../../cut/index.ts'
import { type Check, eventNumbers, type Finding, type FindingContext, fact } from '../finding.ts'

/** Events that no clip could be found for, or that several clips claim. Those that ask for the same source are one finding. */
export const unresolved: Check = (context) => {
  const groups = new Map<string, number[]>()
  context.resolutions.forEach((resolution, position) => {
    if (resolution.state !== 'unresolved') return
    const event = context.events[position] as CutEvent
    const key = JSON.stringify([event.clipName, event.reel, event.path, resolution.rivals])
    groups.set(key, [...(groups.get(key) ?? []), position])
  })
  return [...groups.values()].map((events) => unresolvedFinding(context, events))
}

function unresolvedFinding(context: FindingContext, events: number[]): Finding {
  const first = events[0] as number
  const event = context.events[first] as CutEvent
  const resolution = context.resolutions[first] as (typeof context.resolutions)[number]
  const name = event.clipName ?? event.path ?? `reel ${event.reel ?? 'not known'}`
  const rivals = resolution.rivals.map((id) => context.clips.get(id)).filter((clip) => clip !== undefined)
  const ambiguous = rivals.length > 0
  return {
    key: `${ambiguous ? 'ambiguous' : 'unresolved'}:${event.clipName ?? ''}:${event.reel ?? ''}:${event.path ?? ''}:${first}`,
    kind: ambiguous ? 'ambiguous' : 'unresolved',
    severity: 'blocks handoff',
    message: ambiguous
      ? `${name}: ${rivals.length} originals fit ${eventNumbers(context, events)} equally well. Choose one.`
      : `${name}: no known original fits ${eventNumbers(context, events)}.`,
    clipId: null,
    pairId: null,
    events,
    evidence: [
      ...resolution.evidence,
      ...rivals.map((clip) =>
        fact('place', 'one original', `${clip.originalPaths[0]} on “${clip.volumeLabel}”`, 'fits as well as the others'),
      ),
    ],
    mends: ['repoint'],
  }
}
