import { groupBy } from '../text/index.ts'
import { type FrameRange, formatTimecode, framesInCommon, type Rate, rangeLength } from '../time/index.ts'
import type { Cut, CutEvent, Speed, Transition } from './model.ts'
import { isAsRecorded, levelWords, sameLevel } from './sound-level.ts'

/** What may have become of an event from one version of a cut to the next. */
export type ChangeKind =
  | 'same'
  | 'moved'
  | 'trimmed'
  | 'retimed'
  | 'replaced'
  | 'transition changed'
  | 'switched'
  | 'level changed'
  | 'added'
  | 'gone'

/** One event in both versions, or in one of them. */
export interface EventChange {
  /** More than one where more became of it; "same" alone. */
  readonly kinds: readonly ChangeKind[]
  /** Its position in the version before, and in this one; null where it is not in that. */
  readonly before: number | null
  readonly after: number | null
  /** Record frames by which it stands later; 0 for one that was only trimmed where it stands. */
  readonly movedFrames: number
  /** Record frames by which it begins earlier in its source, or later for fewer than none. */
  readonly headFrames: number
  /** Record frames by which it ends later in its source, or earlier for fewer than none. */
  readonly tailFrames: number
  /** How loud it was, and is, in words; where that changed. */
  readonly level?: { readonly before: string; readonly after: string }
}

export interface CutComparison {
  /** In the order of this version; what is gone stands where it stood. */
  readonly changes: readonly EventChange[]
  /** How many events each became; those that became several are counted in each. */
  readonly counts: Readonly<Record<ChangeKind, number>>
  /** So many uses of sound that are known again had a level of their own, and none in this list has one. */
  readonly levelsLost: number
}

/** What an event shows, by which it is known again: the clip it landed on, or else what its list says. */
export type SourceOf = (event: CutEvent, position: number) => string

interface Placed {
  readonly event: CutEvent
  readonly position: number
  readonly source: string
}

/**
 * Compares two versions of a cut, event by event: by what they show first, wherever it stands. Events that show the
 * same of the same are paired, those at their old place first; then those that show another stretch of it, or at
 * another speed; what is left at a place of the record where something else was is replaced.
 * @param sources how each version's events are known again
 */
export function compareCuts(
  before: Cut,
  after: Cut,
  sources: { readonly before: SourceOf; readonly after: SourceOf },
): CutComparison {
  const old = before.events.map((event, position) => ({ event, position, source: sources.before(event, position) }))
  const now = after.events.map((event, position) => ({ event, position, source: sources.after(event, position) }))
  const pairs = new Map<Placed, Placed>()
  const left = new Set(old)
  const open = new Set(now)
  const pair = (was: Placed, is: Placed): void => {
    pairs.set(is, was)
    left.delete(was)
    open.delete(is)
  }
  pairEqual(left, open, pair, ({ event, source }) => key(source, event.track, event.source, event.speed, event.record))
  pairEqual(left, open, pair, ({ event, source }) => key(source, event.track, event.source, event.speed))
  pairEqual(left, open, pair, ({ event, source }) => key(source, event.kind, event.source, event.speed))
  pairNearest(left, open, pair, ({ event, source }) => key(source, event.kind, event.speed), overlapOfSources)
  pairNearest(
    left,
    open,
    pair,
    ({ event, source }) => key(source, event.kind),
    (a, b) => framesInCommon(shownBy(a), shownBy(b)),
  )
  const shifts = shiftsOf(pairs)
  pairNearest(
    left,
    open,
    pair,
    ({ event }) => event.track,
    (was, is) => {
      const shift = shifts(was)
      const { startFrame, endFrame } = was.event.record
      const shared = framesInCommon({ startFrame: startFrame + shift, endFrame: endFrame + shift }, is.event.record)
      return shared * 2 >= Math.min(rangeLength(was.event.record), rangeLength(is.event.record)) ? shared : 0
    },
  )
  // What a list says of no sound at all it does not carry: that is told once, and not as a change of each.
  const says = ({ events }: Cut): boolean => events.some(({ level }) => level !== undefined)
  const sayLevels = says(before) && says(after)
  const changes = now.map((is) => changeOf(pairs.get(is) ?? null, is, sayLevels))
  const levelsLost = says(after) ? 0 : [...pairs.values()].filter(({ event }) => !isAsRecorded(event.level)).length
  const whole = withGone(changes, [...left])
  const counts = Object.fromEntries(kinds.map((kind) => [kind, 0])) as Record<ChangeKind, number>
  for (const change of whole) for (const kind of change.kinds) counts[kind]++
  return { changes: whole, counts, levelsLost }
}

const kinds: readonly ChangeKind[] = [
  ...(['same', 'moved', 'trimmed', 'retimed', 'replaced', 'transition changed', 'switched'] as const),
  ...(['level changed', 'added', 'gone'] as const),
]

/** Equal for equal parts; a name may hold anything, and stands behind all that may not. */
const key = (name: string, ...parts: readonly (string | FrameRange | Speed)[]): string =>
  [...parts.map((part) => (typeof part === 'string' ? part : ordered(part).join('-'))), name].join(' ')

const ordered = (part: FrameRange | Speed): readonly [number, number] =>
  'startFrame' in part ? [part.startFrame, part.endFrame] : [part.numerator, part.denominator]

/** Pairs events of equal keys in the order of the record. */
function pairEqual(
  left: ReadonlySet<Placed>,
  open: ReadonlySet<Placed>,
  pair: (was: Placed, is: Placed) => void,
  keyOf: (placed: Placed) => string,
): void {
  const waiting = groupBy([...left].sort(byRecord).reverse(), keyOf)
  for (const is of [...open].sort(byRecord)) {
    const was = waiting.get(keyOf(is))?.pop()
    if (was) pair(was, is)
  }
}

/** So many events of one key are compared each with each; more are compared with their neighbours only. */
const mostRivals = 60

/** Pairs events of equal keys, those that have most in common first. */
function pairNearest(
  left: ReadonlySet<Placed>,
  open: ReadonlySet<Placed>,
  pair: (was: Placed, is: Placed) => void,
  keyOf: (placed: Placed) => string,
  common: (was: Placed, is: Placed) => number,
): void {
  const waiting = groupBy([...left], keyOf)
  const candidates: { was: Placed; is: Placed; common: number; apart: number }[] = []
  for (const [name, list] of groupBy([...open], keyOf)) {
    const rivals = (waiting.get(name) ?? []).sort(byRecord)
    for (const is of list) {
      const start = is.event.record.startFrame
      for (const was of rivals.length <= mostRivals ? rivals : around(rivals, start)) {
        const shared = common(was, is)
        if (shared > 0)
          candidates.push({ was, is, common: shared, apart: Math.abs(was.event.record.startFrame - start) })
      }
    }
  }
  candidates.sort((a, b) => b.common - a.common || a.apart - b.apart || a.is.position - b.is.position)
  for (const { was, is } of candidates) if (left.has(was) && open.has(is)) pair(was, is)
}

/** Those of a sorted list that stand next to a frame of the record. */
function around(sorted: readonly Placed[], frame: number): Placed[] {
  let [low, high] = [0, sorted.length]
  while (low < high) {
    const middle = (low + high) >> 1
    if ((sorted[middle] as Placed).event.record.startFrame < frame) low = middle + 1
    else high = middle
  }
  return sorted.slice(Math.max(0, low - mostRivals / 2), low + mostRivals / 2)
}

const byRecord = (a: Placed, b: Placed): number =>
  a.event.record.startFrame - b.event.record.startFrame || a.position - b.position

const overlapOfSources = (was: Placed, is: Placed): number => framesInCommon(was.event.source, is.event.source)

/** About what an event shows, at whatever speed: enough to know it again. */
const shownBy = ({ event }: Placed): FrameRange => ({
  startFrame: event.source.startFrame - rangeLength(event.record),
  endFrame: event.source.endFrame + rangeLength(event.record),
})

/** By how much the record was moved where an event stood: as the last event before it that is known again. */
function shiftsOf(pairs: ReadonlyMap<Placed, Placed>): (was: Placed) => number {
  const byTrack = groupBy(
    [...pairs].map(([is, was]) => ({ is, was })).sort((a, b) => byRecord(a.was, b.was)),
    ({ was }) => was.event.track,
  )
  return (was) => {
    const known = byTrack.get(was.event.track) ?? []
    let [low, high] = [0, known.length]
    while (low < high) {
      const middle = (low + high) >> 1
      if ((known[middle] as (typeof known)[0]).was.event.record.startFrame < was.event.record.startFrame)
        low = middle + 1
      else high = middle
    }
    const last = known[low - 1]
    return last ? last.is.event.record.endFrame - last.was.event.record.endFrame : 0
  }
}

function changeOf(was: Placed | null, is: Placed, sayLevels: boolean): EventChange {
  const none = { before: was?.position ?? null, after: is.position, movedFrames: 0, headFrames: 0, tailFrames: 0 }
  if (!was) return { ...none, kinds: ['added'] }
  const [before, after] = [was.event, is.event]
  const movedFrames = after.record.startFrame - before.record.startFrame
  if (was.source !== is.source)
    return { ...none, kinds: movedFrames ? ['replaced', 'moved'] : ['replaced'], movedFrames }
  const isRetimed = ordered(before.speed).join() !== ordered(after.speed).join()
  const changes: ChangeKind[] = []
  const lengthFrames = rangeLength(after.record) - rangeLength(before.record)
  const headFrames = isRetimed ? 0 : headOf(before, after)
  const tailFrames = isRetimed ? 0 : lengthFrames - headFrames
  if (isRetimed) changes.push('retimed')
  if (headFrames || tailFrames) changes.push('trimmed')
  // What begins later only because less of its head is shown has not been moved.
  const isMoved = after.track !== before.track || (movedFrames !== 0 && movedFrames !== -headFrames)
  if (isMoved) changes.push('moved')
  if (!sameTransition(before.transition, after.transition) || !sameTransition(before.fadeOut, after.fadeOut))
    changes.push('transition changed')
  if (before.isDisabled !== after.isDisabled) changes.push('switched')
  const isOtherLevel = sayLevels && !sameLevel(before.level, after.level)
  if (isOtherLevel) changes.push('level changed')
  return {
    ...none,
    ...(isOtherLevel && { level: { before: levelWords(before.level), after: levelWords(after.level) } }),
    kinds: changes.length ? changes : ['same'],
    movedFrames: isMoved ? movedFrames : 0,
    headFrames,
    tailFrames,
  }
}

/** Record frames that an event shows of its source before what it showed. */
function headOf(before: CutEvent, after: CutEvent): number {
  const { numerator, denominator } = before.speed
  const sourceFrames = before.source.startFrame - after.source.startFrame
  if (numerator === 0) return 0
  return Math.round((sourceFrames * denominator) / numerator)
}

function sameTransition(a: Transition | null | undefined, b: Transition | null | undefined): boolean {
  const bare = (transition: Transition | null | undefined): string =>
    transition
      ? [transition.kind, transition.wipeCode, transition.durationFrames, transition.fromBlack === true].join()
      : ''
  return bare(a) === bare(b)
}

/** Puts what is gone behind what stood before it. */
function withGone(changes: readonly EventChange[], gone: readonly Placed[]): EventChange[] {
  const lost = [...gone].sort((a, b) => a.position - b.position)
  const behind = new Map<number, EventChange[]>()
  const afterOf = new Map(changes.flatMap(({ before }, index) => (before === null ? [] : [[before, index] as const])))
  for (const { position } of lost) {
    let before = position - 1
    while (before >= 0 && !afterOf.has(before)) before--
    const at = before < 0 ? -1 : (afterOf.get(before) as number)
    const change: EventChange = {
      ...{ kinds: ['gone'], before: position, after: null, movedFrames: 0, headFrames: 0, tailFrames: 0 },
    }
    const list = behind.get(at)
    if (list) list.push(change)
    else behind.set(at, [change])
  }
  return [...(behind.get(-1) ?? []), ...changes.flatMap((change, index) => [change, ...(behind.get(index) ?? [])])]
}

/** A change in words: "trimmed: 12 frames less at the tail, moved 25 frames later". */
export function describeChange(change: EventChange, rate: Rate): string {
  const words = change.kinds.map((kind) => {
    if (kind === 'trimmed')
      return `trimmed: ${[trim(change.headFrames, 'head'), trim(change.tailFrames, 'tail')].filter(Boolean).join(', ')}`
    if (change.level && kind === 'level changed') return levelChange(change.level)
    if (kind === 'moved' && change.movedFrames !== 0) return moved(change.movedFrames, rate)
    return kind === 'moved' ? 'on another track' : kind
  })
  return words.join(', ')
}

const levelChange = ({ before, after }: Required<EventChange>['level']): string =>
  before === after ? 'level with other keyframes' : `level ${after} instead of ${before}`

const frames = (count: number): string => `${Math.abs(count)} ${Math.abs(count) === 1 ? 'frame' : 'frames'}`
const moved = (count: number, rate: Rate): string =>
  `moved ${frames(count)} ${count > 0 ? 'later' : 'earlier'} (${formatTimecode(Math.abs(count), rate)})`
const trim = (count: number, end: string): string =>
  count === 0 ? '' : `${frames(count)} ${count > 0 ? 'more' : 'less'} at the ${end}`
