/** Pictures are looked at this small: grey, squeezed from what is displayed, row by row from the top left. */
export const lookWidth = 128
export const lookHeight = 72
export const lookBytes = lookWidth * lookHeight

/** A small grey picture, `lookBytes` levels. */
export type GreyPicture = Uint8Array

/** Consecutive pictures of a file, the first of them at a frame counted from 0. */
export interface Stretch {
  readonly from: number
  readonly pictures: readonly GreyPicture[]
}

/** A part of a small picture, in its own rows and columns; the end is not in it. */
export interface Window {
  readonly left: number
  readonly top: number
  readonly right: number
  readonly bottom: number
}

const darkest = 24
const flattest = 3
/** Bars that leave less than this of a picture are no bars: it is a night. */
const leastInside = 0.4

/** Where the pictures are, without the bars that pad them; bars come in pairs of one width. */
export function windowInside(stretches: readonly Stretch[]): Window {
  const pictures = stretches.flatMap((stretch) => stretch.pictures)
  const rows = barsOf(pictures, lookHeight, (line, at) => line * lookWidth + at, lookWidth)
  const columns = barsOf(pictures, lookWidth, (line, at) => at * lookWidth + line, lookHeight)
  return { left: columns, right: lookWidth - columns, top: rows, bottom: lookHeight - rows }
}

/** How many lines at both ends are dark and flat in all pictures. */
function barsOf(
  pictures: readonly GreyPicture[],
  lines: number,
  index: (line: number, at: number) => number,
  length: number,
): number {
  const isBar = (line: number): boolean =>
    pictures.every((picture) => {
      let [least, most] = [255, 0]
      for (let at = 0; at < length; at++) {
        const level = picture[index(line, at)] as number
        if (level < least) least = level
        if (level > most) most = level
      }
      return most <= darkest && most - least <= flattest
    })
  let bars = 0
  while (bars < lines / 2 && isBar(bars) && isBar(lines - 1 - bars)) bars++
  return (lines - 2 * bars) / lines < leastInside ? 0 : bars
}

/** A window of a picture made smaller by the mean of what falls on each cell; lines on two cells count by their parts. */
export function reduce(picture: GreyPicture, { left, top, right, bottom }: Window, width: number, height: number) {
  const across = shares(right - left, width)
  const down = shares(bottom - top, height)
  const narrow = new Float32Array(width)
  const cells = new Float32Array(width * height)
  for (let y = 0; y < bottom - top; y++) {
    narrow.fill(0)
    const line = (top + y) * lookWidth + left
    for (let x = 0; x < right - left; x++) {
      const level = picture[line + x] as number
      const cell = across.cell[x] as number
      const first = across.share[x] as number
      narrow[cell] = (narrow[cell] as number) + level * first
      if (across.rest[x]) narrow[cell + 1] = (narrow[cell + 1] as number) + level * (across.rest[x] as number)
    }
    const row = (down.cell[y] as number) * width
    const [first, rest] = [down.share[y] as number, down.rest[y] as number]
    for (let x = 0; x < width; x++) {
      const level = narrow[x] as number
      cells[row + x] = (cells[row + x] as number) + level * first
      if (rest) cells[row + width + x] = (cells[row + width + x] as number) + level * rest
    }
  }
  return cells
}

/** Into which cell each of some lines falls, by how much of a cell, and by how much into the next. */
interface Shares {
  readonly cell: Int32Array
  readonly share: Float32Array
  readonly rest: Float32Array
}

const known = new Map<string, Shares>()

/** @param lines at least as many as cells */
function shares(lines: number, cells: number): Shares {
  const key = `${lines} ${cells}`
  const before = known.get(key)
  if (before) return before
  const made = { cell: new Int32Array(lines), share: new Float32Array(lines), rest: new Float32Array(lines) }
  for (let line = 0; line < lines; line++) {
    const cell = Math.floor((line * cells) / lines)
    // Exact: in cells times lines, a line is so wide as there are cells.
    const over = Math.max(0, (line + 1) * cells - (cell + 1) * lines)
    made.cell[line] = cell
    made.share[line] = (cells - over) / lines
    made.rest[line] = over / lines
  }
  known.set(key, made)
  return made
}
