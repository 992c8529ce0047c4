import type { CutEvent, Resolution } from '../../cut/index.ts'
import { formatFrames, formatTimecode, type Shortfall, sameRate } from '../../time/index.ts'
import { type Check, type Finding, fact } from '../finding.ts'

/** The original does not reach as far as an event does: by how much, at which end, for which event. */
export const tooShort: Check = (context) => {
  const findings: Finding[] = []
  context.resolutions.forEach((resolution, position) => {
    const clip = resolution.clipId === null ? undefined : context.clips.get(resolution.clipId)
    if (!clip || !resolution.shortfall) return
    const event = context.events[position] as CutEvent
    const missing = describeShortfall(resolution.shortfall)
    findings.push({
      key: `too short:${position}:${clip.id}`,
      kind: 'too short',
      severity: 'blocks handoff',
      message: `${clip.name} is too short for event ${event.number} on ${event.track}: ${missing} missing.`,
      clipId: clip.id,
      pairId: null,
      events: [position],
      evidence: [
        fact(
          'coverage',
          describeNeed(event, resolution, clip.facts.dropFrame && sameRate(event.sourceRate, clip.facts.picture?.rate ?? event.sourceRate)),
          `${clip.name} ends before or starts after`,
          `${missing} missing`,
        ),
      ],
      mends: ['repoint'],
    })
  })
  return findings
}

/** "0.4 frame at the tail", "2 frames at the head and 12 frames at the tail". */
export function describeShortfall(lack: Shortfall): string {
  const parts: string[] = []
  if (lack.headFrames.numerator > 0n) parts.push(`${formatFrames(lack.headFrames)} at the head`)
  if (lack.tailFrames.numerator > 0n) parts.push(`${formatFrames(lack.tailFrames)} at the tail`)
  return parts.join(' and ')
}

const describeNeed = (event: CutEvent, resolution: Resolution, drop: boolean): string =>
  `source ${formatTimecode(resolution.needed.startFrame, event.sourceRate, drop)} to ${formatTimecode(resolution.needed.endFrame, event.sourceRate, drop)}`
