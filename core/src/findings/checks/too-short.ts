import { type CutEvent, type Resolution, samplesToPad, trimUse } from '../../cut/index.ts'
import { labelOf } from '../../match/index.ts'
import { labelledRange } from '../../media/index.ts'
import { describeShortfall, type Fraction, floor, isElsewhere, type Shortfall } from '../../time/index.ts'
import { type Check, type Finding, type FindingClip, fact, keyedOn, keyOfEvent } from '../finding.ts'

/** The original does not reach as far as an event does: by how much, at which end, for which event. */
export const tooShort: Check = (context) => {
  const findings: Finding[] = []
  context.resolutions.forEach((resolution, position) => {
    const clip = resolution.clipId === null ? undefined : context.clips.get(resolution.clipId)
    if (!clip || !resolution.shortfall) return
    const event = context.events[position] as CutEvent
    const missing = describeShortfall(resolution.shortfall)
    const need = describeNeed(event, resolution, clip)
    const { runs, isElsewhere } = describeReach(event, resolution, clip)
    findings.push({
      // The key names the shortfall: who accepts 0.4 frame accepts no other.
      ...keyedOn(`too short:${keyOfEvent(context, position)}:${clip.id}`, missing),
      kind: 'too short',
      severity: 'blocks handoff',
      message: isElsewhere
        ? `${clip.name} does not hold what event ${event.number} on ${event.track} needs: ${need}, and it ${runs}.`
        : `${clip.name} is too short for event ${event.number} on ${event.track}: ${missing} missing.`,
      clipId: clip.id,
      pairIds: [],
      events: [position],
      evidence: [fact('coverage', need, runs, isElsewhere ? 'the timecode is elsewhere' : `${missing} missing`)],
      mends: [
        'repoint',
        ...('event' in trimUse(context, position, resolution.shortfall) ? (['trim'] as const) : []),
        ...(isPadded(clip, resolution.shortfall, event) ? (['pad'] as const) : []),
        ...(isElsewhere ? (['replace from the start'] as const) : []),
      ],
    })
  })
  return findings
}

/** One wave file is; of several, all that were not padded would be shorter than the others. */
const isPadded = ({ presence, tracks, facts }: FindingClip, lack: Shortfall, { sourceRate }: CutEvent): boolean =>
  presence === 'here' && !tracks && samplesToPad(facts, lack, sourceRate) !== null

const describeNeed = (event: CutEvent, { needed }: Resolution, { facts }: FindingClip): string =>
  `source ${labelOf(needed.startFrame, event.sourceRate, facts)} to ${labelOf(needed.endFrame, event.sourceRate, facts)}`

/** From where to where the medium runs, and whether that is wholly elsewhere than the use. */
function describeReach(
  event: CutEvent,
  { exactNeed }: Resolution,
  { facts }: FindingClip,
): { runs: string; isElsewhere: boolean } {
  const range = labelledRange(facts, event.sourceRate)
  if (!range) return { runs: 'does not say how long it is', isElsewhere: false }
  const label = (frame: Fraction): string => labelOf(Number(floor(frame)), event.sourceRate, facts)
  return {
    runs: `runs from ${label(range.start)} to ${label(range.end)}`,
    isElsewhere: isElsewhere(exactNeed, range),
  }
}
