import { compareText, groupBy } from '../text/index.ts'
import { assign, assignAlone, type Choice } from './assignment.ts'
import { type Rating, rateCandidate } from './evidence.ts'
import type { Candidate, Wanted } from './identity.ts'
import { Rarity } from './rarity.ts'
import { describeRelation, relationsOf } from './relation.ts'
import type { Shortlist } from './shortlist.ts'

/** What was found for one wanted thing. */
export interface ProposalRow {
  readonly wantedId: string
  /** "likely" fits best, but not beyond doubt: it is shown and never chosen by itself. */
  readonly outcome: 'fits' | 'likely' | 'ambiguous' | 'refused' | 'not found'
  /** The chosen candidate, when the outcome is "fits". */
  readonly candidateId: string | null
  /** How the chosen one relates to what was asked: rows of one rule can be mended together. */
  readonly rule: string | null
  readonly reason: string
  /** Candidates that have something to do with it, best first; refused ones after the others. */
  readonly rated: readonly RatedCandidate[]
}

export interface RatedCandidate {
  readonly candidateId: string
  readonly rating: Rating
}

/**
 * From so many bits a match is beyond doubt: 0.999, when one of all the files was as likely as any other before. The
 * property tests of this folder hold this number and the margin.
 */
const beyondDoubt = 10
/** Another assignment that is worse by less than this is as good: a weak aspect may be off by chance. */
const margin = 7
/** So many rivals are worth a look; those of an ambiguous row are all kept. */
const mostShown = 8

/**
 * Proposes a file for each of many wanted things at once. A row is a fit only when
 * every assignment that is as good as the best gives it the same content; equal twins make all of their rows ambiguous.
 * Nothing is changed: the proposal is the dry preview. It does not depend on the order of what is given.
 * @param candidates those that are on the shortlist, at least
 * @param isShared whether a file may go to several, as an original has several proxies; otherwise to one at most
 * @returns a row for each wanted thing, so that asked = fits + likely + ambiguous + refused + not found
 */
export function propose(
  wanted: readonly Wanted[],
  candidates: readonly Candidate[],
  suffixes: readonly string[],
  { few: fewOf, counts }: Shortlist,
  isShared = false,
): ProposalRow[] {
  const rows = [...wanted].sort((a, b) => compareText(a.id, b.id))
  const rarity = new Rarity(counts)
  const files = [...candidates].sort((a, b) => compareText(a.id, b.id))
  const byId = new Map(files.map((file) => [file.id, file]))
  const few = rows.map(({ id }) => (fewOf.get(id) ?? []).flatMap((fileId) => byId.get(fileId) ?? []))
  const columnOf = new Map(files.map((file, column) => [file.id, column]))
  const rated = rows.map((item, row) => rank(item, few[row] as Candidate[], rarity, suffixes))
  const choices: Choice[] = rated.flatMap((list, row) =>
    list.flatMap(({ candidateId, rating }) =>
      rating.gates.length === 0 ? [{ row, column: columnOf.get(candidateId) as number, bits: rating.bits }] : [],
    ),
  )
  const contentOf = (column: number): string => {
    const file = files[column] as Candidate
    return file.fingerprint ?? file.id
  }
  const solve = isShared ? assignAlone : assign
  const assigned = solve(rows.length, files.length, choices, contentOf, margin)
  if (!isShared) chooseWhatStays()
  const takerOf = new Map(assigned.flatMap(({ column }, row) => (column === null ? [] : [[column, row] as const])))
  const proposals = new Map(
    rows.map((item, row) => {
      const { column, lead } = assigned[row] as (typeof assigned)[number]
      const file = column === null ? null : (files[column] as Candidate)
      return [item.id, describe(item, file, lead, rated[row] as RatedCandidate[], isTakenByAnother(row))] as const
    }),
  )
  return wanted.map((item) => proposals.get(item.id) as ProposalRow)

  /** A file on a card gives way to one of the very same content that nobody else gets, and that stays. */
  function chooseWhatStays(): void {
    const taken = new Set(assigned.map(({ column }) => column))
    for (const [row, given] of assigned.entries()) {
      const file = given.column === null ? null : (files[given.column] as Candidate)
      if (!file?.leaves || file.fingerprint === null) continue
      const staying = (rated[row] as RatedCandidate[]).find(({ candidateId, rating }) => {
        const column = columnOf.get(candidateId) as number
        const other = files[column] as Candidate
        return !rating.gates.length && !other.leaves && other.fingerprint === file.fingerprint && !taken.has(column)
      })
      if (!staying) continue
      const column = columnOf.get(staying.candidateId) as number
      taken.add(column)
      assigned[row] = { ...given, column }
    }
  }

  function isTakenByAnother(row: number): boolean {
    return (rated[row] as RatedCandidate[]).some(({ candidateId, rating }) => {
      const taker = takerOf.get(columnOf.get(candidateId) as number)
      return rating.gates.length === 0 && rating.bits > 0 && taker !== undefined && taker !== row
    })
  }
}

function rank(
  item: Wanted,
  candidates: readonly Candidate[],
  rarity: Rarity,
  suffixes: readonly string[],
): RatedCandidate[] {
  const same = item.fingerprint === null ? undefined : candidates.find((file) => file.fingerprint === item.fingerprint)
  return candidates
    .map((file): RatedCandidate => {
      const rating = rateCandidate(item, file, rarity, suffixes)
      // Where the content that is wanted lies at hand, other content is not it, whatever it is called.
      if (!same || file.fingerprint === null || file.fingerprint === item.fingerprint)
        return { candidateId: file.id, rating }
      const gate = {
        gate: 'content' as const,
        sentence: `its content is another, and ${same.path} has the content that is wanted`,
        mayBeOpened: true,
      }
      return { candidateId: file.id, rating: { ...rating, gates: [...rating.gates, gate] } }
    })
    .sort(
      (a, b) =>
        Number(a.rating.gates.length > 0) - Number(b.rating.gates.length > 0) ||
        b.rating.bits - a.rating.bits ||
        compareText(a.candidateId, b.candidateId),
    )
}

function describe(
  item: Wanted,
  file: Candidate | null,
  lead: number,
  list: readonly RatedCandidate[],
  isTaken: boolean,
): ProposalRow {
  const open = list.filter(({ rating }) => rating.gates.length === 0 && rating.bits > 0)
  const none = {
    wantedId: item.id,
    candidateId: null,
    rule: null,
    rated: list.slice(0, Math.max(mostShown, open.length)),
  }
  const best = list[0]
  if (!best) return { ...none, outcome: 'not found', reason: 'No file there has anything in common with it.' }
  if (lead < margin && open.length) return { ...none, outcome: 'ambiguous', reason: whyAmbiguous(open) }
  if (!file) {
    if (isTaken) return { ...none, outcome: 'refused', reason: 'The only file that fits belongs to another clip.' }
    const [gate] = best.rating.gates
    return gate
      ? {
          ...none,
          outcome: 'refused',
          reason: `The nearest file is refused: ${best.rating.gates.map(({ sentence }) => sentence).join('; ')}.`,
        }
      : { ...none, outcome: 'refused', reason: `Too little agrees to be it. ${describeFit(best.rating)}` }
  }
  const chosen = list.find(({ candidateId }) => candidateId === file.id) as RatedCandidate
  const { bits, doubts } = chosen.rating
  if (bits < beyondDoubt || doubts.length)
    return { ...none, outcome: 'likely', reason: `Not beyond doubt. ${describeFit(chosen.rating)}` }
  return {
    ...none,
    outcome: 'fits',
    candidateId: file.id,
    rule: ruleOf(item, file),
    reason: describeFit(chosen.rating),
  }
}

function whyAmbiguous(open: readonly RatedCandidate[]): string {
  if (open.length === 1) return 'One file fits this and another lost one equally well: choose who gets it.'
  const contents = groupBy(open, ({ candidateId }) => candidateId).size
  return `${contents === 2 ? 'Two' : contents} files fit equally well: choose one.`
}

/** The rule behind a choice, by which rows stand together. */
function ruleOf(item: Wanted, candidate: Candidate): string {
  if (item.path === null) return 'found by its facts'
  const [relation] = relationsOf(item.path, candidate.path)
  return relation ? describeRelation(relation) : 'renamed'
}

function describeFit({ evidence }: Rating): string {
  const named = evidence.filter(({ aspect }) => aspect !== 'kind')
  const agreeing = named.filter((row) => row.agrees).map((row) => row.aspect)
  const differing = named.filter((row) => !row.agrees).map((row) => row.aspect)
  const agree = agreeing.length ? `Agrees in ${agreeing.join(', ')}` : 'Agrees in nothing'
  return `${agree}${differing.length ? `; differs in ${differing.join(', ')}` : ''}.`
}
