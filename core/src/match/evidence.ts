import { channelCount, describeChannels } from '../media/index.ts'
import { compareNames, fileName, sameReel, sharedTail } from '../naming/index.ts'
import type { Aspect, EvidenceRow } from '../pairing/index.ts'
import { whatItShows } from '../signature/index.ts'
import { count } from '../text/index.ts'
import { formatRate, formatTimecode, sameRate } from '../time/index.ts'
import { type ClosedGate, closedGates } from './gates.ts'
import { type Candidate, isOfKind, type Wanted } from './identity.ts'
import type { Rarity } from './rarity.ts'

/** How well a candidate fits, with the evidence: what differs first, then the rarest agreement. */
export interface Rating {
  /** Log₂ of how much likelier it is the one than another of these files by chance. */
  readonly bits: number
  /** A candidate with a closed gate is shown with its reasons and never chosen by Ennick. */
  readonly gates: readonly ClosedGate[]
  /** What differs though it should not: never outvoted in silence. */
  readonly doubts: readonly Aspect[]
  readonly evidence: readonly EvidenceRow[]
}

/** Aspects whose difference leaves a doubt, unless the content is the same. */
const strong = new Set<Aspect>(['name', 'content', 'pictures', 'reel', 'timecode'])

/** Rates a candidate against what is wanted, given how rare things are among all the files at hand. */
export function rateCandidate(
  wanted: Wanted,
  candidate: Candidate,
  rarity: Rarity,
  suffixes: readonly string[],
): Rating {
  const weighed: { row: EvidenceRow; bits: number }[] = []
  const weigh = (row: Omit<EvidenceRow, 'difference'>, bits: number, difference: string): void => {
    weighed.push({ row: { ...row, difference: row.agrees ? null : difference }, bits })
  }
  const { facts } = candidate
  const name = fileName(candidate.path)

  if (wanted.kind !== null)
    weigh(
      { aspect: 'kind', expected: wanted.kind, found: facts.kind, agrees: isOfKind(wanted.kind, facts) },
      0,
      'another kind of media',
    )
  if (wanted.names.length) {
    const agreements = wanted.names.map((expected) => compareNames(expected, name, suffixes).kind)
    const isSame = agreements.includes('same')
    const agrees = isSame || agreements.includes('same-after-suffix')
    const bits = rarity.name(agrees, name) - (agrees && !isSame ? 1 : 0)
    weigh({ aspect: 'name', expected: wanted.names[0] as string, found: name, agrees }, bits, 'another name')
  }
  if (wanted.fingerprint !== null && candidate.fingerprint !== null) {
    const agrees = wanted.fingerprint === candidate.fingerprint
    weigh(
      {
        aspect: 'content',
        expected: 'the content at first scan',
        found: agrees ? 'the same' : 'other content',
        agrees,
      },
      rarity.content(agrees),
      'the fingerprints differ',
    )
  }
  const shown = wanted.pictures && whatItShows(wanted.pictures)
  const shows = shown?.get(candidate.id)
  const alike = [...(shown?.values() ?? [])].filter((each) => each === 'the same').length
  if (shows !== undefined) {
    const agrees = shows === 'the same'
    weigh(
      { aspect: 'pictures', expected: 'its own', found: shows, agrees },
      rarity.pictures(agrees, alike),
      'it shows something else',
    )
  }
  const own = facts.picture?.rate ?? null
  if (wanted.rate && own)
    weigh(
      { aspect: 'rate', expected: formatRate(wanted.rate), found: formatRate(own), agrees: sameRate(wanted.rate, own) },
      0,
      'the rates differ',
    )
  if (wanted.startFrame !== null && wanted.rate && facts.startFrame !== null && own) {
    const off = facts.startFrame - wanted.startFrame
    weigh(
      {
        aspect: 'timecode',
        expected: formatTimecode(wanted.startFrame, wanted.rate, wanted.dropFrame),
        found: formatTimecode(facts.startFrame, own, facts.dropFrame),
        agrees: off === 0,
      },
      rarity.start(off === 0, facts.startFrame),
      offBy(off),
    )
  }
  if (wanted.frames !== null && facts.picture) {
    const off = facts.picture.frames - wanted.frames
    weigh(
      {
        aspect: 'length',
        expected: `${wanted.frames} frames`,
        found: `${facts.picture.frames} frames`,
        agrees: off === 0,
      },
      rarity.length(off === 0, facts.picture.frames),
      offBy(off),
    )
  }
  if (wanted.reel !== null && candidate.reel !== null) {
    const agrees = sameReel(wanted.reel, candidate.reel)
    weigh(
      { aspect: 'reel', expected: wanted.reel, found: candidate.reel, agrees },
      rarity.reel(agrees, candidate.reel),
      'another reel',
    )
  }
  if (wanted.channels !== null) {
    const found = channelCount(facts)
    weigh(
      {
        aspect: 'channels',
        expected: String(wanted.channels),
        found: describeChannels(facts.sound),
        agrees: wanted.channels === found,
      },
      rarity.channels(wanted.channels === found, found),
      `${found} instead of ${wanted.channels}`,
    )
  }
  const gates = closedGates(wanted, candidate)
  const [use] = wanted.uses
  if (use) {
    const short = gates.find(({ gate }) => gate === 'coverage')
    // Where the start itself is known, that it covers its uses says nothing more.
    const isNews = wanted.startFrame === null && facts.startFrame !== null && facts.picture !== null && !short
    weigh(
      {
        aspect: 'coverage',
        expected: count(wanted.uses.length, 'use'),
        found: short ? 'not covered' : 'all covered',
        agrees: !short,
      },
      isNews ? rarity.coverage(use.range, use.rate) : 0,
      short?.sentence ?? '',
    )
  }
  let bits = rarity.prior + weighed.reduce((sum, entry) => sum + entry.bits, 0)
  if (wanted.path !== null && sharedTail(wanted.path, candidate.path) > 1) bits += rarity.folder(candidate.path)
  weighed.sort((a, b) => Number(a.row.agrees) - Number(b.row.agrees) || b.bits - a.bits)
  const evidence = weighed.map(({ row }) => row)
  const agreesIn = (wantedAspect: Aspect): boolean =>
    evidence.some(({ aspect, agrees }) => aspect === wantedAspect && agrees)
  const differing = evidence.filter(({ aspect, agrees }) => !agrees && strong.has(aspect)).map(({ aspect }) => aspect)
  // Pictures that no other clip shows outweigh one wrong word: a new name, or a wrong stamp. Two are another's words.
  const isSeen = agreesIn('pictures') && alike === 1 && differing.length === 1
  return { bits, gates, doubts: agreesIn('content') || isSeen ? [] : differing, evidence }
}

const offBy = (frames: number): string => `${frames > 0 ? '+' : ''}${frames} frames`
