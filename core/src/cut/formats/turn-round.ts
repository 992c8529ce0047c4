import { add, ceiling, compare, type Fraction, floor, fraction, type Rate, subtract } from '../../time/index.ts'
import { CutFormatError, type Transition } from '../model.ts'
import { beginLater, endEarlier, type Lane, type Placed, shownFrames } from './placing.ts'

/**
 * A lane of a nested sequence as it runs backwards: its last item comes first, each from its last frame to its first. A
 * dissolve stays where it is, and leads into the item that it came from before; so that item begins with it, and the
 * other one ends there.
 * @param frames how long it is, in frames of its own
 * @throws CutFormatError for a wipe, of which nobody says how it looks backwards, and where an item is all transition
 */
export function turnRound(lane: Lane, frames: Fraction, recordRate: Rate): Lane {
  const back = ({ start, end }: { start: Fraction; end: Fraction }) => ({
    start: subtract(frames, end),
    end: subtract(frames, start),
  })
  const items = lane.items.map((placed, index): Placed => {
    const { transition, fadeOut, ...event } = placed.event
    const [before, behind] = [lane.items[index - 1], lane.items[index + 1]]
    const into = behind && comesFrom(placed, behind) ? behind.event.transition : null
    const leads: Transition | null = into ?? (fadeOut ? { ...fadeOut, fromBlack: true } : null)
    for (const each of [transition, leads])
      if (each?.kind === 'wipe') throw new CutFormatError(event.location, 'its wipe cannot run backwards.')
    const later = beginLater(placed, fraction(transition?.durationFrames ?? 0), recordRate)
    const shown = endEarlier(later, fraction(-(leads?.durationFrames ?? 0)), recordRate)
    const recordFrames = subtract(shown.end, shown.start)
    if (recordFrames.numerator <= 0n)
      throw new CutFormatError(event.location, 'it is all transition, and cannot run backwards.')
    const toBlack = transition && !(before && comesFrom(before, placed)) ? withoutBlack(transition) : null
    return {
      ...placed,
      ...back(shown),
      sourceStart: lastShown(shown, recordFrames, recordRate),
      sourceFrames: null,
      event: {
        ...event,
        speed: { ...event.speed, numerator: event.speed.numerator === 0 ? 0 : -event.speed.numerator },
        transition: leads,
        ...(toBlack && { fadeOut: toBlack }),
      },
    }
  })
  items.reverse().forEach((placed, index) => {
    const before = items[index - 1]
    if (before && compare(before.end, placed.start) > 0)
      throw new CutFormatError(placed.event.location, 'its fades lie over each other, and cannot run backwards.')
  })
  const generators = lane.generators.map((generator) => ({ ...generator, ...back(generator) }))
  return { ...lane, items, generators: generators.reverse() }
}

/** Whether an item is dissolved into out of the one before it. */
const comesFrom = (before: Placed, { start, event: { transition } }: Placed): boolean =>
  transition !== null && !transition.fromBlack && compare(start, before.end) === 0

const withoutBlack = ({ fromBlack: _, ...transition }: Transition): Transition => transition

/** The frame of its source that an item shows last, from which it runs when it is turned round. */
function lastShown({ event, sourceStart }: Placed, recordFrames: Fraction, recordRate: Rate): Fraction {
  const { speed, sourceRate, kind } = event
  if (speed.numerator === 0) return sourceStart
  const one = fraction(1)
  const after = (frames: Fraction): Fraction => add(sourceStart, shownFrames(frames, speed, sourceRate, recordRate))
  // Sound is cut between frames: it runs from where it ends.
  if (kind === 'sound') return speed.numerator > 0 ? subtract(after(recordFrames), one) : add(after(recordFrames), one)
  const last = after(subtract(recordFrames, one))
  return fraction(speed.numerator > 0 ? floor(last) : ceiling(last))
}
