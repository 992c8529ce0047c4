import {
  add,
  allowsDropFrame,
  divide,
  type Fraction,
  floor,
  fraction,
  isDropLabel,
  multiply,
  parseTimecode,
  type Rate,
  rateAsFraction,
  rateOfLabels,
  round,
  sameLabel,
  sameRate,
  subtract,
  TimecodeError,
  toNumber,
} from '../../../time/index.ts'
import { type CutEvent, CutFormatError, type Fit, normalSpeed, type Speed } from '../../model.ts'
import { speedOfNumber } from '../edl/motion-speed.ts'
import { type Placed, speedVaries } from '../placing.ts'
import { childOf, childrenOf, isTrue, lineOf, textAt, wholeAt, type XmlNode } from './xmeml-document.ts'
import { decimalOf, effectId, effectOf, parameterOf, parameterValue } from './xmeml-effect.ts'
import { isPlainLevel, levelOf } from './xmeml-level.ts'

/** Where an item stands on its track, after what its transitions take of it: in frames of the sequence and its own. */
export interface Stood {
  readonly start: number
  readonly end: number
  /** The frame of the item, as retimed, that is shown first. */
  readonly in: Fraction
  /** By how much its own in and out say more than its place in the record, where rates differ: a part of a frame. */
  readonly excess: Fraction
}

/** The rate below an element, if it has one: a timebase, and whether that runs slower by 1000/1001. */
export function rateOf(node: XmlNode | undefined): Rate | null {
  const own = childOf(node, 'rate')
  const timebase = wholeAt(own, 'timebase')
  if (timebase === null) return null
  if (timebase <= 0 || timebase > 1000)
    throw new CutFormatError(lineOf(own), `${timebase} is no timebase that can be counted.`)
  return rateOfLabels(timebase, isTrue(textAt(own, 'ntsc')))
}

/** What a document says of a medium. */
interface File {
  readonly node: XmlNode | undefined
  readonly rate: Rate
  /** Frames from midnight at its rate; null when it has no timecode. */
  readonly startFrame: number | null
  readonly isDrop: boolean
  readonly frames: number | null
}

function readFile(node: XmlNode | undefined, fallback: Rate): File {
  const ownRate = rateOf(node) ?? fallback
  const timecode = childOf(node, 'timecode')
  const displayed = textAt(timecode, 'displayformat')
  const label = textAt(timecode, 'string')
  const timeRate = rateOf(timecode) ?? ownRate
  const isDrop =
    allowsDropFrame(timeRate) && (displayed ? /^DF$/i.test(displayed) : label !== null && isDropLabel(label))
  const counted = wholeAt(timecode, 'frame') ?? (label === null ? null : frameOf(label, timeRate, isDrop, timecode))
  return {
    node,
    rate: ownRate,
    startFrame: counted === null ? null : Number(floor(sameLabel(counted, timeRate, ownRate, isDrop))),
    isDrop,
    frames: wholeAt(node, 'duration'),
  }
}

function mediumOf({ node, startFrame, frames }: File): Pick<CutEvent, 'medium'> {
  if (frames === null || frames <= 0) return {}
  const raster = childOf(childOf(childOf(node, 'media'), 'video'), 'samplecharacteristics')
  return {
    medium: {
      frames: { startFrame: startFrame ?? 0, endFrame: (startFrame ?? 0) + frames },
      width: wholeAt(raster, 'width'),
      height: wholeAt(raster, 'height'),
      soundChannels: wholeAt(childOf(childOf(node, 'media'), 'audio'), 'channelcount') ?? 0,
    },
  }
}

/** @throws CutFormatError for a label that is none */
export function frameOf(label: string, at: Rate, isDrop: boolean, node: XmlNode | undefined): number {
  try {
    return parseTimecode(label, at, isDrop)
  } catch (error) {
    if (error instanceof TimecodeError) throw new CutFormatError(lineOf(node), error.message)
    throw error
  }
}

/**
 * A clip of a track as an event.
 * @param context.file the element that describes its medium, which may stand elsewhere in the document
 * @throws CutFormatError for a speed or a length that makes no sense
 */
export function placeClip(
  item: XmlNode,
  stood: Stood,
  context: { kind: 'picture' | 'sound'; sequenceRate: Rate; isDrop: boolean; file: XmlNode | undefined },
): Placed {
  const { kind, sequenceRate, file: fileNode } = context
  const clipRate = rateOf(item) ?? rateOf(fileNode) ?? sequenceRate
  const file = readFile(fileNode, clipRate)
  const own = multiply(stood.in, divide(rateAsFraction(file.rate), rateAsFraction(clipRate)))
  const recordFrames = fraction(stood.end - stood.start)
  const itemFrames = multiply(recordFrames, divide(rateAsFraction(file.rate), rateAsFraction(sequenceRate)))
  const motion = readMotion(item, { in: own, frames: itemFrames, mediumFrames: file.frames })
  const { speed, isVariable } = motion
  const isPlain = speed.numerator === speed.denominator
  const sourceStart = add(fraction(file.startFrame ?? 0), motion.start)
  const perItemFrame = multiply(
    fraction(speed.numerator, speed.denominator),
    divide(rateAsFraction(file.rate), rateAsFraction(clipRate)),
  )
  const channel = kind === 'sound' ? wholeAt(item, 'sourcetrack', 'trackindex') : null
  const path = textAt(file.node, 'pathurl')
  const event: Placed['event'] = {
    kind,
    clipName: textAt(item, 'name') ?? textAt(file.node, 'name'),
    reel: textAt(childOf(file.node, 'timecode'), 'reel', 'name'),
    path,
    sourceRate: file.rate,
    ...(file.startFrame !== null &&
      allowsDropFrame(file.rate) &&
      file.isDrop !== context.isDrop && { sourceDropFrame: file.isDrop }),
    mediumStartFrame: file.startFrame ?? 0,
    transition: null,
    speed,
    ...(textAt(item, 'enabled') !== null && !isTrue(textAt(item, 'enabled')) && { isDisabled: true as const }),
    ...(channel !== null && channel > 0 && { sourceChannel: channel }),
    ...fitOf(item),
    ...(kind === 'sound' && levelOf(item, { itemFrame: stood.in, sourceFrame: sourceStart, perItemFrame })),
    ...mediumOf(file),
    notes: isVariable ? [speedVaries] : [],
    location: lineOf(item),
    ...carriedOf(item, kind === 'sound'),
  }
  return {
    number: null,
    event,
    start: fraction(stood.start),
    end: fraction(stood.end),
    sourceStart,
    sourceFrames: isPlain ? wholeFrames(add(itemFrames, stood.excess), kind) : null,
  }
}

/** Pictures of another rate than the record's are shown in whole frames, as many as the item says. */
const wholeFrames = (frames: Fraction, kind: 'picture' | 'sound'): Fraction =>
  kind === 'sound' ? frames : fraction(round(frames))

interface Motion {
  readonly speed: Speed
  /** The frame of the medium, from its start, that is shown first. */
  readonly start: Fraction
  readonly isVariable: boolean
}

/** The frame, of its own, that an item holds; null for one that runs. */
export const heldFrameOf = (item: XmlNode, first: Fraction): Fraction | null =>
  isTrue(textAt(item, 'stillframe')) ? add(first, fraction(wholeAt(item, 'stillframeoffset') ?? 0)) : null

/** How an item runs: evenly in percent, forwards or backwards, held, or by keyframes of its own frames. */
function readMotion(item: XmlNode, at: { in: Fraction; frames: Fraction; mediumFrames: number | null }): Motion {
  const held = heldFrameOf(item, at.in)
  if (held) return { speed: { numerator: 0, denominator: 1 }, start: held, isVariable: false }
  const effect = effectOf(item, 'timeremap')
  if (!effect) return { speed: normalSpeed, start: at.in, isVariable: false }
  const graph = parameterOf(effect, 'graphdict')
  if (graph && isTrue(parameterValue(effect, 'variablespeed'))) return byKeyframes(graph, at)
  const percent = decimalOf(parameterValue(effect, 'speed') ?? '100', effect)
  const size = divide(percent, fraction(100))
  const isReversed = isTrue(parameterValue(effect, 'reverse')) || size.numerator < 0n
  const forwards = size.numerator < 0n ? { ...size, numerator: -size.numerator } : size
  const shown = multiply(at.in, forwards)
  if (!isReversed) return { speed: speedFrom(forwards), start: shown, isVariable: false }
  if (at.mediumFrames === null)
    throw new CutFormatError(lineOf(item), 'it runs backwards, and its file does not say how long it is.')
  return {
    speed: speedFrom({ ...forwards, numerator: -forwards.numerator }),
    start: subtract(fraction(at.mediumFrames - 1), shown),
    isVariable: false,
  }
}

/** How fast a nested sequence that is not held runs, backwards below nothing. @throws CutFormatError for unevenly */
export function evenSpeed(item: XmlNode): Speed {
  const effect = effectOf(item, 'timeremap')
  const isVariable = effect !== undefined && isTrue(parameterValue(effect, 'variablespeed'))
  const { speed } = readMotion(item, { in: fraction(0), frames: fraction(1), mediumFrames: 1 })
  if (speed.numerator === 0 || isVariable)
    throw new CutFormatError(
      lineOf(item),
      'a nested sequence that runs at no speed or a changing one is not read: flatten it, and export again.',
    )
  return speed
}

function byKeyframes(graph: XmlNode, at: { in: Fraction; frames: Fraction }): Motion {
  const points = childrenOf(graph, 'keyframe')
    .map((node) => ({
      when: decimalOf(textAt(node, 'when') ?? '', node),
      value: decimalOf(textAt(node, 'value') ?? '', node),
    }))
    .sort((a, b) => Number(a.when.numerator * b.when.denominator - b.when.numerator * a.when.denominator))
  if (points.length < 2) throw new CutFormatError(lineOf(graph), 'its speed has fewer than two keyframes.')
  const valueAt = (when: Fraction): Fraction => {
    const isBehind = (point: { when: Fraction }): boolean => subtract(point.when, when).numerator > 0n
    const next = Math.max(1, points.findIndex(isBehind) === -1 ? points.length - 1 : points.findIndex(isBehind))
    const [a, b] = [points[next - 1], points[next]] as [(typeof points)[0], (typeof points)[0]]
    const span = subtract(b.when, a.when)
    if (span.numerator === 0n) return a.value
    return add(a.value, multiply(subtract(b.value, a.value), divide(subtract(when, a.when), span)))
  }
  const first = valueAt(at.in)
  const end = add(at.in, at.frames)
  const slope = divide(subtract(valueAt(end), first), at.frames)
  const within = points.filter(({ when }) => subtract(when, at.in).numerator > 0n && subtract(end, when).numerator > 0n)
  const isEven = within.every(
    ({ when, value }) => Math.abs(toNumber(subtract(value, add(first, multiply(slope, subtract(when, at.in)))))) < 1e-6,
  )
  return { speed: speedOfNumber(toNumber(slope)), start: first, isVariable: !isEven }
}

const speedFrom = ({ numerator, denominator }: Fraction): Speed =>
  numerator === denominator ? normalSpeed : { numerator: Number(numerator), denominator: Number(denominator) }

/** What a list does to the size and place of the picture, where that stays as it is all the time. */
function fitOf(item: XmlNode): { fit?: Fit } {
  const basic = effectOf(item, 'basic')
  if (!basic) return {}
  const scale = Number(parameterValue(basic, 'scale') ?? '100')
  const centre = childOf(parameterOf(basic, 'center'), 'value')
  const [horizontal, vertical] = [Number(textAt(centre, 'horiz') ?? '0'), Number(textAt(centre, 'vert') ?? '0')]
  if (![scale, horizontal, vertical].every(Number.isFinite)) return {}
  const isMoved = horizontal !== 0 || vertical !== 0
  if (scale === 100 && !isMoved) return {}
  return { fit: { scalePercent: scale, offset: isMoved ? { horizontal, vertical } : null } }
}

/** Filters other than speed, and markers, with all that is in them. */
function carriedOf(item: XmlNode, isSound: boolean): Pick<CutEvent, 'carried'> {
  const isOther = (filter: XmlNode): boolean => {
    const id = effectId(childOf(filter, 'effect'))
    return id !== 'timeremap' && !(id === 'basic' && isPlainBasic(filter)) && !(isSound && isPlainLevel(filter))
  }
  const filters = childrenOf(item, 'filter').filter(isOther)
  const markers = childrenOf(item, 'marker')
  if (filters.length === 0 && markers.length === 0) return {}
  return { carried: { format: 'xmeml', parts: { filters, markers } } }
}

/** Whether a motion filter says nothing but what `fit` says. */
const isPlainBasic = (filter: XmlNode): boolean =>
  childrenOf(childOf(filter, 'effect'), 'parameter').every(
    (parameter) =>
      /^(scale|center)$/i.test(textAt(parameter, 'parameterid') ?? '') &&
      childrenOf(parameter, 'keyframe').length === 0,
  )

/** How many frames of an item stand for one of the sequence that holds it. */
export const perFrame = (itemRate: Rate, sequenceRate: Rate): Fraction =>
  sameRate(itemRate, sequenceRate) ? fraction(1) : divide(rateAsFraction(itemRate), rateAsFraction(sequenceRate))
