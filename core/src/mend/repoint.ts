import { normalPath, sharedTail } from '../naming/index.ts'
import { assign, type Candidate, type Choice, type Rating, rateCandidate, type Wanted } from '../pairing/index.ts'

/** What a search found for one wanted thing. */
export interface RepointRow {
  readonly wantedId: string
  readonly outcome: 'fits' | 'ambiguous' | 'refused' | 'not found'
  /** The chosen candidate, when the outcome is "fits". */
  readonly candidateId: string | null
  /** How the chosen one relates to what was asked: rows of one rule can be mended together. */
  readonly rule: string | null
  readonly reason: string
  /** Every candidate that has anything to do with it, best first; refused ones after the others. */
  readonly rated: readonly { readonly candidateId: string; readonly rating: Rating }[]
}

/**
 * Plans a repoint for many wanted things at once. Each candidate goes to one of them at most, and a tie between
 * candidates of different content chooses neither. Nothing is changed: the plan is the dry preview.
 * @returns one row for each wanted thing, so that asked = fits + ambiguous + refused + not found.
 */
export function planRepoint(wanted: readonly Wanted[], candidates: readonly Candidate[], suffixes: readonly string[]): RepointRow[] {
  const byId = new Map(candidates.map((candidate) => [candidate.id, candidate]))
  const rated = new Map(wanted.map((item) => [item.id, rank(item, candidates, suffixes)]))
  const choices: Choice[] = []
  for (const [wantedId, list] of rated) {
    for (const { candidateId, rating } of list)
      if (rating.refusal === null) choices.push({ wanted: wantedId, candidate: candidateId, score: rating.score })
  }
  const assigned = assign(choices)
  const taken = new Set(assigned.values())
  return wanted.map((item): RepointRow => {
    const list = rated.get(item.id) ?? []
    const candidateId = assigned.get(item.id)
    const base = { wantedId: item.id, rated: list }
    if (candidateId === undefined) {
      const best = list[0]
      if (!best)
        return { ...base, outcome: 'not found', candidateId: null, rule: null, reason: 'No file there has anything in common with it.' }
      if (best.rating.refusal === null)
        return { ...base, outcome: 'refused', candidateId: null, rule: null, reason: 'The only file that fits belongs to another clip.' }
      return { ...base, outcome: 'refused', candidateId: null, rule: null, reason: `The nearest file is refused: ${best.rating.refusal}.` }
    }
    const chosen = list.find((entry) => entry.candidateId === candidateId) as (typeof list)[number]
    const rival = list.find(
      (entry) =>
        entry.candidateId !== candidateId &&
        entry.rating.refusal === null &&
        entry.rating.score === chosen.rating.score &&
        !taken.has(entry.candidateId) &&
        !sameContent(byId, entry.candidateId, candidateId),
    )
    if (rival) return { ...base, outcome: 'ambiguous', candidateId: null, rule: null, reason: 'Two files fit equally well: choose one.' }
    return {
      ...base,
      outcome: 'fits',
      candidateId,
      rule: relation(item, byId.get(candidateId) as Candidate),
      reason: describeFit(chosen.rating),
    }
  })
}

function rank(item: Wanted, candidates: readonly Candidate[], suffixes: readonly string[]): { candidateId: string; rating: Rating }[] {
  return candidates
    .map((candidate) => ({ candidateId: candidate.id, rating: rateCandidate(item, candidate, suffixes) }))
    .filter(({ rating }) => rating.score > 0 && !rating.refusal?.includes('nothing that names it'))
    .sort((a, b) => Number(a.rating.refusal !== null) - Number(b.rating.refusal !== null) || b.rating.score - a.rating.score)
    .slice(0, 8)
}

function sameContent(byId: ReadonlyMap<string, Candidate>, a: string, b: string): boolean {
  const left = byId.get(a)?.fingerprint
  return left != null && left === byId.get(b)?.fingerprint
}

/** The rule behind a choice: one root in place of another, or the same thing under another name. */
function relation(item: Wanted, candidate: Candidate): string {
  if (item.path === null) return 'found by its facts'
  const tail = sharedTail(item.path, candidate.path)
  if (tail === 0) return 'renamed'
  const root = (path: string): string => normalPath(path).split('/').slice(0, -tail).join('/') || '/'
  return `${root(item.path)} → ${root(candidate.path)}`
}

function describeFit(rating: Rating): string {
  const agreeing = rating.evidence.filter((row) => row.agrees && row.aspect !== 'kind').map((row) => row.aspect)
  const differing = rating.evidence.filter((row) => !row.agrees).map((row) => row.aspect)
  return `Agrees in ${agreeing.join(', ')}${differing.length ? `; differs in ${differing.join(', ')}` : ''}.`
}
