import type { Aspect, EvidenceRow } from '../../pairing/index.ts'
import { groupBy } from '../../text/index.ts'
import {
  type Check,
  eventNumbers,
  type Finding,
  type FindingClip,
  type FindingContext,
  type FindingKind,
  fact,
  keyedOn,
  type Severity,
  usedClips,
} from '../finding.ts'

/** What differs between twins, as a kind of finding. What shifts the cut's times blocks; the rest needs a look. */
const kinds: Partial<Record<Aspect, { kind: FindingKind; severity: Severity }>> = {
  rate: { kind: 'rate mismatch', severity: 'blocks handoff' },
  timecode: { kind: 'timecode mismatch', severity: 'blocks handoff' },
  'drop flag': { kind: 'timecode mismatch', severity: 'blocks handoff' },
  length: { kind: 'length mismatch', severity: 'blocks handoff' },
  'sound length': { kind: 'length mismatch', severity: 'needs a look' },
  reel: { kind: 'reel mismatch', severity: 'needs a look' },
  channels: { kind: 'channels mismatch', severity: 'needs a look' },
  shape: { kind: 'shape mismatch', severity: 'needs a look' },
  pictures: { kind: 'picture mismatch', severity: 'blocks handoff' },
  'sound sync': { kind: 'sound out of sync', severity: 'needs a look' },
  decode: { kind: 'picture mismatch', severity: 'needs a look' },
}

interface Differing {
  readonly kind: FindingKind
  readonly severity: Severity
  readonly row: EvidenceRow
}

/** A made item of a used clip is no twin of its original: the cut was judged, or timed, on something else. */
export const pairMismatch: Check = (context) => {
  const findings: Finding[] = []
  for (const { clip, events } of usedClips(context)) {
    for (const pair of clip.pairs) {
      if (pair.originalChanged) findings.push(staleProxy(context, clip, pair, events))
      else if (pair.soundChange) findings.push(staleSound(context, clip, pair, events, pair.soundChange))
      if (pair.verdict !== 'mismatched' || !pair.comparison) continue
      const differing = pair.comparison.flatMap((row) => {
        const known = row.agrees ? undefined : kinds[row.aspect]
        return known ? [{ ...known, row } satisfies Differing] : []
      })
      for (const [kind, rows] of groupBy(differing, ({ kind }) => kind)) {
        const { row, severity } = rows.find(({ severity }) => severity === 'blocks handoff') ?? (rows[0] as Differing)
        // A decision is one on what differs now, and not on what may differ after the file was exchanged.
        const differs = rows.map(({ row }) => `${row.aspect} ${row.expected} → ${row.found}`).join(', ')
        findings.push({
          ...keyedOn(`${kind}:${pair.id}`, differs),
          kind,
          severity,
          message: `The proxy ${pair.name} differs from its original ${clip.name} in ${row.aspect}: ${row.found} instead of ${row.expected}${row.difference ? ` (${row.difference})` : ''}. It serves ${eventNumbers(context, events)}.`,
          clipId: clip.id,
          pairIds: [pair.id],
          events,
          evidence: pair.comparison,
          mends: pair.isCuredByCopy ? ['restamp', 'make again'] : ['make again'],
        })
      }
    }
  }
  return findings
}

/** It shows what the original was, and not what it is. */
const staleProxy = (
  context: FindingContext,
  clip: FindingClip,
  pair: FindingClip['pairs'][number],
  events: number[],
): Finding => ({
  ...keyedOn(`stale proxy:${pair.id}`, clip.changedFiles.map(({ fingerprint }) => fingerprint).join(',')),
  kind: 'stale proxy',
  severity: 'needs a look',
  message: `The proxy ${pair.name} was made of other content than ${clip.name} has now. It serves ${eventNumbers(context, events)}.`,
  clipId: clip.id,
  pairIds: [pair.id],
  events,
  evidence: [fact('content', 'the content that the proxy was made of', 'other content', 'the original has changed')],
  mends: ['make again'],
})

/** Who heard it heard something else than would be laid now. */
const staleSound = (
  context: FindingContext,
  clip: FindingClip,
  pair: FindingClip['pairs'][number],
  events: number[],
  change: string,
): Finding => ({
  ...keyedOn(`stale proxy:${pair.id}`, `sound:${change}`),
  kind: 'stale proxy',
  severity: 'needs a look',
  message:
    `The sound of the proxy ${pair.name} is not that of ${clip.name} now. ${change} ` +
    `It serves ${eventNumbers(context, events)}.`,
  clipId: clip.id,
  pairIds: [pair.id],
  events,
  evidence: [fact('sound', 'the sound that would be laid now', 'other sound', change)],
  mends: ['make again'],
})
