import { type GreyPicture, reduce, type Stretch, type Window, windowInside } from './grey-picture.ts'

/**
 * A small picture of mean nought and length one, so that brightness and contrast, and with them most of a LUT, cancel.
 * Null for one that holds nothing: black, or of one colour.
 */
export type NormalPicture = Float32Array | null

export interface NormalStretch {
  readonly from: number
  readonly pictures: readonly NormalPicture[]
}

/** Levels of 255 that the cells of a picture must vary by, for it to be told from others. */
export const leastVariation = 1.5
/** Of pictures that vary by less than this many levels a codec leaves too little to judge a single one. */
export const leastJudged = 6
/** Of the height, at the top and at the bottom each: there are burnt-in words. */
const writtenShare = 8

/** The pictures of a file at some size, without bars, and without the rows that may be written over. */
export function normalStretches(
  stretches: readonly Stretch[],
  width: number,
  height: number,
  window: Window = windowInside(stretches),
): NormalStretch[] {
  return stretches.map(({ from, pictures }) => ({
    from,
    pictures: pictures.map((picture) => normalPicture(picture, window, width, height)),
  }))
}

const normalPicture = (picture: GreyPicture, window: Window, width: number, height: number): NormalPicture =>
  normalise(cellsInside(picture, window, width, height), leastVariation)

/** The cells of a picture, without bars, and without the rows that may be written over. */
export function cellsInside(picture: GreyPicture, window: Window, width: number, height: number): Float32Array {
  const written = Math.round((window.bottom - window.top) / writtenShare)
  return reduce(picture, { ...window, top: window.top + written, bottom: window.bottom - written }, width, height)
}

/** Brings cells to mean nought and length one; null when they vary by less than asked, on average. */
export function normalise(cells: Float32Array, least: number): NormalPicture {
  const mean = cells.reduce((sum, cell) => sum + cell, 0) / cells.length
  let square = 0
  for (const cell of cells) square += (cell - mean) ** 2
  const length = Math.sqrt(square)
  if (length < least * Math.sqrt(cells.length)) return null
  return cells.map((cell) => (cell - mean) / length)
}

/**
 * The same with the order of the levels in place of the levels: no tone curve changes it, however steep. Levels that
 * are equal share their place.
 */
export function byOrder(picture: NormalPicture): NormalPicture {
  if (!picture) return null
  const order = Uint32Array.from(picture.keys()).sort((a, b) => (picture[a] as number) - (picture[b] as number))
  const places = new Float32Array(picture.length)
  for (let from = 0; from < order.length; ) {
    let to = from
    while (to < order.length && picture[order[to] as number] === picture[order[from] as number]) to++
    for (let index = from; index < to; index++) places[order[index] as number] = (from + to - 1) / 2
    from = to
  }
  return normalise(places, 0)
}

/** How far two pictures are apart: 0 for the same, 1 for such as have nothing in common, 2 for a negative. */
export function distanceBetween(a: Float32Array, b: Float32Array): number {
  let product = 0
  for (let index = 0; index < a.length; index++) product += (a[index] as number) * (b[index] as number)
  return 1 - product
}
