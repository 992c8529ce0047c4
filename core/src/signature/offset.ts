import { byOrder, distanceBetween, type NormalPicture, type NormalStretch, normalise } from './normal-stretch.ts'
import { mostShift } from './sampling.ts'

/** What comparing the pictures of an item with those of its original says. */
export type PictureComparison =
  | {
      readonly kind: 'alike'
      /** How many pictures were compared. */
      readonly pictures: number
      /**
       * The frame of the original that each picture shows, less the frame at which it stands; null where the pictures
       * hold too little to tell one frame from the next.
       */
      readonly shift: number | null
      /** How far they are apart on average: 0 for the same, 1 for such as have nothing in common. */
      readonly distance: number
    }
  | { readonly kind: 'other' }
  | { readonly kind: 'not known' }

/** Measured on drawn and on grainy pictures through a tone curve: the same are below 0.06, others above 0.2. */
export const alikeBelow = 0.1
export const otherAbove = 0.18

/** At so many places the best shift must be better than each other one. */
const leastPlaces = 3
/** The mean lead over each other shift, as the logarithm of a quotient, and in its standard errors. */
const leastLead = 0.02
const leastErrors = 3
/** Smaller distances are what rounding does. */
const floored = (distance: number | undefined): number => Math.max(1e-5, distance ?? 0)

/**
 * Compares an item's pictures with its original's over shifts of a few frames, by the pictures and by what changes in
 * them from frame to frame: grain and movement tell frames apart where one of the two does not.
 * @param original stretches that reach `mostShift` frames further on both sides, where there are so many
 * @param made stretches of the item, their frames counted as the original's
 */
export function comparePictureStretches(
  original: readonly NormalStretch[],
  made: readonly NormalStretch[],
): PictureComparison {
  const byPicture = measure(original, made)
  const pictures = byPicture.reduce((sum, place) => sum + place.counted, 0)
  if (byPicture.length === 0) return { kind: 'not known' }
  let least = leastOf(byPicture)
  // Through a steep tone curve the same pictures agree in their order alone.
  if (least > alikeBelow) least = Math.min(least, leastOf(measure(ordered(original), ordered(made))))
  if (least > otherAbove) return { kind: 'other' }
  if (least > alikeBelow) return { kind: 'not known' }
  const found = [surest(byPicture), surest(measure(changes(original), changes(made)))]
  const told = new Set(found.filter((shift) => shift !== null))
  // Two measures that contradict each other say nothing.
  const shift = told.size === 1 ? ([...told][0] as number) : null
  return { kind: 'alike', pictures, shift, distance: least }
}

const shifts = Array.from({ length: 2 * mostShift + 1 }, (_, index) => index - mostShift)

/** The distances at one place, by shift. */
interface Place {
  readonly counted: number
  readonly distances: readonly number[]
}

/** The places at which every shift can be measured. */
function measure(original: readonly NormalStretch[], made: readonly NormalStretch[]): Place[] {
  const known = new Map<number, Float32Array>()
  for (const { from, pictures } of original)
    pictures.forEach((picture, index) => {
      if (picture) known.set(from + index, picture)
    })
  return made.flatMap(({ from, pictures }) => {
    // The same pictures are compared at every shift, so that no shift has easier ones.
    const inside = pictures.flatMap((picture, index) =>
      picture && shifts.every((shift) => known.has(from + index + shift)) ? [{ picture, at: from + index }] : [],
    )
    if (inside.length < 2) return []
    const distances = shifts.map(
      (shift) =>
        inside.reduce(
          (sum, { picture, at }) => sum + distanceBetween(picture, known.get(at + shift) as Float32Array),
          0,
        ) / inside.length,
    )
    return [{ counted: inside.length, distances }]
  })
}

const meanAt = (places: readonly Place[], index: number): number =>
  places.reduce((sum, { distances }) => sum + (distances[index] as number), 0) / places.length

const leastOf = (places: readonly Place[]): number => Math.min(...shifts.map((_, index) => meanAt(places, index)))

/** The shift that is better than every other at nearly all places, and by more than they scatter; null when none is. */
function surest(places: readonly Place[]): number | null {
  if (places.length < leastPlaces) return null
  const means = shifts.map((_, index) => meanAt(places, index))
  const best = means.indexOf(Math.min(...means))
  const isSure = shifts.every((_, other) => {
    if (other === best) return true
    // By their quotient, as pictures differ in how much a shift changes them.
    const leads = places.map(({ distances }) => Math.log(floored(distances[other]) / floored(distances[best])))
    const mean = leads.reduce((sum, lead) => sum + lead, 0) / leads.length
    const variance = leads.reduce((sum, lead) => sum + (lead - mean) ** 2, 0) / (leads.length - 1)
    const wins = leads.filter((lead) => lead > 0).length
    const error = Math.sqrt(variance / leads.length)
    return wins >= Math.max(leastPlaces, leads.length - 1) && mean >= leastLead && mean >= leastErrors * error
  })
  return isSure ? (shifts[best] as number) : null
}

const ordered = (stretches: readonly NormalStretch[]): NormalStretch[] =>
  stretches.map(({ from, pictures }) => ({ from, pictures: pictures.map(byOrder) }))

/** What changes from the picture before to the picture after, at each frame. */
const changes = (stretches: readonly NormalStretch[]): NormalStretch[] =>
  stretches.map(({ from, pictures }) => ({
    from: from + 1,
    pictures: pictures.slice(1, -1).map((_, index): NormalPicture => {
      const [before, after] = [pictures[index], pictures[index + 2]]
      return before && after
        ? normalise(
            after.map((cell, at) => cell - (before[at] as number)),
            leastChange,
          )
        : null
    }),
  }))

/** Against cells of a picture whose squares sum to one: less than this is what a codec does. */
const leastChange = 1e-5
