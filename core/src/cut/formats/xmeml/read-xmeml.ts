import {
  add,
  allowsDropFrame,
  type Fraction,
  fraction,
  isDropLabel,
  multiply,
  type Rate,
  subtract,
  toNumber,
} from '../../../time/index.ts'
import {
  type Cut,
  CutFaults,
  CutFormatError,
  type LeftOut,
  leftOutOf,
  type Marker,
  normalSpeed,
  type Transition,
} from '../../model.ts'
import type { CutFormat, ReadOptions } from '../format.ts'
import {
  heldAt,
  type Lane,
  type Placed,
  type PlacedGenerator,
  standIn,
  tracksOfLanes,
  withinWindow,
  withLevel,
} from '../placing.ts'
import { turnRound } from '../turn-round.ts'
import { writeXmeml } from './write-xmeml.ts'
import { evenSpeed, frameOf, heldFrameOf, perFrame, placeClip, rateOf, type Stood } from './xmeml-clip.ts'
import { childOf, childrenOf, isTrue, lineOf, parseXmeml, textAt, wholeAt, type XmlNode } from './xmeml-document.ts'
import { outerGain } from './xmeml-level.ts'

/** Timeline XML: the xmeml interchange format, versions 1 to 5. */
export const xmeml: CutFormat = {
  id: 'xmeml',
  name: 'timeline XML',
  extension: '.xml',
  recognises: (fileName, text) =>
    /\.xml$/i.test(fileName) || /^\s*(<\?xml[^>]*>)?[\s\S]{0,2000}<xmeml\b/.test(text.slice(0, 4000)),
  read: (text, options) => new XmemlReader(options).read(text),
  write: writeXmeml,
  replaced: () => [],
}

/** A sequence that stands in others, which stand in others, becomes very many events: a programme has fewer. */
const mostLaidOut = 100_000

interface Sequence {
  readonly lanes: readonly Lane[]
  readonly rate: Rate
}

class XmemlReader {
  readonly #options: ReadOptions
  readonly #faults: CutFormatError[] = []
  readonly #files = new Map<string, XmlNode>()
  readonly #sequences = new Map<string, XmlNode>()
  /** What was read of each sequence: one may stand in others many times. */
  readonly #read = new Map<XmlNode, Sequence>()
  /** Events so far, those of sequences in each other counted wherever they stand. */
  #laidOut = 0
  /** The sequences that are being read, to find one that holds itself. */
  readonly #open = new Set<XmlNode>()
  #isDrop = false
  #nestedSequences = 0

  constructor(options: ReadOptions) {
    this.#options = options
  }

  read(text: string): Cut {
    const { root } = parseXmeml(text.replace(/^\uFEFF/, ''))
    this.#collect(root)
    const [first, ...others] = topSequences(root)
    if (!first) throw new CutFormatError(lineOf(root), 'there is no sequence in this document.')
    const rate = rateOf(first) ?? this.#options.rate
    const timecode = childOf(first, 'timecode')
    const label = textAt(timecode, 'string')
    const displayed = textAt(timecode, 'displayformat')
    this.#isDrop = allowsDropFrame(rate) && (displayed ? /^DF$/i.test(displayed) : label !== null && isDropLabel(label))
    const recordStart =
      wholeAt(timecode, 'frame') ?? (label === null ? 0 : frameOf(label, rate, this.#isDrop, timecode))
    const { lanes } = this.#sequence(first)
    const cut = tracksOfLanes(lanes, { recordStart: fraction(recordStart), recordRate: rate })
    if (this.#faults.length && (!this.#options.takeGood || cut.events.length === 0)) throw new CutFaults(this.#faults)
    if (cut.events.length === 0) throw new CutFormatError(lineOf(first), 'there is no clip in this sequence.')
    const markers = markersOf(first, recordStart)
    const leftOut: LeftOut[] = [
      ...this.#faults.map(leftOutOf),
      ...others.map((other) => ({
        location: lineOf(other),
        reason: `the sequence “${textAt(other, 'name') ?? 'without a name'}” is another one, and was not read.`,
      })),
    ]
    return {
      ...cut,
      name: textAt(first, 'name') ?? this.#options.fileName.replace(/\.xml$/i, ''),
      rate,
      dropFrame: this.#isDrop,
      recordStartFrame: recordStart,
      ...rasterOf(first),
      ...(markers.length && { markers }),
      ...(this.#nestedSequences && { nestedSequences: this.#nestedSequences }),
      ...(leftOut.length && { leftOut }),
    }
  }

  /** An element is described where it stands first, and named by its id after that. */
  #collect(node: XmlNode): void {
    const waiting = [node]
    for (let at = waiting.pop(); at; at = waiting.pop()) {
      if (at.id !== null && at.children.length) {
        const known = at.name === 'file' ? this.#files : at.name === 'sequence' ? this.#sequences : null
        if (known && !known.has(at.id)) known.set(at.id, at)
      }
      for (const child of at.children) waiting.push(child)
    }
  }

  #described(node: XmlNode | undefined, known: ReadonlyMap<string, XmlNode>): XmlNode | undefined {
    return node && node.children.length === 0 && node.id !== null ? (known.get(node.id) ?? node) : node
  }

  #sequence(node: XmlNode): Sequence {
    const known = this.#read.get(node)
    if (known) return known
    if (this.#open.has(node)) throw new CutFormatError(lineOf(node), 'this sequence holds itself.')
    this.#open.add(node)
    try {
      const sequence = this.#readSequence(node)
      this.#read.set(node, sequence)
      return sequence
    } finally {
      this.#open.delete(node)
    }
  }

  #readSequence(node: XmlNode): Sequence {
    const rate = rateOf(node) ?? this.#options.rate
    const media = childOf(node, 'media')
    const lanes = (['video', 'audio'] as const).flatMap((name) =>
      childrenOf(childOf(media, name), 'track').flatMap((track) =>
        this.#track(track, name === 'video' ? 'picture' : 'sound', rate),
      ),
    )
    return { lanes, rate }
  }

  #track(track: XmlNode, kind: 'picture' | 'sound', sequenceRate: Rate): Lane[] {
    const lanes: { items: Placed[]; generators: PlacedGenerator[] }[] = [{ items: [], generators: [] }]
    const isOff = textAt(track, 'enabled') !== null && !isTrue(textAt(track, 'enabled'))
    const items = track.children.filter(({ name }) => /^(clipitem|generatoritem|transitionitem)$/.test(name))
    items.forEach((item, index) => {
      if (item.name === 'transitionitem') return
      const [twoBefore, before, , after, twoAfter] = [-2, -1, 0, 1, 2].map((step) => items[index + step])
      const around = { before, twoBefore, after, twoAfter }
      try {
        this.#item(item, around, { lanes, kind, sequenceRate, isOff })
      } catch (error) {
        if (!(error instanceof CutFormatError) || error instanceof CutFaults) throw error
        this.#faults.push(error)
      }
    })
    for (const lane of lanes) lane.items.sort((a, b) => toNumber(a.start) - toNumber(b.start))
    return lanes.map((lane) => ({ kind, ...lane }))
  }

  #item(
    item: XmlNode,
    around: Record<'before' | 'twoBefore' | 'after' | 'twoAfter', XmlNode | undefined>,
    on: {
      lanes: { items: Placed[]; generators: PlacedGenerator[] }[]
      kind: 'picture' | 'sound'
      sequenceRate: Rate
      isOff: boolean
    },
  ): void {
    const { lanes, kind, sequenceRate } = on
    const { before, twoBefore, after, twoAfter } = around
    const nested = this.#described(childOf(item, 'sequence'), this.#sequences)
    const file = this.#described(childOf(item, 'file'), this.#files)
    const itemRate = rateOf(item) ?? (nested ? rateOf(nested) : rateOf(file)) ?? sequenceRate
    const head = before?.name === 'transitionitem' ? readTransition(before) : null
    const tail = after?.name === 'transitionitem' ? readTransition(after) : null
    const enters = head !== null && !head.isToBlack && leadsInto(head, item) ? head : null
    const leaves = tail !== null && !tail.isFromBlack && leadsOutOf(tail, item) ? tail : null
    const stood = stand(item, enters, leaves, perFrame(itemRate, sequenceRate))
    if (item.name === 'generatoritem') {
      const name = textAt(item, 'name') ?? textAt(item, 'effect', 'name') ?? 'generator'
      lanes[0]?.generators.push({ name, start: fraction(stood.start), end: fraction(stood.end) })
      return
    }
    const isFromClip =
      enters !== null && !enters.isFromBlack && twoBefore?.name === 'clipitem' && leadsOutOf(enters, twoBefore)
    const transition: Transition | null = enters && {
      ...enters.transition,
      ...(!isFromClip && { fromBlack: true as const }),
    }
    const fadeOut = leaves && goesToBlack(leaves, twoAfter) ? leaves.transition : undefined
    if (nested) {
      this.#nestedSequences++
      const inner = this.#sequence(nested)
      const window = perFrame(inner.rate, itemRate)
      const frames = multiply(fraction(stood.end - stood.start), perFrame(itemRate, sequenceRate))
      const held = heldFrameOf(item, stood.in)
      // Its in and out count frames as retimed, as those of a clip do; backwards from its end.
      const runs = held ? normalSpeed : evenSpeed(item)
      const speed = { ...runs, numerator: Math.abs(runs.numerator) }
      const perShown = multiply(window, fraction(speed.numerator, speed.denominator))
      const innerFrames = multiply(frames, perShown)
      const first = multiply(held ?? stood.in, perShown)
      const from = runs.numerator < 0 ? subtract(lengthOf(nested), add(first, innerFrames)) : first
      const shownOf = (lane: Lane): Lane => {
        if (held) return heldAt(lane, from, innerFrames, inner.rate)
        const shown = withinWindow(lane, from, add(from, innerFrames), inner.rate)
        return runs.numerator < 0 ? turnRound(shown, innerFrames, inner.rate) : shown
      }
      const channel = kind === 'sound' ? (wholeAt(item, 'sourcetrack', 'trackindex') ?? 1) : null
      const standing = {
        ...{ start: fraction(stood.start), innerRate: inner.rate, holderRate: sequenceRate, innerFrames, speed },
        ...{ transition, fadeOut, isDisabled: on.isOff || isSwitchedOff(item) },
      }
      const ofKind = inner.lanes.filter((lane) => lane.kind === kind)
      const heard = channel === null ? ofKind : ofKind.slice(Math.min(channel, ofKind.length) - 1).slice(0, 1)
      const gain = kind === 'sound' ? outerGain(item) : 1
      heard.forEach((lane, above) => {
        lanes[above] ??= { items: [], generators: [] }
        const flat = standIn(withLevel(shownOf(lane), gain), standing)
        this.#laidOut += flat.items.length
        if (this.#laidOut > mostLaidOut)
          throw new CutFaults([
            new CutFormatError(
              lineOf(item),
              `its sequences hold more than ${mostLaidOut} events when they are laid out.`,
            ),
          ])
        lanes[above].items.push(...flat.items)
        lanes[above].generators.push(...flat.generators)
      })
      return
    }
    const placed = placeClip(item, stood, { kind, sequenceRate, isDrop: this.#isDrop, file })
    lanes[0]?.items.push({
      ...placed,
      event: {
        ...placed.event,
        transition,
        ...(fadeOut && { fadeOut }),
        ...(on.isOff && { isDisabled: true as const }),
      },
    })
  }
}

/** In frames of its own. @throws CutFormatError where it does not say so */
function lengthOf(sequence: XmlNode): Fraction {
  const frames = wholeAt(sequence, 'duration')
  if (frames === null)
    throw new CutFormatError(lineOf(sequence), 'it runs backwards where it stands, and does not say how long it is.')
  return fraction(frames)
}

interface ReadTransition {
  readonly start: number
  readonly end: number
  readonly transition: Transition
  readonly isFromBlack: boolean
  readonly isToBlack: boolean
  /** The frame at which one clip would give way to the other without it. */
  readonly cutFrame: number
}

function readTransition(item: XmlNode): ReadTransition {
  const [start, end] = [wholeAt(item, 'start'), wholeAt(item, 'end')]
  if (start === null || end === null || end <= start)
    throw new CutFormatError(lineOf(item), 'the transition does not say where it begins and ends.')
  const alignment = (textAt(item, 'alignment') ?? 'center').toLowerCase()
  const effect = childOf(item, 'effect')
  const wipeCode = textAt(effect, 'wipecode')
  const isWipe = (wipeCode !== null && wipeCode !== '0') || /wipe/i.test(textAt(effect, 'effectcategory') ?? '')
  return {
    start,
    end,
    transition: {
      kind: isWipe ? 'wipe' : 'dissolve',
      wipeCode: isWipe ? (wipeCode ?? '1').padStart(3, '0') : null,
      durationFrames: end - start,
    },
    isFromBlack: alignment === 'start-black',
    isToBlack: alignment === 'end-black',
    cutFrame: alignment.startsWith('start') ? start : alignment.startsWith('end') ? end : Math.floor((start + end) / 2),
  }
}

function leadsInto(transition: ReadTransition, item: XmlNode): boolean {
  const start = wholeAt(item, 'start')
  return start === -1 || (start !== null && start >= transition.start && start <= transition.end)
}

/** Whether nothing comes in where a transition leads. */
const goesToBlack = (leaves: ReadTransition, next: XmlNode | undefined): boolean =>
  leaves.isToBlack || !(next?.name === 'clipitem' && leadsInto(leaves, next))

function leadsOutOf(transition: ReadTransition, item: XmlNode): boolean {
  const end = wholeAt(item, 'end')
  return end === -1 || (end !== null && end >= transition.start && end <= transition.end)
}

/**
 * Where an item stands. Its start or end is −1 where a transition takes part of it: then it reaches over all of the
 * transition, unless its own in and out say that it ends at the cut. It is made to begin where the transition into it
 * begins, and to end where the transition out of it begins.
 */
function stand(
  item: XmlNode,
  enters: ReadTransition | null,
  leaves: ReadTransition | null,
  itemPerRecord: Fraction,
): Stood {
  const [start, end] = [wholeAt(item, 'start'), wholeAt(item, 'end')]
  const [own, out] = [wholeAt(item, 'in') ?? 0, wholeAt(item, 'out')]
  const isStill = isTrue(textAt(item, 'stillframe')) || item.name === 'generatoritem'
  if (start === null || end === null)
    throw new CutFormatError(lineOf(item), 'it does not say where it begins and ends.')
  const starts = start !== -1 ? [start] : enters ? [enters.start, enters.cutFrame] : []
  const ends = end !== -1 ? [end] : leaves ? [leaves.end, leaves.cutFrame] : []
  if (starts.length === 0 || ends.length === 0)
    throw new CutFormatError(
      lineOf(item),
      `its ${starts.length ? 'end' : 'start'} is −1, and there is no transition that would say where that is.`,
    )
  const taken = out === null ? null : out - own
  const excessOf = (from: number, to: number): Fraction =>
    subtract(fraction(taken ?? 0), multiply(fraction(to - from), itemPerRecord))
  const off = ({ from, to }: { from: number; to: number }): number =>
    taken === null ? 0 : Math.abs(toNumber(excessOf(from, to)))
  const places = starts.flatMap((from) => ends.map((to) => ({ from, to })))
  const best = places.reduce((least, place) => (off(place) < off(least) ? place : least))
  const { from, to } = best
  if (to <= from) throw new CutFormatError(lineOf(item), 'it ends before it begins.')
  // Rates that differ leave a part of a frame at either end.
  if (
    off(best) > (itemPerRecord.numerator === itemPerRecord.denominator ? 0 : 2) &&
    !isStill &&
    taken !== null &&
    !hasSpeed(item)
  )
    throw new CutFormatError(
      lineOf(item),
      `it takes ${taken} frames of its source for ${to - from} of the record, and no speed explains that.`,
    )
  const first = enters ? enters.start : from
  const last = leaves ? leaves.start : to
  if (last <= first) throw new CutFormatError(lineOf(item), 'the transition out of it begins before it does.')
  return {
    start: first,
    end: last,
    in: subtract(fraction(own), multiply(fraction(from - first), itemPerRecord)),
    excess: taken === null || isStill || hasSpeed(item) ? fraction(0) : excessOf(from, to),
  }
}

const hasSpeed = (item: XmlNode): boolean =>
  childrenOf(item, 'filter').some((filter) => textAt(filter, 'effect', 'effectid')?.toLowerCase() === 'timeremap')

const isSwitchedOff = (item: XmlNode): boolean => textAt(item, 'enabled') !== null && !isTrue(textAt(item, 'enabled'))

/** Sequences that no other holds: at the root, or in its projects and bins. */
function topSequences(root: XmlNode): XmlNode[] {
  return root.children.flatMap((child): XmlNode[] => {
    if (child.name === 'sequence') return [child]
    return /^(project|bin|children)$/.test(child.name) ? topSequences(child) : []
  })
}

function rasterOf(sequence: XmlNode): Pick<Cut, 'raster'> {
  const format = childOf(childOf(childOf(childOf(sequence, 'media'), 'video'), 'format'), 'samplecharacteristics')
  const [width, height] = [wholeAt(format, 'width'), wholeAt(format, 'height')]
  return width && height ? { raster: { width, height } } : {}
}

function markersOf(sequence: XmlNode, recordStart: number): Marker[] {
  return childrenOf(sequence, 'marker').map((marker) => {
    const start = wholeAt(marker, 'in') ?? 0
    const end = wholeAt(marker, 'out') ?? -1
    return {
      recordFrame: recordStart + start,
      durationFrames: end > start ? end - start : 0,
      name: textAt(marker, 'name') ?? '',
      note: textAt(marker, 'comment') ?? '',
    }
  })
}
