import { type Cut, type CutEvent, compareCuts, describeChange, type EventChange } from '../cut/index.ts'
import { canonicalJson } from '../text/index.ts'
import type { Rate } from '../time/index.ts'

/** What a list says that was handed off, so that it can be held against what it would say later. */
export interface HandedCut {
  readonly cut: Cut
  /** By which each event's original is known, whatever it is called and wherever it lies; null for one without. */
  readonly contents: readonly (string | null)[]
}

/** What an event says now that is another thing than was handed off. */
export interface ChangeSince {
  readonly number: string
  readonly track: string
  readonly words: string
}

/**
 * What there is to keep of a cut on its originals.
 * @param contents of the original of each event, in their order
 */
export function handedCut(conformed: Cut, contents: readonly (string | null)[]): HandedCut {
  const { name, rate, dropFrame, tracks } = conformed
  const events = conformed.events.map(({ carried: _, notes: __, location: ___, ...said }) => ({
    ...{ ...said, notes: [], location: '' },
  }))
  return { cut: { name, rate, dropFrame, tracks, events }, contents }
}

/**
 * What of a cut is another thing now than when it was handed off, in the order in which it stands.
 * @param withPlaces whether it counts where originals lie and what they are called: not where copies went along
 */
export function changesSince(
  handed: HandedCut,
  now: HandedCut,
  { withPlaces }: { readonly withPlaces: boolean },
): ChangeSince[] {
  const contentIn =
    ({ contents }: HandedCut) =>
    (event: CutEvent, position: number): string =>
      contents[position] ?? `without an original ${event.kind} ${event.reel ?? ''} ${event.clipName ?? ''}`
  const { changes } = compareCuts(handed.cut, now.cut, { before: contentIn(handed), after: contentIn(now) })
  return changes.flatMap((change): ChangeSince[] => {
    const [was, is] = [eventOf(handed, change.before), eventOf(now, change.after)]
    const { event } = is ?? (was as HandedEvent)
    const words =
      was && is ? wordsOf(change, was, is, { rate: now.cut.rate, withPlaces }) : describeChange(change, now.cut.rate)
    return words === null ? [] : [{ number: event.number, track: event.track, words }]
  })
}

interface HandedEvent {
  readonly event: CutEvent
  readonly content: string | null
}

function eventOf({ cut, contents }: HandedCut, position: number | null): HandedEvent | null {
  const event = position === null ? undefined : cut.events[position]
  return event ? { event, content: contents[position as number] ?? null } : null
}

function wordsOf(
  change: EventChange,
  was: HandedEvent,
  is: HandedEvent,
  { rate, withPlaces }: { readonly rate: Rate; readonly withPlaces: boolean },
): string | null {
  const others = change.kinds.filter((kind) => kind !== 'replaced' && kind !== 'same')
  const words = [
    ...(change.kinds.includes('replaced') ? [replacedWords(was, is)] : []),
    ...(others.length ? [describeChange({ ...change, kinds: others }, rate)] : []),
    ...(withPlaces && !change.kinds.includes('replaced') ? placeWords(was.event, is.event) : []),
    ...besides(was.event, is.event),
  ]
  return words.length ? words.join(', ') : null
}

function replacedWords(was: HandedEvent, is: HandedEvent): string {
  const [before, after] = [was, is].map(({ event }) => event.clipName ?? 'a clip without a name') as [string, string]
  if (is.content === null) return `has no original now, and was on ${before}`
  if (was.content === null) return `is on ${after} now, and had no original`
  return before === after ? `shows another content by the name of ${after}` : `is on ${after} now instead of ${before}`
}

/** What a list says of where the original of an event is found. */
const placeWords = (was: CutEvent, is: CutEvent): string[] => [
  ...(was.path !== is.path && is.path !== null ? [`lies at ${is.path} now`] : []),
  ...(was.clipName !== is.clipName ? [`is called ${is.clipName ?? 'nothing'} now`] : []),
  ...(was.reel !== is.reel ? [`has the reel ${is.reel ?? 'of none'} now`] : []),
]

/** What a list says of an event besides what it shows, and when. */
function besides(was: CutEvent, is: CutEvent): string[] {
  const differs = (of: (event: CutEvent) => unknown): boolean =>
    canonicalJson(of(was) ?? null) !== canonicalJson(of(is) ?? null)
  return [
    ...(differs(({ fit }) => fit) ? ['stands at another scale or place'] : []),
    ...(differs(({ sourceChannel }) => sourceChannel) ? ['is of another channel'] : []),
    ...(differs(({ soundTimes }) => soundTimes) ? ['begins or ends at another part of a frame'] : []),
  ]
}
