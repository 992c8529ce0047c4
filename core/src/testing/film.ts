import { type GreyPicture, lookHeight, lookWidth } from '../signature/index.ts'
import { randomFrom } from './random.ts'

// Jest looks up every global in its sandbox, which takes longer than the sums that are done with them.
const { floor, exp } = Math

/** What a drawn film shows. */
export interface Scene {
  readonly set: number
  /** Columns by which the picture pans in a frame. */
  readonly pan: number
  readonly grain: number
}

/** Soft hills of light, as wide as a pan will go. */
const canvas = new Map<number, Float32Array>()
const canvasWidth = lookWidth + 80
function hillsOf(set: number): Float32Array {
  const known = canvas.get(set)
  if (known) return known
  const random = randomFrom(set)
  const cells = new Float32Array(canvasWidth * lookHeight).fill(50)
  for (let hill = 0; hill < 14; hill++) {
    const [left, top, size] = [random() * canvasWidth, random() * lookHeight, 5 + random() * 15]
    const light = (random() - 0.3) * 110
    for (let y = 0; y < lookHeight; y++)
      for (let x = 0; x < canvasWidth; x++)
        cells[y * canvasWidth + x] =
          (cells[y * canvasWidth + x] as number) + light * exp(-((x - left) ** 2 + (y - top) ** 2) / (2 * size ** 2))
  }
  canvas.set(set, cells)
  return cells
}

/** Draws a frame of a scene: its hills, panned, with grain that is the frame's own. */
export function draw({ set, pan, grain }: Scene, frame: number): GreyPicture {
  const cells = hillsOf(set)
  const noise = randomFrom(set * 7919 + frame)
  const [columns, share] = [floor(pan * frame), (pan * frame) % 1]
  const picture = new Uint8ClampedArray(lookWidth * lookHeight)
  for (let y = 0, index = 0; y < lookHeight; y++) {
    for (let at = y * canvasWidth + columns; index < (y + 1) * lookWidth; index++, at++) {
      const level = (cells[at] as number) * (1 - share) + (cells[at + 1] as number) * share
      picture[index] = level + (noise() - 0.5) * 3.46 * grain
    }
  }
  return new Uint8Array(picture.buffer)
}

/** What an encoder and a LUT make of a picture: an S-curve, a blur, and steps. */
export function encode(picture: GreyPicture, blur = true): GreyPicture {
  return picture.map((level, index) => {
    const at = blur ? (level + (picture[index - 1] ?? level) + (picture[index + 1] ?? level)) / 3 : level
    const share = at / 255
    return floor((255 * share * share * (3 - 2 * share)) / 2) * 2
  })
}
