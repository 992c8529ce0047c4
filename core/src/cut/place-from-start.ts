import { type MediaFacts, mediumRange } from '../media/index.ts'
import { ceiling, compare, describeShortfall, fraction, subtract, zero } from '../time/index.ts'
import { mediumOf } from './medium-of.ts'
import { type Cut, type CutEvent, exactNeeds, mediaFrames } from './model.ts'
import { sourceDropOf } from './source-drop.ts'

/** What takes the place of an event's source. */
export interface FirstFrameOf {
  readonly name: string
  readonly path: string
  readonly reel: string | null
  readonly facts: MediaFacts
}

/** An event that shows another medium, or why it cannot. */
export type PlacedFromStart = { readonly event: CutEvent } | { readonly refusal: string }

/**
 * Has an event show another medium from its first frame on: for one that has no source points of the cut, as what was
 * made just for this place. The event stays where it is on the record, as long as it is and as fast as it runs.
 * Refused is what would change more than that: one that runs backwards, is part of a key, begins between frames, was
 * scaled for its medium or changes its level on the way, and a medium that has nothing of its kind or does not reach
 * over all of it.
 */
export function placeFromStart(
  cut: Pick<Cut, 'rate' | 'dropFrame' | 'events'>,
  position: number,
  medium: FirstFrameOf,
): PlacedFromStart {
  const event = cut.events[position] as CutEvent
  const { facts } = medium
  const lacksKind = event.kind === 'picture' ? !facts.picture : facts.sound.length === 0
  const refusal =
    (lacksKind && `${medium.name} has no ${event.kind}`) ||
    (event.speed.numerator < 0 && 'it runs backwards') ||
    (event.soundTimes && 'its sound begins or ends between frames') ||
    (event.level?.points && 'its level changes on the way') ||
    (event.key && 'it is part of a key') ||
    (event.fit && 'its scale was set for the medium that it shows')
  if (refusal) return { refusal }
  const sourceRate = facts.picture?.rate ?? cut.rate
  const range = facts.kind === 'still' ? null : mediumRange(facts, sourceRate)
  // Sound may begin between two frames: its first whole one.
  const startFrame = range ? Number(ceiling(range.start)) : 0
  const recordFrames = event.record.endFrame - event.record.startFrame
  const frames = Math.max(1, mediaFrames(recordFrames, event.speed, sourceRate, cut.rate))
  const { sourceDropFrame: _, sourceChannel: __, medium: ___, mediumStartFrame: ____, ...kept } = event
  const placed: CutEvent = {
    ...kept,
    ...{ clipName: medium.name, reel: medium.reel, path: medium.path, sourceRate },
    ...sourceDropOf(facts.dropFrame, sourceRate, cut),
    source: { startFrame, endFrame: startFrame + frames },
    mediumStartFrame: startFrame,
    ...(range && { medium: mediumOf(facts, { start: fraction(startFrame), end: range.end }) }),
  }
  const need = exactNeeds(cut.events.with(position, placed), cut.rate)[position]
  const tailFrames = range && need ? subtract(need.end, range.end) : zero
  if (compare(tailFrames, zero) > 0) {
    const lack = describeShortfall({ headFrames: zero, tailFrames })
    return { refusal: `${medium.name} is too short for it: ${lack} missing` }
  }
  return { event: placed }
}
