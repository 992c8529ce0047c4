import { labelledRange } from '../media/index.ts'
import { baseName, normalName, possibleStems, stem } from '../naming/index.ts'
import {
  add,
  compare,
  type ExactRange,
  type Fraction,
  fraction,
  framesPerDay,
  sameRate,
  subtract,
} from '../time/index.ts'
import type { CutEvent } from './model.ts'
import { namesOfEvent } from './names-of-event.ts'
import type { ResolvableClip } from './resolution.ts'

const isBelow = (frame: Fraction, other: Fraction | number): boolean =>
  compare(frame, typeof other === 'number' ? fraction(other) : other) < 0

/**
 * Puts a use on the original's own timecode axis. A list that counts a source from zero is shifted to the start of the
 * file that it names; a use after midnight of a clip that runs across it is shifted by a day.
 */
export function onClipAxis(
  event: CutEvent,
  needed: ExactRange,
  clip: ResolvableClip,
  suffixes: readonly string[],
): ExactRange {
  const { picture, startFrame: start, dropFrame } = clip.facts
  if (start === null) return needed
  const day = picture && sameRate(picture.rate, event.sourceRate) ? framesPerDay(picture.rate, dropFrame) : null
  // Of a take over several files a list may count from the first frame of the one that it names.
  const named = partNamed(event, clip, suffixes)
  const onAxis = named?.range.startFrame ?? start
  const label = day === null ? onAxis : onAxis % day
  const isCountedFromZero = countsFromZero(event, needed.start, label, (frame) => isWithin(frame, clip, event, onAxis))
  let shift = isCountedFromZero ? onAxis : 0
  if (picture && day !== null) {
    const runsBeyond = start + picture.frames - day
    // What it lends to a transition may lie behind the end: where it begins tells.
    if (isBelow(needed.start, Math.min(start, runsBeyond) - shift)) shift += day
  }
  const by = fraction(shift)
  return { start: add(needed.start, by), end: add(needed.end, by) }
}

/**
 * Whether a list counts a source from the first frame of its medium. It is believed where it says so, but for labels
 * that lie behind all that the medium holds: some lists say zero, and write labels all the same.
 * @param first the first frame of the use, as the list counts
 * @param label at which the medium begins
 * @param holds whether the medium has a frame, counted from its first
 */
export const countsFromZero = (
  { mediumStartFrame }: CutEvent,
  first: Fraction,
  label: number,
  holds: (frame: Fraction) => boolean,
): boolean => mediumStartFrame === 0 && label !== 0 && (isBelow(first, label) || holds(first))

/** Whether a clip holds a frame that is counted from the first of one of its files. */
function isWithin(frame: Fraction, { facts }: ResolvableClip, { sourceRate }: CutEvent, onAxis: number): boolean {
  const span = labelledRange(facts, sourceRate)
  const before = fraction(onAxis - (facts.startFrame ?? 0))
  return span !== null && compare(add(frame, before), subtract(span.end, span.start)) < 0
}

/** Which file of a take over several an event names, or the proxy of which; undefined of any other clip. */
function partNamed(
  event: CutEvent,
  { parts }: ResolvableClip,
  suffixes: readonly string[],
): ResolvableClip['parts'][number] | undefined {
  if (parts.length === 0) return undefined
  const stems = namesOfEvent(event).flatMap((name) => possibleStems(name, suffixes))
  return parts.find(({ path }) => stems.includes(normalName(stem(baseName(path)))))
}
