import type { Candidate, ProposalRow, Wanted } from '../match/index.ts'
import { exactRange, type Rate, rate } from '../time/index.ts'
import { pictureFacts } from './facts.ts'
import { randomFrom } from './random.ts'

/** What was lost, what lies at hand, and which of it is the right one: null where nobody can know. */
export interface RelinkCorpus {
  readonly wanted: Wanted[]
  readonly candidates: Candidate[]
  readonly truth: ReadonlyMap<string, string | null>
}

type Fate =
  | 'moved'
  | 'renamed'
  | 'other case and Unicode form'
  | 'other suffix'
  | 'of an event'
  | 'without timecode'
  | 'smaller re-export'
  | 'replaced by its proxy'
  | 'equal twins'
  | 'absent with namesakes'
const fates: readonly Fate[] = [
  ...(['moved', 'moved', 'moved', 'renamed', 'renamed', 'other case and Unicode form', 'other suffix'] as const),
  ...(['of an event', 'of an event', 'without timecode', 'smaller re-export', 'replaced by its proxy'] as const),
  ...(['equal twins', 'absent with namesakes'] as const),
]
const rates: readonly Rate[] = [rate(25), rate(24), rate(24000, 1001)]
const clipsOfReel = 200

/**
 * A made-up catalogue: counter names that stand on every reel, several rates, takes of like lengths; and a part of it
 * that is lost and comes back in every way in which files come back.
 */
export function relinkCorpus(files: number, lost: number, seed = 1): RelinkCorpus {
  const chance = randomFrom(seed)
  const candidates: Candidate[] = []
  const wanted: Wanted[] = []
  const truth = new Map<string, string | null>()
  const every = Math.floor(files / lost)
  let start = 0
  for (let index = 0; index < files; index++) {
    const reelNumber = Math.floor(index / clipsOfReel)
    const number = index % clipsOfReel
    const at = rates[reelNumber % rates.length] as Rate
    if (number === 0) start = Math.floor(chance() * 20 * 3600) * 25
    const frames = 40 + Math.floor(chance() * 1500)
    start += 25 + Math.floor(chance() * 500)
    const reel = `${'ABC'[reelNumber % 3]}${String(reelNumber).padStart(3, '0')}`
    const name = `${reelNumber % 2 ? 'É' : 'C'}${String(number + 1).padStart(4, '0')}.mov`
    const facts = { ...pictureFacts({ rate: at, frames, reel, start: null }), startFrame: start }
    start += frames
    const content = `content ${index}`
    const file: Candidate = {
      id: `/new/${reelNumber % 2 ? 'ONE' : 'TWO'}/${reel}/${name}`,
      path: `/new/${reelNumber % 2 ? 'ONE' : 'TWO'}/${reel}/${name}`,
      facts,
      reel,
      fingerprint: content,
      role: 'original',
      roleReason: null,
    }
    if (index % every !== 0 || wanted.length === lost) {
      candidates.push(file)
      continue
    }
    const fate = fates[wanted.length % fates.length] as Fate
    const { item, found, right } = lose(fate, index, file, name)
    wanted.push(item)
    candidates.push(...found)
    truth.set(item.id, right)
  }
  return { wanted, candidates, truth }
}

function lose(fate: Fate, index: number, file: Candidate, name: string) {
  const { facts, reel } = file
  const frames = facts.picture?.frames ?? 0
  const at = facts.picture?.rate as Rate
  const start = facts.startFrame ?? 0
  const id = `${fate} ${index}`
  const item: Wanted = {
    id,
    names: [name],
    path: `/old/${reel}/${name}`,
    kind: 'picture',
    reel,
    rate: at,
    startFrame: start,
    dropFrame: false,
    frames,
    channels: 2,
    fingerprint: file.fingerprint,
    pictures: null,
    picture: { width: 1920, height: 1080, codec: 'h264', pixelFormat: 'yuv420p' },
    uses: [{ label: 'event 1', rate: at, range: exactRange({ startFrame: start + 5, endFrame: start + 30 }) }],
  }
  const as = (path: string, change: Partial<Candidate> = {}): Candidate => ({ ...file, path, id: path, ...change })
  const other = (path: string, change: Partial<Candidate> = {}): Candidate =>
    as(path, { fingerprint: `other ${path}`, ...change })
  const event: Wanted = {
    ...item,
    ...{ kind: 'picture or still', startFrame: null, frames: null, channels: null, fingerprint: null, picture: null },
  }
  switch (fate) {
    case 'moved':
      return { item, found: [file], right: file.id }
    case 'renamed': {
      const renamed = as(`/new/renamed/shot ${index}.mov`)
      return { item, found: [renamed], right: renamed.id }
    }
    case 'other case and Unicode form': {
      const cased = as(file.path.toUpperCase().normalize('NFD'))
      return { item: { ...item, fingerprint: null }, found: [cased], right: cased.id }
    }
    case 'other suffix':
      return { item: { ...event, names: [name.replace('.mov', '_proxy.mov')] }, found: [file], right: file.id }
    case 'of an event':
      return { item: event, found: [file], right: file.id }
    case 'without timecode': {
      const bare = as(file.path, { facts: { ...facts, startFrame: null }, reel: null })
      return { item: { ...item, startFrame: null, reel: null, uses: [] }, found: [bare], right: bare.id }
    }
    case 'smaller re-export': {
      const picture = facts.picture && { ...facts.picture, width: 960, height: 540 }
      return { item, found: [other(file.path, { facts: { ...facts, picture } })], right: null }
    }
    case 'replaced by its proxy':
      return { item: event, found: [other(file.path, { role: 'proxy', roleReason: 'it is made' })], right: null }
    case 'equal twins':
      return { item: event, found: [file, other(`/new/again/${reel}/${name}`)], right: null }
    default:
      return { item, found: [], right: null }
  }
}

/** Rows that are decided wrongly, or that nobody could decide; and decidable ones that are not. */
export function judgeRelink(
  { truth }: RelinkCorpus,
  rows: readonly ProposalRow[],
): { wrong: string[]; missed: string[] } {
  const wrong: string[] = []
  const missed: string[] = []
  for (const { wantedId, candidateId, outcome, reason } of rows) {
    const right = truth.get(wantedId) ?? null
    if (candidateId !== null && candidateId !== right) wrong.push(`${wantedId}: ${candidateId}, ${reason}`)
    else if (right !== null && candidateId === null) missed.push(`${wantedId}: ${outcome}, ${reason}`)
  }
  return { wrong, missed }
}
