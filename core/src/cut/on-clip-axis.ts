import { frameInList, labelledRange } from '../media/index.ts'
import { baseName, normalName, possibleStems, stem } from '../naming/index.ts'
import {
  add,
  compare,
  type ExactRange,
  type Fraction,
  floor,
  fraction,
  framesPerDay,
  sameRate,
  zero,
} from '../time/index.ts'
import type { CutEvent } from './model.ts'
import { namesOfEvent } from './names-of-event.ts'
import type { ResolvableClip } from './resolution.ts'

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
  const into = fraction(named ? named.range.startFrame - start : 0)
  const onAxis = frameInList(clip.facts, event.sourceRate, into)
  const label = day === null ? onAxis : fraction(Number(floor(onAxis)) % day)
  const holds = (frame: Fraction): boolean => isWithin(add(frame, onAxis), clip, event)
  let shift = countsFromZero(event, needed.start, label, holds) ? onAxis : zero
  if (picture && day !== null) {
    const runsBeyond = start + picture.frames - day
    // What it lends to a transition may lie behind the end: where it begins tells.
    if (compare(add(needed.start, shift), fraction(Math.min(start, runsBeyond))) < 0) shift = add(shift, fraction(day))
  }
  return { start: add(needed.start, shift), end: add(needed.end, shift) }
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
  label: Fraction,
  holds: (frame: Fraction) => boolean,
): boolean => mediumStartFrame === 0 && compare(label, zero) !== 0 && (compare(first, label) < 0 || holds(first))

/** Whether a clip holds a frame behind which none of its own lies. */
function isWithin(frame: Fraction, { facts }: ResolvableClip, { sourceRate }: CutEvent): boolean {
  const span = labelledRange(facts, sourceRate)
  return span !== null && compare(frame, span.end) < 0
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
