import {
  type Cut,
  type CutEvent,
  carriedBeside,
  countsFromZero,
  exactNeeds,
  type Medium,
  namesOfEvent,
  normalSpeed,
  shiftSource,
  sourceDropOf,
  wholeFrames,
} from '../cut/index.ts'
import { normalName, stem } from '../naming/index.ts'
import {
  compare,
  type ExactRange,
  type FrameRange,
  formatRate,
  fraction,
  parseTimecode,
  type Rate,
  rangeLength,
  sameRate,
} from '../time/index.ts'
import { type JoinedEntry, joinedStart } from './join.ts'

/** A joined file as a cut may name it. */
export interface JoinedSource {
  readonly id: string
  /** What its file was called when it was made; no two of a production are called alike. */
  readonly name: string
  readonly rate: Rate
  readonly entries: readonly JoinedEntry[]
}

/** A part of an event that shows one part of a joined file. */
export interface ApartPiece {
  readonly event: CutEvent
  readonly entry: JoinedEntry
  /** The parts besides that its transition showed in the joined file, where on its own original it goes on. */
  readonly lentFrom: readonly JoinedEntry[]
}

/** What becomes of an event of a joined file, or why it cannot be taken apart. */
export type TakenApart = { readonly pieces: readonly ApartPiece[] } | { readonly refusal: string }

/** Joined files by what they are called, in whatever case and Unicode form and with whatever ending. */
export class JoinedSources {
  readonly #byStem = new Map<string, JoinedSource>()

  constructor(joined: readonly JoinedSource[]) {
    for (const source of joined) this.#byStem.set(joinedKey(source.name), source)
  }

  /** All of them. */
  get all(): readonly JoinedSource[] {
    return [...this.#byStem.values()]
  }

  /** Whether a list could not tell a file of this name from one of these. */
  isCalled(name: string): boolean {
    return this.#byStem.has(joinedKey(name))
  }

  /** The joined file that an event names; undefined where it names none. */
  of(event: CutEvent): JoinedSource | undefined {
    if (this.#byStem.size === 0) return undefined
    for (const name of namesOfEvent(event)) {
      const source = this.#byStem.get(joinedKey(name))
      if (source) return source
    }
    return undefined
  }
}

/** What is the same of joined files that a list cannot tell apart by name. */
const joinedKey = (name: string): string => normalName(stem(name))

/**
 * An event of a joined file as events of its parts, each with its own name, reel and labels: one where it shows one
 * part, and one for each where it runs at its own speed over several. Where it stands and how long it is stays.
 * Refused is what cannot be told apart without changing a frame.
 * @param need all that it needs of the joined file, with what it lends to a transition
 */
export function takeApart(
  cut: Pick<Cut, 'rate' | 'dropFrame'>,
  event: CutEvent,
  source: JoinedSource,
  need: ExactRange,
): TakenApart {
  if (!sameRate(event.sourceRate, source.rate))
    return {
      refusal: `the list counts it at ${formatRate(event.sourceRate)}, and it runs at ${formatRate(source.rate)}`,
    }
  const origin = originOf(event, source)
  const { fadeOut: _, ...alone } = event
  const [own = need] = exactNeeds([alone], cut.rate)
  const shown = shift(wholeFrames(own), -origin)
  const shows = partsIn(source.entries, shown)
  if (rangeLength(shown) !== shows.reduce((sum, part) => sum + rangeLength(part.range), 0))
    return { refusal: 'it shows frames that the joined file does not have' }
  const lent = shift(wholeFrames(need), -origin)
  const lentFrom = (entry: JoinedEntry): JoinedEntry[] =>
    partsIn(source.entries, lent).flatMap((part) => (part.entry === entry ? [] : [part.entry]))
  const [only, ...others] = shows
  if (only && others.length === 0)
    return {
      pieces: [{ event: onPart(cut, event, only.entry, origin), entry: only.entry, lentFrom: lentFrom(only.entry) }],
    }
  const refusal = whyWhole(cut, event)
  if (refusal !== null) {
    const names = shows.map(({ entry }) => entry.clipName).join(' and ')
    return { refusal: `it runs over ${names}, and ${refusal}` }
  }
  const pieces = shows.map(({ entry, range }, index): ApartPiece => {
    const isLast = index === shows.length - 1
    const { transition, fadeOut, ...kept } = event
    const piece: CutEvent = {
      ...kept,
      transition: index === 0 ? transition : null,
      ...(isLast && fadeOut && { fadeOut }),
      source: shift(range, origin),
      record: shift(range, event.record.startFrame - shown.startFrame),
      ...(event.linkedBy !== undefined && { linkedBy: `${event.linkedBy} ${index + 1}` }),
    }
    const beyond = isLast ? lentFrom(entry).filter((other) => !shows.some((part) => part.entry === other)) : []
    return { event: onPart(cut, piece, entry, origin), entry, lentFrom: beyond }
  })
  const first = pieces[0]?.event
  if (first?.transition && rangeLength(first.record) < first.transition.durationFrames)
    return { refusal: 'it runs over two parts within its transition' }
  return { pieces }
}

/** Where the joined file begins on the axis of an event: at its own label, or at none where a list counts from zero. */
function originOf(event: CutEvent, { rate, entries }: JoinedSource): number {
  const start = parseTimecode(joinedStart, rate, false)
  const frames = fraction(entries.reduce((sum, entry) => sum + entry.frames, 0))
  const first = fraction(event.source.startFrame)
  return countsFromZero(event, first, fraction(start), (frame) => compare(frame, frames) < 0) ? 0 : start
}

const shift = ({ startFrame, endFrame }: FrameRange, frames: number): FrameRange => ({
  startFrame: startFrame + frames,
  endFrame: endFrame + frames,
})

interface PartOfUse {
  readonly entry: JoinedEntry
  /** Which of its frames, counted from the first of the joined file. */
  readonly range: FrameRange
}

/** The parts of a joined file that lie in a range, in their order. */
const partsIn = (entries: readonly JoinedEntry[], { startFrame, endFrame }: FrameRange): PartOfUse[] =>
  entries.flatMap((entry) => {
    const range = {
      startFrame: Math.max(startFrame, entry.startFrame),
      endFrame: Math.min(endFrame, entry.startFrame + entry.frames),
    }
    return range.startFrame < range.endFrame ? [{ entry, range }] : []
  })

/** Why an event cannot become several; null where it can. */
function whyWhole(cut: Pick<Cut, 'rate'>, event: CutEvent): string | null {
  const { numerator, denominator } = event.speed
  if (numerator * normalSpeed.denominator !== denominator * normalSpeed.numerator) return 'it is retimed'
  if (!sameRate(event.sourceRate, cut.rate)) return 'its source counts at another rate than the cut'
  if (event.soundTimes) return 'its sound begins or ends between frames'
  if (event.key) return 'it is part of a key'
  return null
}

/** An event of a joined file on the labels of the part that it shows. */
function onPart(cut: Pick<Cut, 'dropFrame'>, event: CutEvent, entry: JoinedEntry, origin: number): CutEvent {
  const start = entry.sourceStartFrame ?? 0
  const { sourceDropFrame: _, medium, carried: __, ...kept } = shiftSource(event, start - origin - entry.startFrame)
  const frames = { startFrame: start, endFrame: start + entry.frames }
  const placed: Medium | undefined = medium && { ...medium, frames }
  return {
    ...kept,
    ...{ clipName: entry.clipName, reel: entry.reel, path: null },
    mediumStartFrame: entry.sourceStartFrame,
    ...sourceDropOf(entry.dropFrame, event.sourceRate, cut),
    ...(placed && { medium: placed }),
    ...carriedBeside(event, entry.clipName),
  }
}
