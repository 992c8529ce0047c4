import type { Decision, Finding, FindingKind } from '../findings/index.ts'
import { count } from '../text/index.ts'

export interface PreflightCheck {
  readonly id: string
  readonly question: string
  readonly result: 'passes' | 'decided' | 'needs a look' | 'blocks'
  readonly answer: string
  /** The kinds of what was found. */
  readonly kinds: readonly FindingKind[]
}

export interface Preflight {
  readonly ready: boolean
  readonly checks: readonly PreflightCheck[]
  /** Blocking findings that no decision covers. */
  readonly open: readonly Finding[]
}

const questions = [
  {
    id: 'resolved',
    question: 'Does every event have its original?',
    passes: 'Every event has exactly one original.',
  },
  {
    id: 'here',
    question: 'Is every original here, on a volume that stays?',
    passes: 'Every original that the cut uses is in its place, and on no card or disc alone.',
  },
  {
    id: 'true',
    question: 'Is every original still the original?',
    passes:
      'No original is known to be damaged, a proxy, or other content than when it was first seen, and the files of each ' +
      'go together.',
  },
  {
    id: 'newest',
    question: 'Is every shot in its newest version?',
    passes: 'By their names, no later version of a shot in the cut is known.',
  },
  {
    id: 'calm',
    question: 'Does nothing hang on a proxy?',
    passes: 'No event plays a proxy in place of a lost original.',
  },
  {
    id: 'covered',
    question: 'Do the originals reach as far as the cut?',
    passes: 'Every use is covered, to the frame and to the sample, and no still of it is missing.',
  },
  {
    id: 'twins',
    question: 'Were the proxies true twins?',
    passes: 'Rate, timecode, length, reel, channels and shape agree for every pair that the cut uses.',
  },
  {
    id: 'format',
    question: 'Is the cut in the raster and at the rate of the production?',
    passes: 'As far as its list says so, it is.',
  },
  {
    id: 'sound',
    question: 'Does the mix get the recordings?',
    passes:
      'No sound of a camera that is known to be a guide is in the cut, no guide that was promised is silent, and ' +
      'recordings are what was synced.',
  },
  {
    id: 'names',
    question: 'Are the proxies called as their recipes would call them now?',
    passes: 'Every file that Ennick made for this cut is.',
  },
  {
    id: 'only',
    question: 'Is every original the only one of its name?',
    passes: 'No other original of the production is called like one of the cut.',
  },
  {
    id: 'swap',
    question: 'Does anything else change when it goes to the originals?',
    passes:
      'No LUT and no scale of proxies is in the cut, one version of each recipe made them, all rates are the production’s.',
  },
] as const

/** Which question each finding answers: none is left out, so that no check passes beside a finding that nobody sees. */
const questionOf: Record<FindingKind, (typeof questions)[number]['id']> = {
  unresolved: 'resolved',
  ambiguous: 'resolved',
  'another name': 'resolved',
  'another original': 'resolved',
  'wrong kind': 'resolved',
  'joined file': 'resolved',
  'volume away': 'here',
  'file gone': 'here',
  moved: 'here',
  'name elsewhere': 'here',
  'only on a card': 'here',
  'original is a proxy': 'true',
  'original changed': 'true',
  'parts mismatch': 'true',
  'original damaged': 'true',
  'newer version': 'newest',
  'proxy plays, original lost': 'calm',
  'too short': 'covered',
  'variable rate': 'covered',
  'gap in stills': 'covered',
  'rate mismatch': 'twins',
  'timecode mismatch': 'twins',
  'length mismatch': 'twins',
  'reel mismatch': 'twins',
  'channels mismatch': 'twins',
  'shape mismatch': 'twins',
  'picture mismatch': 'twins',
  'sound out of sync': 'twins',
  'stale proxy': 'twins',
  'raster mismatch': 'format',
  'cut rate mismatch': 'format',
  'guide sound': 'sound',
  'stale sync': 'sound',
  'no guide': 'sound',
  'old proxy name': 'names',
  'equal names': 'only',
  duplicate: 'only',
  'look differs': 'swap',
  'proxy scale': 'swap',
  'mixed recipes': 'swap',
  'other rate': 'swap',
}

/** The list of checks before a handoff. It is ready when every blocking finding is mended or decided upon. */
export function preflight(findings: readonly Finding[], decisions: readonly Decision[]): Preflight {
  const decided = new Set(decisions.map((decision) => decision.findingKey))
  const open = findings.filter((finding) => finding.severity === 'blocks handoff' && !decided.has(finding.key))
  const checks = questions.map(({ id, question, passes }): PreflightCheck => {
    const own = findings.filter(({ kind }) => questionOf[kind] === id)
    const blocking = own.filter((finding) => open.includes(finding))
    const decidedHere = own.filter((finding) => decided.has(finding.key)).length
    const looking = own.length - blocking.length - decidedHere
    const kinds = [...new Set(own.map(({ kind }) => kind))]
    const leftOpen = `${count(decidedHere, 'finding')} left open by decision`
    if (blocking.length)
      return {
        ...{ id, question, result: 'blocks', kinds },
        answer: `${count(blocking.length, 'finding')} must be mended or decided upon.`,
      }
    if (looking)
      return {
        ...{ id, question, result: 'needs a look', kinds },
        answer: `${count(looking, 'finding')} to look at${decidedHere ? `, ${leftOpen}` : ''}; the handoff may go on.`,
      }
    if (decidedHere) return { id, question, result: 'decided', answer: `${leftOpen}.`, kinds }
    return { id, question, result: 'passes', answer: passes, kinds }
  })
  return { ready: open.length === 0, checks, open }
}
