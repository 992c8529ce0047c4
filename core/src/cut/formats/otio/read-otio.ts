import {
  add,
  compare,
  type Fraction,
  fraction,
  multiply,
  negative,
  type Rate,
  round,
  subtract,
  zero,
} from '../../../time/index.ts'
import {
  type Cut,
  CutFaults,
  CutFormatError,
  leftOutOf,
  type Marker,
  normalSpeed,
  type Transition,
} from '../../model.ts'
import type { CutFormat, ReadOptions } from '../format.ts'
import {
  beginLater,
  beginsAtOnce,
  cannotLayOut,
  endEarlier,
  endsAt,
  heldAt,
  type Lane,
  type Placed,
  type PlacedGenerator,
  standIn,
  tracksOfLanes,
  withinWindow,
} from '../placing.ts'
import { readOtioClip, speedOf } from './otio-clip.ts'
import {
  atRate,
  type ExactTimeRange,
  expectSchema,
  type Json,
  metadataOf,
  readArray,
  readObject,
  readRange,
  readTime,
  schemaOf,
} from './otio-values.ts'
import { plainColour, writeOtio } from './write-otio.ts'

/**
 * OpenTimelineIO JSON: a Timeline of Stacks and Tracks of Clips, Gaps, Transitions, and Stacks and Tracks again
 * (schemas Timeline.1, Stack.1, Track.1, Clip.1 and .2, Gap.1, Transition.1, Marker.1 and .2).
 */
export const otio: CutFormat = {
  id: 'otio',
  name: 'OTIO',
  extension: '.otio',
  recognises: (fileName, text) => /\.otio$/i.test(fileName) || /^\s*\{[\s\S]{0,2000}"OTIO_SCHEMA"/.test(text),
  read: (text, options) => new OtioReader(options).read(text),
  write: writeOtio,
  replaced: () => [],
}

/** Sequences within sequences; real ones have three or four. */
const deepest = 64

interface Nested {
  readonly lanes: readonly Lane[]
  readonly frames: Fraction
}

class OtioReader {
  readonly #options: ReadOptions
  readonly #faults: CutFormatError[] = []
  #rate: Rate
  #nestedSequences = 0

  constructor(options: ReadOptions) {
    this.#options = options
    this.#rate = options.rate
  }

  read(text: string): Cut {
    let root: unknown
    try {
      root = JSON.parse(text.replace(/^\uFEFF/, ''))
    } catch (error) {
      throw new CutFormatError('the file', `it is not JSON: ${(error as Error).message}`)
    }
    const timeline = readObject(root, 'the file')
    expectSchema(timeline, ['Timeline'], 'the file')
    const stack = readObject(timeline.tracks, 'tracks')
    expectSchema(stack, ['Stack'], 'tracks')
    const start = timeline.global_start_time == null ? null : readTime(timeline.global_start_time, 'global_start_time')
    this.#rate = start?.rate ?? firstRecordRate(stack) ?? this.#options.rate
    const recordStart = start ? start.value : fraction(0)
    const lanes = this.#window(this.#stack(stack, 'tracks', 0), stack, 'tracks').lanes
    const own = metadataOf(timeline, 'ennick')
    const cut = tracksOfLanes(lanes, { recordStart, recordRate: this.#rate })
    if (this.#faults.length && (!this.#options.takeGood || cut.events.length === 0)) throw new CutFaults(this.#faults)
    if (cut.events.length === 0) throw new CutFormatError('tracks', 'there is no clip in this timeline.')
    const markers = this.#markers(stack, recordStart)
    const raster = own.raster as Cut['raster'] | undefined
    return {
      ...cut,
      name:
        typeof timeline.name === 'string' && timeline.name
          ? timeline.name
          : this.#options.fileName.replace(/\.otio$/i, ''),
      rate: this.#rate,
      dropFrame: own.dropFrame === true,
      recordStartFrame: Number(round(recordStart)),
      ...(typeof raster?.width === 'number' && typeof raster.height === 'number' && { raster }),
      ...(markers.length && { markers }),
      ...(this.#nestedSequences && { nestedSequences: this.#nestedSequences }),
      ...carriedOf(timeline),
      ...(this.#faults.length && { leftOut: this.#faults.map(leftOutOf) }),
    }
  }

  /** All lanes of a stack, from the lowest; each of its children begins where it begins. */
  #stack(stack: Json, location: string, depth: number): Nested {
    if (depth > deepest) throw new CutFormatError(location, `sequences lie more than ${deepest} deep in each other.`)
    let frames = fraction(0)
    const lanes = readArray(stack.children, `${location}.children`).flatMap((child, index): Lane[] => {
      const place = `${location}.children[${index}]`
      const item = readObject(child, place)
      const schema = expectSchema(item, ['Track', 'Stack', 'Clip', 'Gap'], place)
      const nested =
        schema === 'Track'
          ? this.#window(this.#track(item, place, depth), item, place)
          : schema === 'Stack'
            ? this.#window(this.#stack(item, place, depth + 1), item, place)
            : this.#track({ kind: 'Video', children: [item] }, place, depth)
      if (compare(nested.frames, frames) > 0) frames = nested.frames
      return item.enabled === false ? nested.lanes.map(switchedOff) : [...nested.lanes]
    })
    return { lanes, frames }
  }

  /**
   * What of a stack or track its `source_range` shows: as much of the record as that is long, however fast it runs.
   * Held, it shows the frame with which that begins.
   * @throws CutFormatError where it runs backwards: of which end its range speaks then nobody says
   */
  #window(nested: Nested, item: Json, location: string): Nested {
    const speed = speedOf(item, location)
    if (speed.numerator < 0)
      throw new CutFormatError(
        location,
        'a nested sequence that runs backwards is not read: flatten it, and export again.',
      )
    const isRetimed = speed.numerator !== speed.denominator
    if (item.source_range == null && !isRetimed) return nested
    const { from, to } = item.source_range
      ? this.#bounds(readRange(item.source_range, `${location}.source_range`))
      : { from: zero, to: nested.frames }
    const frames = subtract(to, from)
    if (speed.numerator === 0)
      return { lanes: nested.lanes.map((lane) => heldAt(lane, from, frames, this.#rate)), frames }
    const innerFrames = multiply(frames, fraction(speed.numerator, speed.denominator))
    const shown = nested.lanes.map((lane) => withinWindow(lane, from, add(from, innerFrames), this.#rate))
    const rates = { innerRate: this.#rate, holderRate: this.#rate }
    const standing = { ...rates, start: zero, innerFrames, speed, transition: null, isDisabled: false }
    return { lanes: isRetimed ? shown.map((lane) => standIn(lane, standing)) : shown, frames }
  }

  #bounds(range: ExactTimeRange): { from: Fraction; to: Fraction } {
    const from = atRate(range.start, this.#rate)
    return { from, to: add(from, atRate(range.duration, this.#rate)) }
  }

  /** A track, and above it what its nested stacks have besides. */
  #track(track: Json, location: string, depth: number): Nested {
    const kind = track.kind === 'Audio' ? ('sound' as const) : ('picture' as const)
    const lanes: { items: Placed[]; generators: PlacedGenerator[] }[] = [{ items: [], generators: [] }]
    const main = lanes[0] as (typeof lanes)[number]
    let at = fraction(0)
    let open: OpenTransition | null = null
    /** Whether a clip ends where the next item begins. */
    let follows = false
    /** Whether what ends there is several layers. */
    let isLayered = false
    const children = readArray(track.children, `${location}.children`)
    for (const [index, value] of children.entries()) {
      const place = `${location}.children[${index}]`
      const item = readObject(value, place)
      const schema = expectSchema(item, ['Clip', 'Gap', 'Transition', 'Stack', 'Track'], place)
      if (schema === 'Transition') {
        open = this.#transition(item, place)
        continue
      }
      if (schema === 'Stack' || schema === 'Track') {
        this.#nestedSequences++
        const isReached = (lanes: readonly Lane[]): boolean =>
          open === null || (open.into.numerator === 0n && !isLayered && beginsAtOnce(lanes))
        const nested = this.#within(item, { kind, isReached, place, depth })
        const ofKind = nested.lanes
        if (open && follows && nested.isLost) this.#leave(main.items, open, place)
        const standing = {
          ...{ start: at, innerRate: this.#rate, holderRate: this.#rate },
          ...{ innerFrames: nested.frames, speed: normalSpeed },
          transition: open && { ...open.transition, ...(!follows && { fromBlack: true as const }) },
          isDisabled: item.enabled === false,
        }
        ofKind.forEach((lane, above) => {
          lanes[above] ??= { items: [], generators: [] }
          const stood = standIn(lane, standing)
          lanes[above].items.push(...stood.items)
          lanes[above].generators.push(...stood.generators)
        })
        at = add(at, nested.frames)
        follows = endsAt(main.items, at)
        isLayered = ofKind.length > 1
        open = null
        continue
      }
      if (open && isLayered) throw cannotLayOut(place)
      isLayered = false
      const clip = schema === 'Clip' ? this.#clip(item, kind, place) : null
      const frames = clip ? clip.frames : this.#gapFrames(item, place)
      if (clip?.placed) {
        let placed: Placed = { ...clip.placed, start: at, end: add(at, frames) }
        if (open) placed = this.#enter(main.items, placed, open, { follows, place })
        main.items.push(placed)
      } else {
        if (open && follows) this.#leave(main.items, open, place)
        if (clip?.generator) main.generators.push({ name: clip.generator, start: at, end: add(at, frames) })
      }
      follows = Boolean(clip?.placed)
      open = null
      at = add(at, frames)
    }
    if (open && isLayered) throw cannotLayOut(location)
    if (open && follows) this.#leave(main.items, open, location)
    return { lanes: lanes.map((lane) => ({ kind, ...lane })), frames: at }
  }

  /**
   * The lanes of what lies within a track that are of its kind. One that cannot be laid out is a fault of its own as
   * long as it says how long it is: everything behind it stands where it stands.
   * @param at.isReached whether the transition into it, if there is one, can be laid out
   */
  #within(
    item: Json,
    at: { kind: Lane['kind']; isReached(lanes: readonly Lane[]): boolean; place: string; depth: number },
  ): Nested & { readonly isLost: boolean } {
    const { place, depth } = at
    try {
      const inner =
        schemaOf(item) === 'Stack' ? this.#stack(item, place, depth + 1) : this.#track(item, place, depth + 1)
      const { lanes, frames } = this.#window(inner, item, place)
      const ofKind = lanes.filter(({ kind }) => kind === at.kind)
      if (!at.isReached(ofKind)) throw cannotLayOut(place)
      return { lanes: ofKind, frames, isLost: false }
    } catch (error) {
      if (!(error instanceof CutFormatError) || item.source_range == null) throw error
      const frames = this.#gapFrames(item, place)
      this.#faults.push(error)
      return { lanes: [], frames, isLost: true }
    }
  }

  #transition(item: Json, place: string): OpenTransition {
    // It begins before the cut, by the first offset, and ends behind it, by the second (OTIO, "Transition"). Here an
    // event begins where its transition does, as in a CMX 3600 list.
    const into = atRate(readTime(item.in_offset, `${place}.in_offset`), this.#rate)
    const out = atRate(readTime(item.out_offset, `${place}.out_offset`), this.#rate)
    const wipeCode = metadataOf(item, 'ennick').wipeCode
    return {
      into,
      transition: {
        kind: typeof wipeCode === 'string' ? 'wipe' : 'dissolve',
        wipeCode: typeof wipeCode === 'string' ? wipeCode : null,
        durationFrames: Number(round(add(into, out))),
      },
    }
  }

  /** An event begins with the transition into it; what goes before ends there, and lends what is shown of it. */
  #enter(
    items: Placed[],
    placed: Placed,
    { into, transition }: OpenTransition,
    { follows, place }: { follows: boolean; place: string },
  ): Placed {
    const event = {
      ...placed.event,
      transition: follows ? transition : { ...transition, fromBlack: true as const },
    }
    // Before the beginning of a track there is nothing to go over from.
    const early = compare(into, placed.start) > 0 ? placed.start : into
    const begun = beginLater({ ...placed, event }, negative(early), this.#rate)
    const before = items.at(-1)
    if (follows && before) {
      if (compare(begun.start, before.start) <= 0)
        throw new CutFormatError(place, 'the transition into it begins before the clip that it goes over from.')
      items[items.length - 1] = endEarlier(before, early, this.#rate)
    }
    return begun
  }

  /** A transition into nothing goes to black. */
  #leave(items: Placed[], { into, transition }: OpenTransition, place: string): void {
    const before = items.pop()
    if (!before) return
    const ended = endEarlier(before, into, this.#rate)
    if (compare(ended.end, ended.start) <= 0)
      throw new CutFormatError(place, 'the transition to black begins before the clip that it leaves.')
    items.push({ ...ended, event: { ...ended.event, fadeOut: transition } })
  }

  #gapFrames(item: Json, place: string): Fraction {
    if (item.source_range == null) throw new CutFormatError(place, 'no source_range says how long this gap is.')
    return atRate(readRange(item.source_range, `${place}.source_range`).duration, this.#rate)
  }

  #clip(item: Json, kind: 'picture' | 'sound', place: string): ReadClip {
    const read = readOtioClip(item, kind, place, this.#rate)
    if (read.fault) {
      this.#faults.push(read.fault)
      return { frames: read.frames, placed: null, generator: null }
    }
    return read
  }

  #markers(stack: Json, recordStart: Fraction): Marker[] {
    const markers = Array.isArray(stack.markers) ? stack.markers : []
    return markers.map((value, index) => {
      const place = `tracks.markers[${index}]`
      const marker = readObject(value, place)
      const range = readRange(marker.marked_range, `${place}.marked_range`)
      const comment = marker.comment ?? metadataOf(marker, 'ennick').note
      return {
        recordFrame: Number(round(add(recordStart, atRate(range.start, this.#rate)))),
        durationFrames: Number(round(atRate(range.duration, this.#rate))),
        name: typeof marker.name === 'string' ? marker.name : '',
        note: typeof comment === 'string' ? comment : '',
        ...(typeof marker.color === 'string' && marker.color !== plainColour && { colour: marker.color }),
      }
    })
  }
}

interface OpenTransition {
  readonly into: Fraction
  readonly transition: Transition
}

interface ReadClip {
  readonly frames: Fraction
  readonly placed: Omit<Placed, 'start' | 'end'> | null
  readonly generator: string | null
}

const switchedOff = (lane: Lane): Lane => ({
  ...lane,
  items: lane.items.map((placed) => ({ ...placed, event: { ...placed.event, isDisabled: true as const } })),
})

/** Without a global start the first length on a track of gaps and clips tells the rate at which the record counts. */
function firstRecordRate(stack: Json): Rate | null {
  const children = Array.isArray(stack.children) ? stack.children : []
  for (const [index, child] of children.entries()) {
    const items = (child as Json | null)?.children
    if (!Array.isArray(items)) continue
    for (const [at, item] of items.entries()) {
      const range = (item as Json | null)?.source_range as Json | null | undefined
      if (range?.duration)
        return readTime(range.duration, `tracks.children[${index}].children[${at}].source_range.duration`).rate
    }
  }
  return null
}

function carriedOf(timeline: Json): Pick<Cut, 'carried'> {
  const { ennick: _, ...metadata } = (timeline.metadata as Json | null | undefined) ?? {}
  return Object.keys(metadata).length ? { carried: { format: 'otio', parts: { metadata } } } : {}
}
