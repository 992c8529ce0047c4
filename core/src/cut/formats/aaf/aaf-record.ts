import {
  add,
  allowsDropFrame,
  divide,
  type Fraction,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  round,
  zero,
} from '../../../time/index.ts'
import type { Marker } from '../../model.ts'
import { kindOfSlot } from './aaf-compositions.ts'
import { property } from './aaf-model.ts'
import type { AafObject } from './aaf-object.ts'
import { isDropTimecode, labelRate, rateOf, timecodesIn } from './aaf-source.ts'

/** How the record of a composition counts. */
export interface AafRecord {
  readonly rate: Rate
  /** In frames from midnight. */
  readonly start: Fraction
  readonly isDrop: boolean
}

const where = 'the composition'

/**
 * How the record counts: at the rate of its pictures, and where there is sound alone at that of its timecode.
 * @param slots of the composition
 * @param fallback where nothing says it
 * @throws CutFormatError for a rate that is none
 */
export function recordOf(slots: readonly AafObject[], fallback: Rate): AafRecord {
  const ofPictures = slots.find((slot) => kindOfSlot(slot) === 'picture')?.rational(property.slotEditRate)
  const pictureRate = ofPictures ? rateOf(ofPictures, where) : null
  const slot = slots.find((each) => timecodesIn(each).length > 0)
  const [timecode] = slot ? timecodesIn(slot) : []
  const start = timecode?.integer(property.timecodeStart)
  if (!timecode || start == null) return { rate: pictureRate ?? fallback, start: zero, isDrop: false }
  const beside = [ofPictures, slot?.rational(property.slotEditRate)].flatMap((each) => each ?? [])
  const counted = labelRate(Number(timecode.integer(property.timecodeFramesPerSecond) ?? 0n), beside, where)
  const rate = pictureRate ?? counted
  return {
    rate,
    start: multiply(fraction(start), divide(rateAsFraction(rate), rateAsFraction(counted))),
    isDrop: allowsDropFrame(counted) && isDropTimecode(timecode),
  }
}

/** Remarks at frames of the record. */
export function markersOf(slots: readonly AafObject[], recordStart: Fraction, rate: Rate): Marker[] {
  return slots.flatMap((slot) => {
    const slotRate = slot.className === 'EventMobSlot' ? slot.rational(property.eventSlotEditRate) : null
    const segment = slot.object(property.slotSegment)
    if (!slotRate || slotRate.numerator <= 0n || !segment) return []
    const inFrames = (units: bigint | null): Fraction =>
      multiply(fraction(units ?? 0n), divide(rateAsFraction(rate), slotRate))
    const events = segment.className === 'Sequence' ? segment.objects(property.components) : [segment]
    return events.flatMap((event): Marker[] => {
      if (event.className !== 'CommentMarker' && event.className !== 'DescriptiveMarker') return []
      const position = inFrames(event.integer(property.eventPosition))
      const durationFrames = Number(round(inFrames(event.integer(property.length))))
      const note = event.text(property.eventComment) ?? ''
      return [{ recordFrame: Number(round(add(recordStart, position))), durationFrames, name: '', note }]
    })
  })
}
