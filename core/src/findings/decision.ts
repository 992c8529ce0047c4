import type { CutEvent } from '../cut/index.ts'
import { compareText } from '../text/index.ts'
import { type FrameRange, framesInCommon } from '../time/index.ts'
import { type Finding, type FindingKind, keyedOn } from './finding.ts'

/** A person's word that a finding may stay open. */
export interface Decision {
  readonly findingKey: string
  readonly reason: string
  readonly decidedAt: string
}

/** The same, with what it was given on. */
export interface DecisionOnUses extends Decision {
  /** The uses that the finding touched then; null where an older version did not keep them: it holds for all. */
  readonly uses: readonly DecidedUse[] | null
}

/** What an event used when something was decided about it, in frames of its source. */
export interface DecidedUse extends FrameRange {
  readonly source: string
}

/** What a list says of an event's source. */
export const listedSource = ({ kind, reel, clipName, path }: CutEvent): string =>
  `${kind} ${reel ?? ''} ${clipName ?? path ?? ''}`

/** What is decided upon when a finding of these events is left open. */
export const decidedUses = (cut: readonly CutEvent[], { events }: Pick<Finding, 'events'>): DecidedUse[] =>
  events.flatMap((position) => {
    const event = cut[position]
    return event ? [{ source: listedSource(event), ...event.source }] : []
  })

/** By what a use must be like one of those that were decided upon. */
const isLike = {
  /** It is of a source of which it was said. */
  source: (use: DecidedUse, decided: DecidedUse) => use.source === decided.source,
  /** It shows some of the same frames. */
  shot: (use: DecidedUse, decided: DecidedUse) => framesInCommon(use, decided) > 0,
  /** It shows no others. */
  frames: (use: DecidedUse, decided: DecidedUse) =>
    use.startFrame >= decided.startFrame && use.endFrame <= decided.endFrame,
} as const

/**
 * Of which findings more can come to be than what somebody has seen, while they stay the same by their keys. What is
 * left open with them are uses: of others nobody has said anything. The others speak of a clip, however it is used.
 */
const decidedBy: Partial<Record<FindingKind, keyof typeof isLike>> = {
  unresolved: 'shot',
  ambiguous: 'shot',
  'another name': 'shot',
  'another original': 'shot',
  'volume away': 'shot',
  'file gone': 'shot',
  moved: 'shot',
  'name elsewhere': 'shot',
  'proxy plays, original lost': 'shot',
  'wrong kind': 'shot',
  'guide sound': 'shot',
  'only on a card': 'source',
  'original damaged': 'frames',
  'gap in stills': 'frames',
}

/**
 * What a person said of the same matters when they stood otherwise, by the keys of what is found now: of a use that was
 * half a frame short and is three short by now, of twins that differed in less. It holds for none of it.
 */
export function earlierWords(
  findings: readonly Finding[],
  decisions: readonly DecisionOnUses[],
): ReadonlyMap<string, DecisionOnUses> {
  const found = new Set(findings.map(({ key }) => key))
  const past = decisions
    .filter(({ findingKey }) => !found.has(findingKey))
    .sort((a, b) => compareText(b.decidedAt, a.decidedAt))
  const words = new Map<string, DecisionOnUses>()
  if (past.length === 0) return words
  for (const { key, subject } of findings) {
    if (subject === undefined) continue
    // Before keys said how something stands they were no more than what it is about.
    const keyed = keyedOn(subject, '').key
    const last = past.find(({ findingKey }) => findingKey === subject || findingKey.startsWith(keyed))
    if (last) words.set(key, last)
  }
  return words
}

/**
 * Tells decisions that hold from those that were made on less than what their finding touches by now: other frames of
 * the source, or other clips. Those of findings that are not there hold: nothing stays open by them.
 */
export function standingDecisions(
  cut: readonly CutEvent[],
  findings: readonly Finding[],
  decisions: readonly DecisionOnUses[],
): { readonly held: DecisionOnUses[]; readonly lapsed: DecisionOnUses[] } {
  const found = new Map(findings.map((finding) => [finding.key, finding]))
  const [held, lapsed]: [DecisionOnUses[], DecisionOnUses[]] = [[], []]
  for (const decision of decisions)
    (holds(cut, found.get(decision.findingKey), decision) ? held : lapsed).push(decision)
  return { held, lapsed }
}

function holds(cut: readonly CutEvent[], finding: Finding | undefined, { uses }: DecisionOnUses): boolean {
  const by = finding && decidedBy[finding.kind]
  if (!by || uses === null) return true
  return decidedUses(cut, finding).every((use) => uses.some((decided) => isLike[by](use, decided)))
}
