import {
  add,
  compare,
  divide,
  type Fraction,
  fraction,
  multiply,
  type Rate,
  rateAsFraction,
  round,
  subtract,
  toNumber,
  zero,
} from '../../../time/index.ts'
import { CutFormatError, normalSpeed, type Speed, type Transition } from '../../model.ts'
import { gainOf } from '../../sound-level.ts'
import { endsAt, type Lane, type Placed, speedVaries, standIn, withNotes } from '../placing.ts'
import { operation, property } from './aaf-model.ts'
import type { AafObject } from './aaf-object.ts'

/** What a file says of an operation that its groups refer to. */
export interface OperationDefinition {
  readonly name: string | null
  readonly isTimeWarp: boolean
}

/** The operations of a file's dictionary, by identification. */
export function operationsOf(dictionary: AafObject | null): ReadonlyMap<string, OperationDefinition> {
  const definitions = new Map<string, OperationDefinition>()
  for (const definition of dictionary?.objects(property.operationDefinitions) ?? []) {
    const id = definition.auid(property.identification)
    const isTimeWarp = (definition.integer(property.isTimeWarp) ?? 0n) !== 0n
    if (id) definitions.set(id, { name: definition.text(property.definitionName), isTimeWarp })
  }
  return definitions
}

/** What a group does, by its definition. */
export function definitionOf(
  group: AafObject | null,
  definitions: ReadonlyMap<string, OperationDefinition>,
): OperationDefinition & { readonly id: string | null } {
  const id = group?.definition(property.operation) ?? null
  const known = id === null ? undefined : definitions.get(id)
  return { id, name: known?.name ?? null, isTimeWarp: known?.isTimeWarp || id === operation.speed }
}

/** A transition of a sequence, over so many record frames; a wipe without the number of one is wipe 1. */
export function transitionOf(
  definition: { readonly id: string | null; readonly name: string | null },
  durationFrames: number,
): Transition {
  const isWipe = definition.id === operation.wipe || /\bwipe\b/i.test(definition.name ?? '')
  return { kind: isWipe ? 'wipe' : 'dissolve', wipeCode: isWipe ? '001' : null, durationFrames }
}

/**
 * How much louder or softer a group makes the sound in it (AAF Object Specification 1.1, "Mono Audio Gain": its
 * amplitude is a multiplier); null for a group that does something else, or changes on the way.
 */
export function gainOfGroup(group: AafObject, { id }: { readonly id: string | null }): number | null {
  const [amplitude, ...others] = group.objects(property.parameters)
  const factor = amplitude?.indirect(property.parameterValue)?.rational
  if (id !== operation.gain || others.length || !factor || factor.numerator < 0n) return null
  return gainOf(toNumber(factor))
}

interface Warp {
  readonly speed: Speed
  /** Its speed changes on the way, and is taken as even between its ends. */
  readonly isVariable: boolean
}

/**
 * How fast a group runs what is in it. How much of its input it takes in how much of the record is said by their
 * lengths; its ratio says which way, and makes it exact, where it agrees with them: files differ in whether it is that
 * of output to input or the reverse.
 * @param taken record frames of its input, at normal speed
 * @param shown record frames of the group
 */
function warpOf(group: AafObject, { taken, shown }: { taken: Fraction; shown: Fraction }, at: string): Warp {
  if (shown.numerator <= 0n) throw new CutFormatError(at, 'it lasts no frame.')
  const parameters = group.objects(property.parameters)
  const ratio = parameters
    .map((parameter) => parameter.indirect(property.parameterValue)?.rational ?? null)
    .find((each) => each !== null)
  const isVariable = parameters.some((parameter) => parameter.objects(property.pointList).length > 2)
  const isHeld = ratio?.numerator === 0n || (compare(taken, fraction(1)) <= 0 && compare(shown, fraction(1)) > 0)
  if (isHeld) return { speed: { numerator: 0, denominator: 1 }, isVariable: false }
  const size = ratio && (ratio.numerator < 0n ? { ...ratio, numerator: -ratio.numerator } : ratio)
  const offBy = (each: Fraction): number => Math.abs(toNumber(subtract(multiply(shown, each), taken)))
  const stated = (size ? [size, divide(fraction(1), size)] : [])
    .sort((a, b) => offBy(a) - offBy(b))
    .find((each) => offBy(each) < 2)
  const exact = stated ?? divide(taken, shown)
  if (exact.numerator <= 0n) throw new CutFormatError(at, 'it takes nothing of what is in it.')
  const isBackwards = (ratio?.numerator ?? 0n) < 0n
  const numerator = Number(exact.numerator) * (isBackwards ? -1 : 1)
  const isPlain = exact.numerator === exact.denominator && !isBackwards
  return { speed: isPlain ? normalSpeed : { numerator, denominator: Number(exact.denominator) }, isVariable }
}

/** What a segment comes to, laid out flat. */
export interface Nested {
  readonly lanes: readonly Lane[]
  /** Record frames. */
  readonly frames: Fraction
}

/**
 * What a group that changes the speed of its input comes to.
 * @param at how many record frames the group shows, and where it stands
 * @throws CutFormatError for several clips that run otherwise than evenly forwards
 */
export function runWarped(
  group: AafObject,
  input: Nested,
  { shown, at, recordRate }: { readonly shown: Fraction; readonly at: string; readonly recordRate: Rate },
): Nested {
  const { speed, isVariable } = warpOf(group, { taken: input.frames, shown }, at)
  if (speed === normalSpeed) return { lanes: input.lanes, frames: shown }
  const isOneClip = input.lanes.every(
    ({ items }) => items.length === 1 && items[0]?.start.numerator === 0n && endsAt(items, input.frames),
  )
  if (isOneClip) {
    const run = (placed: Placed): Placed => warped(placed, speed, shown, rateAsFraction(recordRate), at)
    const lanes = input.lanes.map((lane) => ({ ...lane, items: lane.items.map(run) }))
    return { lanes: isVariable ? lanes.map((lane) => withNotes(lane, [speedVaries])) : lanes, frames: shown }
  }
  if (speed.numerator <= 0 || isVariable)
    throw new CutFormatError(
      at,
      'several clips that run backwards, are held or change their speed as one are not read: ' +
        'render them, and export again.',
    )
  const standing = {
    ...{ start: zero, innerRate: recordRate, holderRate: recordRate, innerFrames: input.frames, speed },
    ...{ transition: null, isDisabled: false },
  }
  return { lanes: input.lanes.map((lane) => standIn(lane, standing)), frames: shown }
}

/** One clip as a group runs it: backwards it begins with the last frame that it takes. */
function warped(placed: Placed, speed: Speed, shown: Fraction, recordRate: Fraction, at: string): Placed {
  if (placed.event.speed !== normalSpeed)
    throw new CutFormatError(at, 'one change of speed lies within another: render it, and export again.')
  const perRecord = divide(rateAsFraction(placed.event.sourceRate), recordRate)
  const taken = multiply(subtract(placed.end, placed.start), perRecord)
  const frames = placed.event.kind === 'picture' ? fraction(round(taken)) : taken
  const last = subtract(add(placed.sourceStart, frames), fraction(1))
  const begun = speed.numerator < 0 ? last : placed.sourceStart
  return {
    ...placed,
    event: { ...placed.event, speed },
    ...{ start: fraction(0), end: shown, sourceStart: begun, sourceFrames: null },
  }
}
