import { channelCount, describeChannels, type MediaFacts, type MediaKind, mediumRange } from '../media/index.ts'
import { baseName, compareNames, sharedTail } from '../naming/index.ts'
import { type ExactRange, formatFrames, formatRate, formatTimecode, isCovered, type Rate, sameRate, shortfall } from '../time/index.ts'
import type { EvidenceRow } from './compare.ts'

/** What is known of something that is looked for. Null is "not known", which neither helps nor hurts a candidate. */
export interface Wanted {
  readonly id: string
  readonly names: readonly string[]
  readonly path: string | null
  readonly kind: MediaKind | null
  readonly reel: string | null
  readonly rate: Rate | null
  readonly startFrame: number | null
  readonly dropFrame: boolean
  readonly frames: number | null
  readonly channels: number | null
  readonly fingerprint: string | null
  readonly uses: readonly WantedUse[]
}

/** A stretch that some event needs, in exact frames of the event's source rate. */
export interface WantedUse {
  readonly label: string
  readonly rate: Rate
  readonly range: ExactRange
}

/** A file that may be what is looked for. */
export interface Candidate {
  readonly id: string
  readonly path: string
  readonly facts: MediaFacts
  readonly reel: string | null
  readonly fingerprint: string | null
}

/** How well a candidate fits, with the evidence. A refused one is shown with its reason and never chosen. */
export interface Rating {
  readonly score: number
  readonly refusal: string | null
  readonly evidence: readonly EvidenceRow[]
}

/** Same content outweighs everything; then coverage and timecode; a name alone is the weakest sign that still counts. */
const weights = { content: 1000, timecode: 60, length: 40, name: 40, reel: 40, channels: 10, rate: 10, folder: 2 } as const

/**
 * Rates a candidate against what is wanted.
 * Refused: another kind of media, another rate, too short for a use, or nothing in common but its kind.
 */
export function rateCandidate(wanted: Wanted, candidate: Candidate, suffixes: readonly string[]): Rating {
  const evidence: EvidenceRow[] = []
  const refusals: string[] = []
  let score = 0
  let identifying = 0
  const row = (
    aspect: EvidenceRow['aspect'],
    expected: string,
    found: string,
    agrees: boolean,
    difference: string | null = null,
  ): boolean => {
    evidence.push({ aspect, expected, found, agrees, difference: agrees ? null : difference })
    return agrees
  }
  const { facts } = candidate
  const name = baseName(candidate.path)

  if (wanted.kind !== null && !row('kind', wanted.kind, facts.kind, wanted.kind === facts.kind, 'another kind of media')) {
    refusals.push(`it is ${facts.kind}, and ${wanted.kind} is wanted`)
  }
  const agreements = wanted.names.map((expected) => compareNames(expected, name, suffixes).kind)
  const sameName = agreements.includes('same')
  if (row('name', wanted.names[0] ?? 'not known', name, sameName || agreements.includes('same-after-suffix'), 'another name')) {
    score += weights.name - (sameName ? 0 : 5)
    identifying++
  }
  if (wanted.fingerprint !== null && candidate.fingerprint !== null) {
    if (
      row(
        'content',
        'the content at first scan',
        wanted.fingerprint === candidate.fingerprint ? 'the same' : 'other content',
        wanted.fingerprint === candidate.fingerprint,
        'the fingerprints differ',
      )
    ) {
      score += weights.content
      identifying += 2
    }
  }
  const rate = facts.picture?.rate ?? null
  if (wanted.rate && rate) {
    if (row('rate', formatRate(wanted.rate), formatRate(rate), sameRate(wanted.rate, rate), 'the rates differ')) score += weights.rate
    else refusals.push(`its rate is ${formatRate(rate)}, not ${formatRate(wanted.rate)}`)
  }
  if (wanted.startFrame !== null && wanted.rate && facts.startFrame !== null && rate) {
    const found = formatTimecode(facts.startFrame, rate, facts.dropFrame)
    const off = facts.startFrame - wanted.startFrame
    if (
      row(
        'timecode',
        formatTimecode(wanted.startFrame, wanted.rate, wanted.dropFrame),
        found,
        off === 0,
        `${off > 0 ? '+' : ''}${off} frames`,
      )
    ) {
      score += weights.timecode
      identifying++
    }
  }
  if (wanted.frames !== null && facts.picture) {
    const off = facts.picture.frames - wanted.frames
    if (row('length', `${wanted.frames} frames`, `${facts.picture.frames} frames`, off === 0, `${off > 0 ? '+' : ''}${off} frames`))
      score += weights.length
  }
  if (wanted.reel !== null && candidate.reel !== null) {
    if (row('reel', wanted.reel, candidate.reel, sameReel(wanted.reel, candidate.reel), 'another reel')) {
      score += weights.reel
      identifying++
    }
  }
  if (wanted.channels !== null) {
    const found = channelCount(facts)
    if (
      row(
        'channels',
        String(wanted.channels),
        describeChannels(facts.sound),
        wanted.channels === found,
        `${found} instead of ${wanted.channels}`,
      )
    )
      score += weights.channels
  }
  const coverage = rateCoverage(wanted, facts, evidence)
  score += coverage.score
  if (coverage.refusal) refusals.push(coverage.refusal)
  if (wanted.path !== null) score += weights.folder * (Math.max(1, sharedTail(wanted.path, candidate.path)) - 1)
  if (identifying === 0) refusals.push('nothing that names it agrees')
  evidence.sort((a, b) => Number(a.agrees) - Number(b.agrees))
  return { score, refusal: refusals.length ? refusals.join('; ') : null, evidence }
}

function rateCoverage(wanted: Wanted, facts: MediaFacts, evidence: EvidenceRow[]): { score: number; refusal: string | null } {
  let short: string | null = null
  let uses = 0
  for (const use of wanted.uses) {
    const range = mediumRange(facts, use.rate)
    if (!range) continue
    uses++
    const lack = shortfall(use.range, range)
    if (isCovered(lack)) continue
    const parts = [
      lack.headFrames.numerator ? `${formatFrames(lack.headFrames)} at the head` : '',
      lack.tailFrames.numerator ? `${formatFrames(lack.tailFrames)} at the tail` : '',
    ].filter(Boolean)
    short ??= `${use.label} needs ${parts.join(' and ')} more`
  }
  if (uses === 0) return { score: 0, refusal: null }
  evidence.push({
    aspect: 'coverage',
    expected: `${uses} ${uses === 1 ? 'use' : 'uses'}`,
    found: short ? 'too short' : 'all covered',
    agrees: short === null,
    difference: short,
  })
  return short ? { score: 0, refusal: `too short: ${short}` } : { score: 20, refusal: null }
}

/** Reels as lists write them: case does not count, and a list may keep only the first eight characters. */
export function sameReel(a: string, b: string): boolean {
  const left = a.normalize('NFC').trim().toUpperCase()
  const right = b.normalize('NFC').trim().toUpperCase()
  if (left === right) return true
  const [short, long] = left.length < right.length ? [left, right] : [right, left]
  return short.length === 8 && long.startsWith(short)
}
