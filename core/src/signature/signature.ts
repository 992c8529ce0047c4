import type { Stretch } from './grey-picture.ts'
import { byOrder, distanceBetween, type NormalPicture, type NormalStretch, normalStretches } from './normal-stretch.ts'
import { mostShift } from './sampling.ts'

/** Cells of a picture in a signature: enough to tell clips apart, and small enough to keep of every file. */
const width = 16
const height = 9
const cells = width * height

/**
 * What the pictures of a file look like at a few places, kept small: it is not changed by scaling, codec, bars,
 * brightness and contrast, and hardly by a LUT.
 */
export interface PictureSignature {
  readonly stretches: readonly NormalStretch[]
}

export const signPictures = (stretches: readonly Stretch[]): PictureSignature => ({
  stretches: normalStretches(stretches, width, height),
})

/** How finely a cell is kept: cells of a picture of length one are seldom above 0.5. */
const steps = 240
const headBytes = 5

/** A signature as bytes: for each stretch its first frame, how many pictures follow, and their cells. */
export function packSignature({ stretches }: PictureSignature): Uint8Array {
  const size = stretches.reduce((sum, { pictures }) => sum + headBytes + pictures.length * cells, 0)
  const bytes = new Uint8Array(size)
  const view = new DataView(bytes.buffer)
  let at = 0
  for (const { from, pictures } of stretches) {
    view.setUint32(at, from)
    view.setUint8(at + 4, pictures.length)
    at += headBytes
    for (const picture of pictures) {
      if (picture)
        picture.forEach((cell, index) => {
          view.setInt8(at + index, Math.max(-127, Math.min(127, Math.round(cell * steps))))
        })
      at += cells
    }
  }
  return bytes
}

/** @throws RangeError when the bytes are no signature */
export function unpackSignature(bytes: Uint8Array): PictureSignature {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const stretches: NormalStretch[] = []
  for (let at = 0; at < bytes.length; ) {
    const from = view.getUint32(at)
    const count = view.getUint8(at + 4)
    at += headBytes
    const pictures = Array.from({ length: count }, (_, index): NormalPicture => {
      const picture = Float32Array.from({ length: cells }, (_, cell) => view.getInt8(at + index * cells + cell))
      const length = Math.hypot(...picture)
      return length === 0 ? null : picture.map((cell) => cell / length)
    })
    at += count * cells
    stretches.push({ from, pictures })
  }
  return { stretches }
}

/** Fewer pictures than this at one and the same frames say nothing of whole clips. */
const leastPictures = 4

/**
 * How far the pictures of two files are apart at the best shift of a few frames: below `alikeBelow` they show the same,
 * above `otherAbove` something else. Null when too few of their pictures stand at the same frames.
 */
export function distanceOfSignatures(a: PictureSignature, b: PictureSignature): number | null {
  const distances = [distanceAtBest(a, b, (picture) => picture), distanceAtBest(a, b, byOrder)]
  const known = distances.filter((distance) => distance !== null)
  return known.length ? Math.min(...known) : null
}

function distanceAtBest(
  a: PictureSignature,
  b: PictureSignature,
  as: (picture: NormalPicture) => NormalPicture,
): number | null {
  const known = new Map<number, Float32Array>()
  for (const { from, pictures } of a.stretches)
    pictures.forEach((picture, index) => {
      const seen = as(picture)
      if (seen) known.set(from + index, seen)
    })
  const asked = b.stretches.flatMap(({ from, pictures }) =>
    pictures.flatMap((picture, index) => {
      const seen = as(picture)
      return seen ? [{ at: from + index, picture: seen }] : []
    }),
  )
  let least: number | null = null
  for (let shift = -mostShift; shift <= mostShift; shift++) {
    let [sum, count] = [0, 0]
    for (const { at, picture } of asked) {
      const other = known.get(at + shift)
      if (!other) continue
      sum += distanceBetween(picture, other)
      count++
    }
    if (count >= leastPictures) least = Math.min(least ?? Number.POSITIVE_INFINITY, sum / count)
  }
  return least
}

/** The signs of a picture's large shapes, 32 to a word: one for each stretch. */
const wordsOfStretch = 2
const waves = waveTable()

/**
 * The signs of the large shapes in each stretch of a signature. Alike files differ in few of them, so that the few
 * files of a large catalogue that may show the same are found by counting bits.
 */
export function shapesOf({ stretches }: PictureSignature): Int32Array {
  const words = new Int32Array(stretches.length * wordsOfStretch)
  stretches.forEach(({ pictures }, stretch) => {
    const mean = new Float32Array(cells)
    for (const picture of pictures)
      picture?.forEach((cell, index) => {
        mean[index] = (mean[index] as number) + cell
      })
    waves.forEach((wave, bit) => {
      let sum = 0
      for (let index = 0; index < cells; index++) sum += (mean[index] as number) * (wave[index] as number)
      if (sum > 0) {
        const word = stretch * wordsOfStretch + (bit >> 5)
        words[word] = (words[word] as number) | (1 << (bit & 31))
      }
    })
  })
  return words
}

/** Cosines of few periods across and down, without the constant one. */
function waveTable(): Float32Array[] {
  const table: Float32Array[] = []
  for (let down = 0; down < 6; down++)
    for (let across = 0; across < 9; across++)
      if (down + across > 0 && down + across < 10)
        table.push(
          Float32Array.from({ length: cells }, (_, index) => {
            const [x, y] = [(index % width) + 0.5, Math.floor(index / width) + 0.5]
            return Math.cos((Math.PI * across * x) / width) * Math.cos((Math.PI * down * y) / height)
          }),
        )
  return table
}

/** How many signs differ, out of those that both have. */
export function differingShapes(a: Int32Array, b: Int32Array): { differing: number; of: number } {
  const length = Math.min(a.length, b.length)
  let differing = 0
  for (let index = 0; index < length; index++) {
    let bits = (a[index] as number) ^ (b[index] as number)
    bits -= (bits >>> 1) & 0x55555555
    bits = (bits & 0x33333333) + ((bits >>> 2) & 0x33333333)
    differing += (((bits + (bits >>> 4)) & 0x0f0f0f0f) * 0x01010101) >>> 24
  }
  return { differing, of: (length / wordsOfStretch) * waves.length }
}
