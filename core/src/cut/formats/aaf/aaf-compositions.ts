import { compare, divide, type Fraction, fraction, maximum, zero } from '../../../time/index.ts'
import { clipUsages, dataKindOf, property, topLevelUsage } from './aaf-model.ts'
import type { AafObject } from './aaf-object.ts'

/** Compositions that no other holds: those that say that they are the programme stand first, and the longest of them. */
export function topCompositions(mobs: ReadonlyMap<string, AafObject>): AafObject[] {
  const compositions = [...mobs.values()].filter(({ className }) => className === 'CompositionMob')
  const held = new Set(compositions.flatMap((mob) => referredTo(mob)))
  const free = compositions
    .filter((mob) => !held.has(mob.mobId(property.mobId) ?? ''))
    .map((mob) => ({ mob, seconds: secondsOf(mob) }))
    .sort((a, b) => compare(b.seconds, a.seconds))
    .map(({ mob }) => mob)
  const isTop = (mob: AafObject): boolean => mob.auid(property.usageCode) === topLevelUsage
  return free.some(isTop)
    ? [...free.filter(isTop), ...free.filter((mob) => !isTop(mob) && !isOfClip(mob))]
    : free.filter((mob, _, all) => !isOfClip(mob) || all.every(isOfClip))
}

/** The mobs of a file by their identification. */
export function mobsOf(header: AafObject): ReadonlyMap<string, AafObject> {
  const content = header.object(property.content)
  const mobs = new Map<string, AafObject>()
  for (const mob of content?.objects(property.mobs) ?? []) {
    const id = mob.mobId(property.mobId)
    if (id) mobs.set(id, mob)
  }
  return mobs
}

export const nameOf = (mob: AafObject): string | null => mob.text(property.mobName)

/** Whether a composition is a part or an adjusted form of one clip, and no sequence that somebody cut. */
export const isOfClip = (mob: AafObject): boolean => clipUsages.has(mob.auid(property.usageCode) ?? '')

/** What a slot carries; null where that is neither picture nor sound. */
export function kindOfSlot(slot: AafObject): 'picture' | 'sound' | null {
  if (slot.className === 'EventMobSlot') return null
  const kind = dataKindOf(slot.object(property.slotSegment)?.definition(property.dataDefinition) ?? null)
  return kind === 'timecode' ? null : kind
}

/** Tracks by their numbers, where each of a kind has one of its own; else as they stand. */
export function inTrackOrder(slots: readonly AafObject[]): AafObject[] {
  const numbered = slots.map((slot) => ({
    slot,
    kind: kindOfSlot(slot),
    number: slot.integer(property.physicalTrackNumber),
  }))
  const isNumbered = (['picture', 'sound'] as const).every((wanted) => {
    const numbers = numbered.flatMap(({ kind, number }) => (kind === wanted ? [number] : []))
    return numbers.every((number) => number !== null) && new Set(numbers).size === numbers.length
  })
  if (!isNumbered) return [...slots]
  return numbered.sort((a, b) => Number((a.number ?? 0n) - (b.number ?? 0n))).map(({ slot }) => slot)
}

/** How long the longest track of a composition is. */
function secondsOf(composition: AafObject): Fraction {
  const lengths = composition.objects(property.slots).map((slot) => {
    const slotRate = slot.rational(property.slotEditRate)
    const segment = kindOfSlot(slot) && slot.object(property.slotSegment)
    if (!segment || !slotRate || slotRate.numerator <= 0n) return zero
    const parts = segment.className === 'Sequence' ? segment.objects(property.components) : [segment]
    const units = parts.reduce((sum, part) => {
      const length = part.integer(property.length) ?? 0n
      return part.className === 'Transition' ? sum - length : sum + length
    }, 0n)
    return divide(fraction(units), slotRate)
  })
  return lengths.reduce(maximum, zero)
}

/** Every mob that a composition's tracks refer to, however deep in them. */
function referredTo(composition: AafObject): string[] {
  const referred: string[] = []
  const waiting = composition.objects(property.slots).flatMap((slot) => slot.object(property.slotSegment) ?? [])
  for (let segment = waiting.pop(); segment; segment = waiting.pop()) {
    const id = segment.className === 'SourceClip' ? segment.mobId(property.sourceId) : null
    if (id) referred.push(id)
    const selected = segment.className === 'Selector' ? segment.object(property.selected) : null
    if (selected) waiting.push(selected)
    for (const lists of [property.components, property.inputSegments, property.scopeSlots, property.essenceChoices])
      for (const part of segment.objects(lists)) waiting.push(part)
  }
  return referred
}
