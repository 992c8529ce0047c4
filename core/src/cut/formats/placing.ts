import {
  add,
  ceiling,
  compare,
  divide,
  type Fraction,
  floor,
  fraction,
  isWhole,
  maximum,
  multiply,
  type Rate,
  rateAsFraction,
  round,
  subtract,
  zero,
} from '../../time/index.ts'
import {
  type Cut,
  type CutEvent,
  CutFormatError,
  type Generator,
  plain,
  type Speed,
  type Transition,
} from '../model.ts'
import { timesLevel } from '../sound-level.ts'
import { tidyBlack } from './tidy-black.ts'

/**
 * An event of a list whose sequences lie in each other, before it is put on the record: `start` and `end` are exact
 * record frames, counted from the start of what holds it.
 */
export interface Placed {
  /** The event's number, where its list has one. */
  readonly number: string | null
  readonly event: Omit<CutEvent, 'source' | 'record' | 'track' | 'number' | 'soundTimes'>
  readonly start: Fraction
  readonly end: Fraction
  /** In frames of the source; the first that is shown, also where it runs backwards. */
  readonly sourceStart: Fraction
  /** What is shown at normal speed; at any other it follows from the record. */
  readonly sourceFrames: Fraction | null
}

/** Black, colour, titles: what a list makes of itself and needs no source for. */
export interface PlacedGenerator {
  readonly name: string
  readonly start: Fraction
  readonly end: Fraction
}

/** One track of what was nested, flat. */
export interface Lane {
  readonly kind: 'picture' | 'sound'
  readonly items: readonly Placed[]
  readonly generators: readonly PlacedGenerator[]
}

/** How many frames of a source some record frames show. */
export function shownFrames(recordFrames: Fraction, speed: Speed, sourceRate: Rate, recordRate: Rate): Fraction {
  const perFrame = multiply(
    fraction(speed.numerator, speed.denominator),
    divide(rateAsFraction(sourceRate), rateAsFraction(recordRate)),
  )
  return multiply(recordFrames, perFrame)
}

/** The same event beginning so many record frames later, or earlier for fewer than none. */
export function beginLater(placed: Placed, frames: Fraction, recordRate: Rate): Placed {
  const shown = shownFrames(frames, placed.event.speed, placed.event.sourceRate, recordRate)
  return {
    ...placed,
    start: add(placed.start, frames),
    sourceStart: add(placed.sourceStart, shown),
    sourceFrames: placed.sourceFrames && subtract(placed.sourceFrames, shown),
  }
}

/** The same event ending so many record frames earlier. */
export function endEarlier(placed: Placed, frames: Fraction, recordRate: Rate): Placed {
  const shown = shownFrames(frames, placed.event.speed, placed.event.sourceRate, recordRate)
  return {
    ...placed,
    end: subtract(placed.end, frames),
    sourceFrames: placed.sourceFrames && subtract(placed.sourceFrames, shown),
  }
}

/**
 * What of a lane lies within a window, counted from its start.
 * @throws CutFormatError where the window opens within a transition: what that leaves would be lost
 */
export function withinWindow(lane: Lane, from: Fraction, to: Fraction, recordRate: Rate): Lane {
  const items = lane.items.flatMap((placed): Placed[] => {
    const { fadeOut, transition, ...event } = placed.event
    const faded = add(placed.end, fraction(fadeOut?.durationFrames ?? 0))
    if (compare(faded, from) <= 0 || compare(placed.start, to) >= 0) return []
    const entered = add(placed.start, fraction(transition?.durationFrames ?? 0))
    const isWithin = compare(placed.start, from) < 0 && compare(entered, from) > 0
    if (isWithin || compare(placed.end, from) <= 0)
      throw new CutFormatError(event.location, 'what is taken of its sequence begins within its transition.')
    const early = maximum(subtract(from, placed.start), zero)
    const late = maximum(subtract(placed.end, to), zero)
    const kept = endEarlier(beginLater(placed, early, recordRate), late, recordRate)
    const enters = early.numerator === 0n ? upTo(transition, subtract(kept.end, kept.start)) : null
    const leaves = upTo(fadeOut ?? null, subtract(to, kept.end))
    return [
      {
        ...kept,
        start: subtract(kept.start, from),
        end: subtract(kept.end, from),
        event: { ...event, transition: enters, ...(leaves && { fadeOut: leaves }) },
      },
    ]
  })
  const generators = lane.generators.flatMap((generator) =>
    compare(generator.end, from) <= 0 || compare(generator.start, to) >= 0
      ? []
      : [
          {
            ...generator,
            start: subtract(maximum(generator.start, from), from),
            end: subtract(compare(generator.end, to) > 0 ? to : generator.end, from),
          },
        ],
  )
  return { ...lane, items, generators }
}

/**
 * What a lane shows at one of its frames, for as long as that is held; sound that is held is none.
 * @throws CutFormatError where a transition goes on at that frame: two sources are seen at once then
 */
export function heldAt(lane: Lane, at: Fraction, frames: Fraction, recordRate: Rate): Lane {
  const { items, generators } = withinWindow(lane, at, add(at, fraction(1)), recordRate)
  const held = { start: zero, end: frames }
  return {
    kind: lane.kind,
    items: (lane.kind === 'sound' ? [] : items).map((placed) => {
      if (placed.event.transition) throw new CutFormatError(placed.event.location, 'it is held within its transition.')
      return {
        ...placed,
        ...held,
        sourceFrames: null,
        event: { ...placed.event, speed: { numerator: 0, denominator: 1 } },
      }
    }),
    generators: generators.map((generator) => ({ ...generator, ...held })),
  }
}

/** A transition no longer than there is room for it; null where there is none. */
function upTo(transition: Transition | null, roomFrames: Fraction): Transition | null {
  const durationFrames = Math.min(transition?.durationFrames ?? 0, Number(floor(roomFrames)))
  return transition && durationFrames > 0 ? { ...transition, durationFrames } : null
}

/** How a sequence stands in the one that holds it. */
export interface Standing {
  /** Record frames of the holder. */
  readonly start: Fraction
  readonly innerRate: Rate
  readonly holderRate: Rate
  /** How much of it is shown, in frames of its own. */
  readonly innerFrames: Fraction
  /** How fast it runs as a whole, forwards. */
  readonly speed: Speed
  readonly transition: Transition | null
  readonly fadeOut?: Transition | undefined
  readonly isDisabled: boolean
}

/**
 * A lane of a nested sequence as it stands in its holder; it was brought within its window before.
 * @throws CutFormatError where its speed puts a cut of pictures between two frames: which of them it is nobody says
 */
export function standIn(lane: Lane, standing: Standing): Lane {
  const rates = divide(rateAsFraction(standing.holderRate), rateAsFraction(standing.innerRate))
  const scale = divide(rates, fraction(standing.speed.numerator, standing.speed.denominator))
  const isRetimed = standing.speed.numerator !== standing.speed.denominator
  const at = (time: Fraction): Fraction => add(standing.start, multiply(time, scale))
  const length = (transition: Transition): Transition => ({
    ...transition,
    durationFrames: Number(round(multiply(fraction(transition.durationFrames), scale))),
  })
  const items = lane.items.map((placed, index): Placed => {
    const { event } = placed
    const isFirst = index === 0 && placed.start.numerator === 0n
    const isLast = index === lane.items.length - 1 && compare(placed.end, standing.innerFrames) === 0
    const transition = event.transition ? length(event.transition) : isFirst ? standing.transition : null
    const fadeOut = event.fadeOut ? length(event.fadeOut) : isLast ? standing.fadeOut : undefined
    const [start, end] = [at(placed.start), at(placed.end)]
    const lengths = [event.transition, event.fadeOut].map((each) =>
      multiply(fraction(each?.durationFrames ?? 0), scale),
    )
    if (isRetimed && lane.kind === 'picture' && ![start, end, ...lengths].every(isWhole))
      throw new CutFormatError(
        event.location,
        'the sequence that holds it is retimed so that its cut falls between frames: flatten that, and export again.',
      )
    return {
      ...placed,
      ...(isRetimed && { sourceFrames: null }),
      start,
      end,
      event: {
        ...event,
        speed: isRetimed ? product(event.speed, standing.speed) : event.speed,
        transition,
        ...(fadeOut && { fadeOut }),
        ...(standing.isDisabled && { isDisabled: true as const }),
      },
    }
  })
  const generators = lane.generators.map((each) => ({ ...each, start: at(each.start), end: at(each.end) }))
  return { ...lane, items, generators }
}

/** A lane with remarks at each of its items. */
export const withNotes = (lane: Lane, notes: readonly string[]): Lane => ({
  ...lane,
  items: lane.items.map((placed) => ({
    ...placed,
    event: { ...placed.event, notes: [...placed.event.notes, ...notes] },
  })),
})

/** A lane of sound in something that makes all of it louder or softer. */
export function withLevel(lane: Lane, gain: number): Lane {
  if (gain === 1) return lane
  const items = lane.items.map((placed): Placed => {
    const { level, ...event } = placed.event
    const heard = timesLevel(level, gain)
    return { ...placed, event: { ...event, ...(heard && { level: heard }) } }
  })
  return { ...lane, items }
}

/** Whether a nested sequence is one layer that begins where it begins: then a transition can lead into it. */
export const beginsAtOnce = ([lane, ...above]: readonly Lane[]): boolean =>
  above.length === 0 && lane?.items[0]?.start.numerator === 0n

/** Whether what stands on a lane ends just there. */
export const endsAt = (items: readonly Placed[], at: Fraction): boolean => {
  const last = items.at(-1)
  return last !== undefined && compare(last.end, at) === 0
}

/** What is said of a transition that would be out of, or into, several layers at once. */
export const cannotLayOut = (place: string): CutFormatError =>
  new CutFormatError(
    place,
    'the transition at a nested sequence cannot be laid out flat: ' +
      'flatten the sequence in the cutting room, and export again.',
  )

/** What stands at an event whose speed changes on the way: what it shows is known by its ends alone. */
export const speedVaries = '* SPEED VARIES: ALL THAT IT SHOWS IS TAKEN AS RUNNING EVENLY'

/** Two speeds one after the other. */
export function product(a: Speed, b: Speed): Speed {
  const { numerator, denominator } = multiply(
    fraction(a.numerator, a.denominator),
    fraction(b.numerator, b.denominator),
  )
  return { numerator: Number(numerator), denominator: Number(denominator) }
}

/**
 * Puts an event on the record. Pictures stand on frames; sound that does not says exactly where it stands.
 * @param recordStart where the record of the list begins
 */
function onRecord(
  placed: Placed,
  at: { readonly track: string; readonly number: string; readonly recordStart: Fraction; readonly recordRate: Rate },
): CutEvent {
  const { event, sourceStart } = placed
  const isSound = event.kind === 'sound'
  const start = add(at.recordStart, placed.start)
  const end = add(at.recordStart, placed.end)
  const speed = event.speed
  const shown = shownFrames(subtract(end, start), speed, event.sourceRate, at.recordRate)
  const size = shown.numerator < 0n ? { ...shown, numerator: -shown.numerator } : shown
  const frames = placed.sourceFrames ?? (speed.numerator === 0 ? fraction(1) : size)
  const sourceEnd = add(sourceStart, frames)
  const startFrame = Number(floor(sourceStart))
  const isBetween = isSound && ![start, end, sourceStart, sourceEnd].every(isWhole)
  return {
    ...event,
    number: at.number,
    track: at.track,
    source: {
      startFrame,
      // A picture's length counts from the frame that it begins with.
      endFrame: isSound ? Number(ceiling(sourceEnd)) : startFrame + Math.max(1, Number(ceiling(frames))),
    },
    record: { startFrame: Number(round(start)), endFrame: Number(round(end)) },
    ...(isBetween && {
      soundTimes: {
        sourceStart: plain(sourceStart),
        sourceEnd: plain(sourceEnd),
        recordStart: plain(start),
        recordEnd: plain(end),
      },
    }),
  }
}

/**
 * Puts all lanes of a list on the record, a track for each. Events without a number of their own are counted.
 * @param at where the record begins, and at which rate it counts
 */
export function tracksOfLanes(
  lanes: readonly Lane[],
  at: { readonly recordStart: Fraction; readonly recordRate: Rate },
): Pick<Cut, 'tracks' | 'events'> & { readonly generators?: readonly Generator[] } {
  const counts = { V: 0, A: 0 }
  const events: CutEvent[] = []
  const generators: Generator[] = []
  const frameOf = (time: Fraction): number => Number(round(add(at.recordStart, time)))
  const tracks = lanes.map(({ kind, items, generators: made }) => {
    const letter = kind === 'sound' ? 'A' : 'V'
    const track = `${letter}${++counts[letter]}`
    for (const placed of items) {
      const number = placed.number ?? String(events.length + 1).padStart(3, '0')
      events.push(onRecord(placed, { ...at, track, number }))
    }
    for (const { name, start, end } of made)
      generators.push({ track, name, record: { startFrame: frameOf(start), endFrame: frameOf(end) } })
    return { name: track, kind }
  })
  return { tracks, events: tidyBlack(events), ...(generators.length && { generators }) }
}
