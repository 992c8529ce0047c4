import type { Finding } from '../findings/index.ts'
import { count } from '../text/index.ts'

/** A person's word on a blocking finding, kept with the handoff. */
export interface Decision {
  readonly findingKey: string
  readonly reason: string
  readonly decidedAt: string
}

export interface PreflightCheck {
  readonly id: string
  readonly question: string
  readonly result: 'passes' | 'decided' | 'needs a look' | 'blocks'
  readonly answer: string
  readonly findings: readonly string[]
}

export interface Preflight {
  readonly ready: boolean
  readonly checks: readonly PreflightCheck[]
  /** Blocking findings that no decision covers. */
  readonly open: readonly Finding[]
}

const questions: readonly { id: string; question: string; passes: string; kinds: readonly Finding['kind'][] }[] = [
  {
    id: 'resolved',
    question: 'Does every event have its original?',
    passes: 'Every event has exactly one original.',
    kinds: ['unresolved', 'ambiguous', 'another name', 'wrong kind'],
  },
  {
    id: 'here',
    question: 'Is every original here?',
    passes: 'Every original that the cut uses is in its place.',
    kinds: ['volume away', 'file gone', 'moved', 'name elsewhere'],
  },
  {
    id: 'true',
    question: 'Is every original still the original?',
    passes: 'No original is known to be damaged, a proxy, or other content than when it was first seen.',
    kinds: ['original is a proxy', 'original changed', 'original damaged'],
  },
  {
    id: 'calm',
    question: 'Does nothing hang on a proxy?',
    passes: 'No event plays a proxy in place of a lost original.',
    kinds: ['proxy plays, original lost'],
  },
  {
    id: 'covered',
    question: 'Do the originals reach as far as the cut?',
    passes: 'Every use is covered, to the frame and to the sample.',
    kinds: ['too short', 'variable rate'],
  },
  {
    id: 'twins',
    question: 'Were the proxies true twins?',
    passes: 'Rate, timecode, length, reel, channels and shape agree for every pair that the cut uses.',
    kinds: [
      'rate mismatch',
      'timecode mismatch',
      'length mismatch',
      'reel mismatch',
      'channels mismatch',
      'shape mismatch',
      'picture mismatch',
      'sound out of sync',
      'stale proxy',
    ],
  },
  {
    id: 'format',
    question: 'Is the cut in the raster and at the rate of the production?',
    passes: 'As far as its list says so, it is.',
    kinds: ['raster mismatch', 'cut rate mismatch'],
  },
  {
    id: 'sound',
    question: 'Does the mix get the recordings?',
    passes: 'No sound of a camera that is known to be a guide is in the cut, and no guide that was promised is silent.',
    kinds: ['guide sound', 'no guide'],
  },
  {
    id: 'names',
    question: 'Are the proxies called as their recipes would call them now?',
    passes: 'Every file that Ennick made for this cut is.',
    kinds: ['old proxy name'],
  },
  {
    id: 'swap',
    question: 'Does anything else change when it goes to the originals?',
    passes:
      'No LUT and no scale of proxies is in the cut, one version of each recipe made them, all rates are the production’s.',
    kinds: ['look differs', 'proxy scale', 'mixed recipes', 'other rate'],
  },
]

/** The list of checks before a handoff. It is ready when every blocking finding is mended or decided upon. */
export function preflight(findings: readonly Finding[], decisions: readonly Decision[]): Preflight {
  const decided = new Set(decisions.map((decision) => decision.findingKey))
  const open = findings.filter((finding) => finding.severity === 'blocks handoff' && !decided.has(finding.key))
  const checks = questions.map(({ id, question, passes, kinds }): PreflightCheck => {
    const own = findings.filter((finding) => kinds.includes(finding.kind))
    const blocking = own.filter((finding) => open.includes(finding))
    const decidedHere = own.filter((finding) => decided.has(finding.key))
    const keys = own.map((finding) => finding.key)
    if (blocking.length)
      return {
        id,
        question,
        result: 'blocks',
        answer: `${count(blocking.length, 'finding')} must be mended or decided upon.`,
        findings: keys,
      }
    if (decidedHere.length)
      return {
        id,
        question,
        result: 'decided',
        answer: `${count(decidedHere.length, 'finding')} left open by decision.`,
        findings: keys,
      }
    if (own.length)
      return {
        id,
        question,
        result: 'needs a look',
        answer: `${count(own.length, 'finding')} to look at; the handoff may go on.`,
        findings: keys,
      }
    return { id, question, result: 'passes', answer: passes, findings: [] }
  })
  return { ready: open.length === 0, checks, open }
}
