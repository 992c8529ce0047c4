import {
  add,
  allowsDropFrame,
  compare,
  divide,
  type Fraction,
  floor,
  fraction,
  multiply,
  nominalFramesPerSecond,
  type Rate,
  rate,
  rateAsFraction,
  rateOfLabels,
  round,
  subtract,
} from '../../../time/index.ts'
import { type CutEvent, CutFormatError, type Medium } from '../../model.ts'
import { meansReel } from '../reel-words.ts'
import { dataKindOf, property } from './aaf-model.ts'
import type { AafObject } from './aaf-object.ts'

/** Where a clip of a composition points: a slot of a mob, and how far behind that slot's origin. */
export interface Reference {
  readonly mobId: string
  readonly slotId: bigint
  readonly seconds: Fraction
}

/** What is known of a source, and the frame of it that is shown first, counted from midnight at its rate. */
export interface TracedSource
  extends Pick<
    CutEvent,
    'clipName' | 'reel' | 'path' | 'sourceRate' | 'mediumStartFrame' | 'medium' | 'sourceChannel' | 'sourceDropFrame'
  > {
  readonly sourceStart: Fraction
}

/** A mob on the way from a cut to what was shot, and where on it a clip begins: counted from the start of its slot. */
interface Step {
  readonly mob: AafObject
  readonly slot: AafObject
  readonly rate: Fraction
  readonly seconds: Fraction
}

/** Clip, file, tape; some rooms have a few clips of clips between. A longer way is a circle. */
const longestWay = 64

const physicalDescriptors = new Set([
  'FilmDescriptor',
  'TapeDescriptor',
  'PhysicalDescriptor',
  'ImportDescriptor',
  'RecordingDescriptor',
])

/**
 * Follows a clip from its master mob over the file that it was cut with to the tape or card it came from: the name is
 * the master mob's, the path that of the file, reel and timecode those of what lies furthest back (AAF Edit Protocol,
 * "source reference chain").
 * @param at where in the list the clip stands, for what is said of it
 * @throws CutFormatError where the way cannot be followed to the frame
 */
export function traceSource(
  mobs: ReadonlyMap<string, AafObject>,
  reference: Reference,
  clip: {
    readonly kind: 'picture' | 'sound'
    readonly recordRate: Rate
    readonly isDrop: boolean
    readonly at: string
  },
): TracedSource {
  const { kind, recordRate, at } = clip
  const steps = stepsOf(mobs, reference, at)
  const file = steps.find(({ mob }) => mob.className === 'SourceMob' && !isPhysical(mob))
  const master = steps.find(({ mob }) => mob.className === 'MasterMob') ?? steps[0]
  const labels = timecodeOf(steps, kind === 'picture' ? (file ?? master)?.rate : undefined, at)
  const pictureRate = file ?? steps.find(({ mob }) => !isPhysical(mob))
  const sourceRate = kind === 'picture' && pictureRate ? rateOf(pictureRate.rate, at) : (labels?.rate ?? recordRate)
  const inFrames = (seconds: Fraction): Fraction => multiply(seconds, rateAsFraction(sourceRate))
  const begun = (file ?? steps[0])?.seconds ?? reference.seconds
  const sourceStart = labels
    ? multiply(labels.frames, divide(rateAsFraction(sourceRate), rateAsFraction(labels.rate)))
    : inFrames(begun)
  const mediumStartFrame = Number(round(subtract(sourceStart, inFrames(begun))))
  const channel = kind === 'sound' ? steps[0]?.slot.integer(property.physicalTrackNumber) : null
  const medium = file && mediumOf(file, sourceRate, mediumStartFrame)
  return {
    clipName: master?.mob.text(property.mobName) ?? null,
    reel: reelOf(steps, master),
    path: file ? pathOf(file.mob) : (steps.map(({ mob }) => pathOf(mob)).find((path) => path !== null) ?? null),
    sourceRate,
    ...(labels && allowsDropFrame(sourceRate) && labels.isDrop !== clip.isDrop && { sourceDropFrame: labels.isDrop }),
    mediumStartFrame,
    ...(medium && { medium }),
    ...(channel && channel > 0n && channel < 1000n && { sourceChannel: Number(channel) }),
    sourceStart,
  }
}

function stepsOf(mobs: ReadonlyMap<string, AafObject>, reference: Reference, at: string): Step[] {
  const steps: Step[] = []
  for (let next: Reference | null = reference; next; ) {
    const mob = mobs.get(next.mobId)
    if (!mob) break
    if (steps.length >= longestWay) throw new CutFormatError(at, 'its source refers to itself.')
    const { slotId, seconds } = next
    const slot = mob.objects(property.slots).find((each) => each.integer(property.slotId) === slotId)
    if (!slot) throw new CutFormatError(at, `it refers to slot ${slotId} of a source that has no such slot.`)
    const slotRate = slot.rational(property.slotEditRate)
    // A slot without a rate stands still: a picture of its own, with nothing behind it.
    if (!slotRate || slotRate.numerator <= 0n) break
    const units = add(multiply(seconds, slotRate), fraction(slot.integer(property.slotOrigin) ?? 0n))
    steps.push({ mob, slot, rate: slotRate, seconds: divide(units, slotRate) })
    next = referenceAt(slot.object(property.slotSegment), units, slotRate, at)
  }
  return steps
}

/** What a slot refers to at a place of it; null where nothing lies behind it. */
function referenceAt(segment: AafObject | null, units: Fraction, slotRate: Fraction, at: string): Reference | null {
  let [part, offset] = [segment, units]
  for (let depth = 0; part && depth < longestWay; depth++) {
    switch (part.className) {
      case 'SourceClip':
        return referenceOf(part, offset, slotRate)
      case 'Sequence':
        ;({ part, offset } = partAt(part.objects(property.components), offset))
        break
      case 'OperationGroup':
        part = part.objects(property.inputSegments)[0] ?? null
        break
      case 'Selector':
        part = part.object(property.selected)
        break
      case 'EssenceGroup':
        part = part.objects(property.essenceChoices)[0] ?? null
        break
      case 'Pulldown':
        throw new CutFormatError(at, 'its source was brought to its rate by pulldown, which is not followed.')
      default:
        return null
    }
  }
  return null
}

/** The reference of a source clip, so many units of its slot further on; null for one that refers to nothing. */
export function referenceOf(clip: AafObject, offset: Fraction, slotRate: Fraction): Reference | null {
  const mobId = clip.mobId(property.sourceId)
  if (!mobId) return null
  const start = add(fraction(clip.integer(property.startTime) ?? 0n), offset)
  return { mobId, slotId: clip.integer(property.sourceSlotId) ?? 0n, seconds: divide(start, slotRate) }
}

function partAt(parts: readonly AafObject[], units: Fraction): { part: AafObject | null; offset: Fraction } {
  let offset = units
  for (const part of parts) {
    const length = fraction(part.integer(property.length) ?? 0n)
    if (compare(offset, length) < 0 || part === parts.at(-1)) return { part, offset }
    offset = subtract(offset, length)
  }
  return { part: null, offset }
}

/** The label at which a source begins, from what lies furthest back and has any. */
function timecodeOf(
  steps: readonly Step[],
  pictureRate: Fraction | undefined,
  at: string,
): { readonly frames: Fraction; readonly rate: Rate; readonly isDrop: boolean } | null {
  for (const { mob, seconds } of [...steps].reverse()) {
    const slots = mob.objects(property.slots).filter((slot) => timecodesIn(slot).length > 0)
    const slot = slots.find((each) => pictureRate && framesPerSecond(each) === nominal(pictureRate)) ?? slots[0]
    const slotRate = slot?.rational(property.slotEditRate)
    if (!slot || !slotRate || slotRate.numerator <= 0n) continue
    const rate = labelRate(framesPerSecond(slot) ?? 0, [slotRate, ...(pictureRate ? [pictureRate] : [])], at)
    const labels = labelsAt(timecodesIn(slot), multiply(seconds, slotRate))
    if (!labels) continue
    const { start, isDrop, units } = labels
    return { frames: add(fraction(start), multiply(divide(units, slotRate), rateAsFraction(rate))), rate, isDrop }
  }
  return null
}

/** The stretch of labels that holds a place of a slot, and how far into it that is. */
function labelsAt(
  parts: readonly AafObject[],
  units: Fraction,
): { start: bigint; isDrop: boolean; units: Fraction } | null {
  const { part, offset } = partAt(parts, units)
  const start = part?.className === 'Timecode' ? part.integer(property.timecodeStart) : null
  return start == null || !part ? null : { start, isDrop: isDropTimecode(part), units: offset }
}

export const isDropTimecode = (timecode: AafObject): boolean => (timecode.integer(property.timecodeDrop) ?? 0n) !== 0n

/** The timecode of a slot: one stretch, or several behind each other. */
export function timecodesIn(slot: AafObject): AafObject[] {
  const segment = slot.object(property.slotSegment)
  if (segment?.className === 'Timecode') return [segment]
  if (segment?.className !== 'Sequence' || dataKindOf(segment.definition(property.dataDefinition)) !== 'timecode')
    return []
  return segment.objects(property.components)
}

function framesPerSecond(slot: AafObject): number | null {
  const stated = timecodesIn(slot)[0]?.integer(property.timecodeFramesPerSecond)
  return stated == null ? null : Number(stated)
}

const nominal = (value: Fraction): number => Number(round(value))

/** The exact rate of labels that count so many frames a second: that of what they stand beside, where it fits. */
export function labelRate(framesPerSecond: number, beside: readonly Fraction[], at: string): Rate {
  const fitting = beside.find((each) => nominal(each) === framesPerSecond)
  if (fitting) return rateOf(fitting, at)
  if (framesPerSecond <= 0 || framesPerSecond > 1000)
    throw new CutFormatError(at, `its timecode counts ${framesPerSecond} frames a second, which is no count.`)
  // Samples or double frames beside it say whether it is slowed by 1000/1001.
  const isSlowed = beside.some((each) => each.denominator === 1001n)
  return rateOfLabels(framesPerSecond, isSlowed)
}

/** @throws CutFormatError for what no picture runs at */
export function rateOf(value: Fraction, at: string): Rate {
  const result = rate(Number(value.numerator), Number(value.denominator))
  if (nominalFramesPerSecond(result) < 1 || nominalFramesPerSecond(result) > 1000)
    throw new CutFormatError(at, `${value.numerator}/${value.denominator} is no rate of frames.`)
  return result
}

const isPhysical = (mob: AafObject): boolean =>
  mob.className === 'SourceMob' && physicalDescriptors.has(mob.object(property.essenceDescription)?.className ?? '')

/** The tape, film or recording at the end of the way; else what the clip's own remarks say. */
function reelOf(steps: readonly Step[], master: Step | undefined): string | null {
  const shot = steps.find(
    ({ mob }) => isPhysical(mob) && mob.object(property.essenceDescription)?.className !== 'ImportDescriptor',
  )
  return shot?.mob.text(property.mobName) ?? (master ? remarkedReel(master.mob) : null)
}

function remarkedReel(mob: AafObject): string | null {
  for (const remark of mob.objects(property.mobComments)) {
    const value = remark.indirect(property.commentValue)?.text.trim()
    if (value && meansReel(remark.text(property.commentName) ?? '')) return value
  }
  return null
}

function pathOf(mob: AafObject): string | null {
  const locators = mob.object(property.essenceDescription)?.objects(property.locators) ?? []
  for (const locator of locators) {
    const url = locator.className === 'NetworkLocator' ? locator.text(property.urlString) : null
    if (url) return url
  }
  return null
}

function mediumOf({ mob, slot, rate: slotRate }: Step, sourceRate: Rate, startFrame: number): Medium | undefined {
  const descriptor = mob.object(property.essenceDescription)
  const stated = descriptor?.integer(property.essenceLength)
  const [length, lengthRate] = stated
    ? [stated, descriptor?.rational(property.sampleRate) ?? slotRate]
    : [slot.object(property.slotSegment)?.integer(property.length) ?? 0n, slotRate]
  if (!descriptor || length <= 0n || lengthRate.numerator <= 0n) return undefined
  const frames = Number(floor(multiply(divide(fraction(length), lengthRate), rateAsFraction(sourceRate))))
  const number = (of: number): number | null => Number(descriptor.integer(of) ?? 0n) || null
  // Fields that lie apart are half as high as their picture.
  const fields = descriptor.integer(property.frameLayout) === 1n ? 2 : 1
  const height = number(property.storedHeight)
  return {
    frames: { startFrame, endFrame: startFrame + frames },
    width: number(property.storedWidth),
    height: height && height * fields,
    soundChannels: number(property.channelCount) ?? 0,
  }
}
