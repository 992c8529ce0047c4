import { reserveBytes } from '../mxf/index.ts'
import type { RecipeContainer } from './codec.ts'

/** What a container holds for every picture: the bytes of the picture and of each sound stream beside it. */
export interface FrameBytes {
  readonly frames: number
  readonly picture: number
  /** PCM bytes to a picture, on average, for every stream. */
  readonly sounds: readonly number[]
}

/**
 * Bytes that a container adds to its essence, as the encoder here writes it: what a file of MXF takes was worked out
 * from its rules (SMPTE ST 377-1, KLV alignment grid; ST 379-1, one system item to an edit unit), heads and tables were
 * measured.
 */
export function containerBytes(container: RecipeContainer, { frames, picture, sounds }: FrameBytes): number {
  switch (container) {
    case 'mxf-op1a': {
      const perFrame = systemItem + [picture, ...sounds].reduce((sum, bytes) => sum + onGrid(bytes) - bytes, 0)
      return 7200 + 1150 * sounds.length + Math.round(frames * perFrame)
    }
    case 'mxf-op-atom': {
      const room = reserveBytes(1 + sounds.length)
      return (
        opAtomBytes(frames * picture, 8540 + room) +
        sounds.reduce((sum, bytes) => sum + opAtomBytes(frames * bytes, 8390 + room), 0)
      )
    }
    case 'mov':
    case 'mp4':
      // Tables of where each chunk lies; without sound all pictures are one.
      return 1450 + 530 * sounds.length + Math.round(frames * (sounds.length ? 4 + 7.5 * sounds.length : 0.2))
    case 'mkv':
    case 'webm':
      return 1500 + Math.round(frames * 10 * (1 + sounds.length))
  }
}

const grid = 512
const systemItem = 512
const keyAndLength = 20
/** The shortest filler that can stand between two elements. */
const shortestFill = 20

/** The random index at the end of a file, which stands on no grid. */
const randomIndex = 57

/** What a file of one essence takes besides it: partitions begin on the grid, so its size goes in steps. */
const opAtomBytes = (essence: number, heads: number): number =>
  Math.ceil((essence + heads) / grid) * grid + randomIndex - Math.round(essence)

function onGrid(bytes: number): number {
  const used = Math.ceil(bytes) + keyAndLength
  const gap = (grid - (used % grid)) % grid
  return used + (gap !== 0 && gap < shortestFill ? gap + grid : gap)
}
