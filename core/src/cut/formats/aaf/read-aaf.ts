import {
  add,
  compare,
  divide,
  type Fraction,
  floor,
  fraction,
  multiply,
  negative,
  type Rate,
  rateAsFraction,
  round,
  subtract,
  zero,
} from '../../../time/index.ts'
import {
  type Cut,
  CutFaults,
  CutFormatError,
  type LeftOut,
  leftOutOf,
  normalSpeed,
  type Transition,
} from '../../model.ts'
import type { BinaryCutFormat, ReadOptions } from '../format.ts'
import {
  beginsAtOnce,
  cannotLayOut,
  endEarlier,
  endsAt,
  type Lane,
  type Placed,
  type PlacedGenerator,
  standIn,
  tracksOfLanes,
  withinWindow,
  withLevel,
  withNotes,
} from '../placing.ts'
import { inTrackOrder, isOfClip, kindOfSlot, mobsOf, nameOf, topCompositions } from './aaf-compositions.ts'
import { property } from './aaf-model.ts'
import { AafObject } from './aaf-object.ts'
import {
  definitionOf,
  gainOfGroup,
  type Nested,
  type OperationDefinition,
  operationsOf,
  runWarped,
  transitionOf,
} from './aaf-operation.ts'
import { markersOf, recordOf } from './aaf-record.ts'
import { referenceOf, traceSource } from './aaf-source.ts'
import { isCompoundFile, readCompoundFile } from './compound-file.ts'

/**
 * AAF: a composition mob whose slots are sequences of source clips, fillers, transitions and operation groups, and the
 * mobs that they refer to (AAF Object Specification 1.1, AAF Edit Protocol). It is read; it is not written.
 */
export const aaf: BinaryCutFormat = {
  id: 'aaf',
  name: 'AAF',
  extension: '.aaf',
  recognises: isCompoundFile,
  read: (bytes, options) => new AafReader(bytes, options).read(),
}

/** Segments within segments; real ones have a handful. */
const deepest = 64
/** A composition that stands in others, which stand in others, becomes very many events: a programme has fewer. */
const mostLaidOut = 100_000

/** Years of pictures: beyond it a number is no length and no place, but a fault. */
const mostFrames = fraction(1e10)

/** Where a segment stands: its slot's unit, what it is, and how deep it lies. */
interface Where {
  readonly kind: 'picture' | 'sound'
  readonly slotRate: Fraction
  readonly at: string
  readonly depth: number
}

class AafReader {
  readonly #options: ReadOptions
  readonly #mobs: ReadonlyMap<string, AafObject>
  readonly #operations: ReadonlyMap<string, OperationDefinition>
  readonly #faults: CutFormatError[] = []
  /** What was read of each track: one composition may stand in others many times. */
  readonly #read = new Map<AafObject, Nested>()
  /** Layers and events so far, those of compositions in each other counted wherever they stand. */
  #laidOut = 0
  /** The compositions that are being read, to find one that holds itself. */
  readonly #open = new Set<AafObject>()
  #rate: Rate
  #isDrop = false
  #nestedSequences = 0

  constructor(bytes: Uint8Array, options: ReadOptions) {
    const root = new AafObject(readCompoundFile(bytes))
    const header = root.object(property.header)
    if (!header) throw new CutFormatError('the file', 'it is a compound file, and no AAF.')
    this.#options = options
    this.#rate = options.rate
    this.#mobs = mobsOf(header)
    this.#operations = operationsOf(header.object(property.dictionary))
  }

  read(): Cut {
    const [composition, ...others] = topCompositions(this.#mobs)
    if (!composition)
      throw new CutFormatError('the file', 'there is no composition in it: it holds clips, and no sequence.')
    const slots = composition.objects(property.slots)
    const { rate, start: recordStart, isDrop } = recordOf(slots, this.#options.rate)
    this.#rate = rate
    this.#isDrop = isDrop
    const lanes = this.#slots(composition, 0)
    const cut = tracksOfLanes(lanes, { recordStart, recordRate: this.#rate })
    if (this.#faults.length && (!this.#options.takeGood || cut.events.length === 0)) throw new CutFaults(this.#faults)
    if (cut.events.length === 0) throw new CutFormatError('the composition', 'there is no clip in it.')
    const markers = markersOf(slots, recordStart, rate)
    const leftOut: LeftOut[] = [
      ...this.#faults.map(leftOutOf),
      ...others.map((other) => ({
        location: 'the file',
        reason: `the composition “${nameOf(other) ?? 'without a name'}” is another one, and was not read.`,
      })),
    ]
    return {
      ...cut,
      name: nameOf(composition) ?? this.#options.fileName.replace(/\.aaf$/i, ''),
      rate,
      dropFrame: isDrop,
      recordStartFrame: Number(round(recordStart)),
      ...(markers.length && { markers }),
      ...(this.#nestedSequences && { nestedSequences: this.#nestedSequences }),
      ...(leftOut.length && { leftOut }),
    }
  }

  #slots(composition: AafObject, depth: number): Lane[] {
    const names = { picture: 0, sound: 0 }
    return inTrackOrder(composition.objects(property.slots)).flatMap((slot) => {
      const kind = kindOfSlot(slot)
      if (!kind) return []
      const at = `${kind === 'picture' ? 'V' : 'A'}${++names[kind]}`
      return [...this.#slot(slot, kind, at, depth).lanes]
    })
  }

  #slot(slot: AafObject, kind: 'picture' | 'sound', at: string, depth: number): Nested {
    const known = this.#read.get(slot)
    if (known) return known
    const slotRate = slot.rational(property.slotEditRate)
    const segment = slot.object(property.slotSegment)
    if (!slotRate || slotRate.numerator <= 0n || !segment)
      throw new CutFormatError(at, 'this track does not say at which rate it counts, or what is on it.')
    const read = this.#segment(segment, { kind, slotRate, at, depth })
    this.#read.set(slot, read)
    return read
  }

  #frames(units: bigint | null, { slotRate, at }: Where): Fraction {
    if (units === null || units < 0n) throw new CutFormatError(at, 'it does not say how long it is.')
    const frames = this.#inFrames(units, slotRate)
    if (compare(frames, mostFrames) > 0) throw new CutFormatError(at, 'it is longer than anything that was ever shot.')
    return frames
  }

  #inFrames = (units: bigint, slotRate: Fraction): Fraction =>
    multiply(fraction(units), divide(rateAsFraction(this.#rate), slotRate))

  #segment(segment: AafObject, where: Where): Nested {
    const { at, depth, kind } = where
    if (depth > deepest) throw new CutFormatError(at, `segments lie more than ${deepest} deep in each other.`)
    const within = (part: string): Where => ({ ...where, at: `${at}, ${part}`, depth: depth + 1 })
    const length = (): Fraction => this.#frames(segment.integer(property.length), where)
    switch (segment.className) {
      case 'Sequence':
        return this.#sequence(segment.objects(property.components), where)
      case 'SourceClip':
        return this.#clip(segment, length(), where)
      // What shows through from below has an event of its own there.
      case 'Filler':
      case 'ScopeReference':
        return { lanes: [], frames: length() }
      case 'OperationGroup':
        return this.#operation(segment, length(), where)
      case 'Selector': {
        const selected = segment.object(property.selected)
        return selected ? this.#segment(selected, within('what is selected')) : { lanes: [], frames: length() }
      }
      case 'EssenceGroup': {
        const [choice] = segment.objects(property.essenceChoices)
        return choice ? this.#segment(choice, within('its first choice')) : { lanes: [], frames: length() }
      }
      case 'NestedScope': {
        const layers = segment.objects(property.scopeSlots)
        const nested = layers.map((layer, index) => this.#segment(layer, within(`layer ${index + 1}`)))
        return { lanes: nested.flatMap(({ lanes }) => lanes), frames: nested.at(-1)?.frames ?? zero }
      }
      default:
        throw new CutFormatError(
          at,
          `a ${kind === 'picture' ? 'picture' : 'sound'} is wanted here, and this is ${segment.className ?? 'something'} ` +
            'that is not read in a track.',
        )
    }
  }

  #sequence(parts: readonly AafObject[], where: Where): Nested {
    const lanes: { items: Placed[]; generators: PlacedGenerator[] }[] = [{ items: [], generators: [] }]
    const main = lanes[0] as (typeof lanes)[number]
    let at = zero
    let open: { transition: Transition; frames: Fraction } | null = null
    let isLayered = false
    for (const [index, part] of parts.entries()) {
      const inside = { ...where, at: `${where.at}, part ${index + 1}`, depth: where.depth + 1 }
      if (part.className === 'Transition') {
        const frames = this.#frames(part.integer(property.length), inside)
        const does = definitionOf(part.object(property.transitionOperation), this.#operations)
        open = { frames, transition: transitionOf(does, Number(round(frames))) }
        // It lies over the end of what goes before, and over the beginning of what comes.
        at = subtract(at, frames)
        if (at.numerator < 0n)
          throw new CutFormatError(inside.at, 'the transition is longer than what goes before it on its track.')
        continue
      }
      const nested = this.#good(part, inside)
      const isEmpty = nested.lanes.every((lane) => lane.items.length === 0)
      const cutAt: Fraction = add(at, open?.frames ?? zero)
      const follows = endsAt(main.items, cutAt)
      if (open && (isLayered || !(isEmpty || beginsAtOnce(nested.lanes)))) throw cannotLayOut(inside.at)
      if (open && follows) this.#endInTransition(main.items, open, { isToBlack: isEmpty, at: inside.at })
      const standing = {
        ...{ start: at, innerRate: this.#rate, holderRate: this.#rate, innerFrames: nested.frames, speed: normalSpeed },
        transition: open && { ...open.transition, ...(!follows && { fromBlack: true as const }) },
        isDisabled: false,
      }
      nested.lanes.forEach((lane, above) => {
        lanes[above] ??= { items: [], generators: [] }
        const stood = standIn(lane, standing)
        lanes[above].items.push(...stood.items)
        lanes[above].generators.push(...stood.generators)
      })
      isLayered = nested.lanes.length > 1
      at = add(at, nested.frames)
      open = null
    }
    if (open && isLayered) throw cannotLayOut(where.at)
    if (open && endsAt(main.items, add(at, open.frames)))
      this.#endInTransition(main.items, open, { isToBlack: true, at: where.at })
    return { lanes: lanes.map((lane) => ({ kind: where.kind, ...lane })), frames: at }
  }

  /** A part of a sequence, or as much room as it takes, with its fault kept, where that alone is known of it. */
  #good(part: AafObject, where: Where): Nested {
    try {
      return this.#segment(part, where)
    } catch (error) {
      const length = part.integer(property.length)
      if (!(error instanceof CutFormatError) || error instanceof CutFaults || length === null || length < 0n)
        throw error
      this.#faults.push(error)
      return { lanes: [], frames: this.#frames(length, where) }
    }
  }

  /** What goes before a transition ends where that begins, and lends what is shown of it. */
  #endInTransition(
    items: Placed[],
    open: { transition: Transition; frames: Fraction },
    { isToBlack, at }: { isToBlack: boolean; at: string },
  ): void {
    const before = items.pop()
    if (!before) return
    const ended = endEarlier(before, open.frames, this.#rate)
    if (compare(ended.end, ended.start) <= 0)
      throw new CutFormatError(at, 'the transition begins before the clip that it goes over from.')
    items.push(isToBlack ? { ...ended, event: { ...ended.event, fadeOut: open.transition } } : ended)
  }

  #clip(clip: AafObject, frames: Fraction, where: Where): Nested {
    const reference = referenceOf(clip, zero, where.slotRate)
    // A clip that refers to nothing shows nothing.
    if (!reference) return { lanes: [], frames }
    const target = this.#mobs.get(reference.mobId)
    if (target?.className === 'CompositionMob') return this.#nested(target, reference, frames, where)
    if (frames.numerator === 0n) return { lanes: [], frames }
    const { kind, at } = where
    const { sourceStart, ...source } = traceSource(this.#mobs, reference, {
      ...{ kind, at, recordRate: this.#rate, isDrop: this.#isDrop },
    })
    if (compare(sourceStart, mostFrames) > 0 || compare(sourceStart, negative(mostFrames)) < 0)
      throw new CutFormatError(at, 'it begins where no source has a frame.')
    const shown = multiply(frames, divide(rateAsFraction(source.sourceRate), rateAsFraction(this.#rate)))
    const event: Placed['event'] = {
      kind,
      ...source,
      ...{ transition: null, speed: normalSpeed, notes: [], location: at },
    }
    const placed: Placed = {
      ...{ number: null, event, start: zero, end: frames },
      // A picture between two frames of its source shows the one that it lies in.
      sourceStart: kind === 'picture' ? fraction(floor(sourceStart)) : sourceStart,
      sourceFrames: kind === 'picture' ? fraction(round(shown)) : shown,
    }
    return { lanes: [{ kind, items: [this.#faded(clip, placed, where)], generators: [] }], frames }
  }

  /** Sound that is faded says so at its clip. */
  #faded(clip: AafObject, placed: Placed, { slotRate }: Where): Placed {
    const fade = (of: number): Transition | null => {
      const durationFrames = Number(round(this.#inFrames(clip.integer(of) ?? 0n, slotRate)))
      return durationFrames > 0 ? { kind: 'dissolve', wipeCode: null, durationFrames } : null
    }
    const [fadeIn, fadeOut] = [fade(property.fadeInLength), fade(property.fadeOutLength)]
    const ended = fadeOut ? endEarlier(placed, fraction(fadeOut.durationFrames), this.#rate) : placed
    if (compare(ended.end, ended.start) <= 0) return placed
    return {
      ...ended,
      event: {
        ...ended.event,
        ...(fadeIn && { transition: { ...fadeIn, fromBlack: true as const } }),
        ...(fadeOut && { fadeOut }),
      },
    }
  }

  /** A composition within the composition: as much of one of its slots as the clip shows, laid out flat. */
  #nested(
    target: AafObject,
    { slotId, seconds }: { slotId: bigint; seconds: Fraction },
    frames: Fraction,
    where: Where,
  ): Nested {
    if (this.#open.has(target)) throw new CutFormatError(where.at, 'this composition holds itself.')
    const slot = target.objects(property.slots).find((each) => each.integer(property.slotId) === slotId)
    if (!slot) throw new CutFormatError(where.at, `it shows slot ${slotId} of a composition that has no such slot.`)
    const slotRate = slot.rational(property.slotEditRate)
    const origin = slotRate ? this.#inFrames(slot.integer(property.slotOrigin) ?? 0n, slotRate) : zero
    if (!isOfClip(target)) this.#nestedSequences++
    this.#open.add(target)
    try {
      const inner = this.#slot(slot, where.kind, `${where.at}, “${nameOf(target) ?? 'a composition'}”`, where.depth + 1)
      const from = add(multiply(seconds, rateAsFraction(this.#rate)), origin)
      const to = add(from, frames)
      const lanes = inner.lanes.map((lane) => withinWindow(lane, from, to, this.#rate))
      for (const { items } of lanes) this.#laidOut += 1 + items.length
      if (this.#laidOut > mostLaidOut)
        throw new CutFaults([
          new CutFormatError(where.at, `its compositions hold more than ${mostLaidOut} events when they are laid out.`),
        ])
      return { lanes, frames }
    } finally {
      this.#open.delete(target)
    }
  }

  /** What is in a group: run at another speed, or one above the other, from the lowest. */
  #operation(group: AafObject, frames: Fraction, where: Where): Nested {
    const does = definitionOf(group, this.#operations)
    const inputs = group
      .objects(property.inputSegments)
      .map((input, index) =>
        this.#segment(input, { ...where, at: `${where.at}, input ${index + 1}`, depth: where.depth + 1 }),
      )
    const [only] = inputs
    if (!only) {
      const made = [{ name: does.name ?? 'generator', start: zero, end: frames }]
      return { lanes: [{ kind: where.kind, items: [], generators: made }], frames }
    }
    if (does.isTimeWarp && inputs.length === 1)
      return runWarped(group, only, { shown: frames, at: where.at, recordRate: this.#rate })
    if (inputs.some((input) => compare(input.frames, frames) !== 0))
      throw new CutFormatError(
        where.at,
        `its effect${does.name ? ` “${does.name}”` : ''} is not as long as what is in it, and is not said to change ` +
          'its speed: render it, and export again.',
      )
    const gain = where.kind === 'sound' ? gainOfGroup(group, does) : null
    if (gain !== null && inputs.length === 1) return { lanes: only.lanes.map((lane) => withLevel(lane, gain)), frames }
    const note = does.name ? [`* EFFECT NAME: ${does.name.toUpperCase()}`] : []
    return { lanes: inputs.flatMap((input) => input.lanes.map((lane) => withNotes(lane, note))), frames }
  }
}
