import { groupBy } from '../../text/index.ts'
import { type Check, eventNumbers, type Finding, fact, keyedOn, usedClips } from '../finding.ts'

/**
 * Clips that a cut uses though they are only on a volume that leaves again, one finding a volume, and clips whose
 * stills have gaps, or whose file says another reel by now.
 */
export const atRisk: Check = (context) => {
  const used = usedClips(context)
  const risky = used.filter(({ clip }) => clip.notices.some((notice) => notice.kind === 'only on a card'))
  const findings: Finding[] = []
  for (const use of used) {
    for (const notice of use.clip.notices) {
      if (notice.kind === 'gap in stills' || notice.kind === 'reel mismatch')
        findings.push({
          ...keyedOn(`${notice.kind}:${use.clip.id}`, notice.message),
          kind: notice.kind,
          severity: 'needs a look',
          message: `${use.clip.name}, used in ${eventNumbers(context, use.events)}: ${notice.message}`,
          clipId: use.clip.id,
          pairIds: [],
          events: use.events,
          evidence: [],
          mends: [],
        })
    }
  }
  for (const [label, uses] of groupBy(risky, ({ clip }) => clip.volumeLabel)) {
    const events = uses.flatMap((use) => use.events)
    const names = uses.length === 1 ? `${uses[0]?.clip.name} is` : `${uses.length} clips of this cut are`
    findings.push({
      key: `only on a card:${label}`,
      kind: 'only on a card',
      severity: 'blocks handoff',
      message:
        `${names} only on “${label}”, which leaves again, and used in ${eventNumbers(context, events)}. ` +
        'Offload it: what is handed off would point at it.',
      clipId: null,
      pairIds: [],
      volumeLabel: label,
      events,
      evidence: uses.map(({ clip }) => fact('place', 'a volume that stays', `${clip.name}: only on ${label}`)),
      mends: ['offload'],
    })
  }
  return findings
}
