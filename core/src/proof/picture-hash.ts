import type { EvidenceRow } from '../pairing/index.ts'
import { nominalFramesPerSecond, type Rate } from '../time/index.ts'

/** A picture as 9 × 8 levels of grey, row by row from the top left: small enough to keep one for every frame. */
export const hashWidth = 9
export const hashHeight = 8
export const hashBytes = hashWidth * hashHeight
export type PictureHash = Uint8Array

const mostSamples = 12
const secondsBetweenSamples = 10

/** The frames that are looked at: the first, the last, the quarters, and one every ten seconds; in order, each once. */
export function sampleFrames(frames: number, rate: Rate): number[] {
  const last = frames - 1
  const perStep = nominalFramesPerSecond(rate) * secondsBetweenSamples
  const steps = Math.min(mostSamples - 1, Math.max(4, Math.floor(last / perStep)))
  return [...new Set(Array.from({ length: steps + 1 }, (_, index) => Math.floor((last * index) / steps)))]
}

/** Cuts what an encoder has written, one hash after another, into frames. A rest that is no whole hash is left out. */
export function splitHashes(bytes: Uint8Array): PictureHash[] {
  return Array.from({ length: Math.floor(bytes.length / hashBytes) }, (_, index) =>
    bytes.subarray(index * hashBytes, (index + 1) * hashBytes),
  )
}

/** Rows at the top and the bottom that something burnt in may have changed. */
export const rowsOfBurnIn = (heightPercent: number | null): number =>
  // A line of text is a half higher than its letters, and stands off the edge.
  heightPercent === null ? 0 : Math.min(3, Math.ceil(((heightPercent * 1.5 + 4) * hashHeight) / 100))

/** Levels of 255 by which what a codec loses may change a picture this small, on average. */
const tolerance = 3
const darkLevel = 6

/**
 * Compares pictures of a made item with what went into its encoder.
 * @param source one hash for every frame
 * @param made hashes of some frames, by their number
 * @param hiddenRows rows at the top and bottom that are not compared, because something is burnt in there
 */
export function comparePictures(
  source: readonly PictureHash[],
  made: ReadonlyMap<number, PictureHash>,
  hiddenRows: number,
): EvidenceRow {
  const wrong: string[] = []
  for (const [frame, hash] of made) {
    const reason = explain(source, frame, hash, hiddenRows)
    if (reason !== null) wrong.push(reason)
  }
  const count = `${made.size} ${made.size === 1 ? 'picture' : 'pictures'}`
  return {
    aspect: 'pictures',
    expected: `${count} alike`,
    found: wrong.length ? `${made.size - wrong.length} alike` : `${count} alike`,
    agrees: wrong.length === 0,
    difference: wrong.length ? wrong.join('; ') : null,
  }
}

function explain(source: readonly PictureHash[], frame: number, hash: PictureHash, hiddenRows: number): string | null {
  const expected = source[frame]
  if (!expected) return `frame ${frame} is not in the original`
  const away = distance(expected, hash, hiddenRows)
  const nearest = nearestFrame(source, frame, hash, hiddenRows)
  if (away <= tolerance) {
    // Neighbours are often alike; only a clearly better one shows that the pictures have moved.
    const better = distance(source[nearest] as PictureHash, hash, hiddenRows)
    return nearest !== frame && away > 2 * better + 1 ? `frame ${frame} shows frame ${nearest}` : null
  }
  if (mean(hash, hiddenRows) < darkLevel && mean(expected, hiddenRows) > 2 * darkLevel) return `frame ${frame} is black`
  if (nearest !== frame && distance(source[nearest] as PictureHash, hash, hiddenRows) <= tolerance / 2)
    return `frame ${frame} shows frame ${nearest}`
  return `frame ${frame} shows another picture (${Math.round(away)} of 255 levels away)`
}

function nearestFrame(source: readonly PictureHash[], frame: number, hash: PictureHash, hiddenRows: number): number {
  let nearest = frame
  let least = source[frame] ? distance(source[frame], hash, hiddenRows) : Number.POSITIVE_INFINITY
  source.forEach((candidate, index) => {
    const away = distance(candidate, hash, hiddenRows)
    if (away < least || (away === least && Math.abs(index - frame) < Math.abs(nearest - frame))) {
      nearest = index
      least = away
    }
  })
  return nearest
}

/** Mean difference in levels over the rows that are compared. */
function distance(a: PictureHash, b: PictureHash, hiddenRows: number): number {
  const [from, to] = bounds(hiddenRows)
  let sum = 0
  for (let index = from; index < to; index++) sum += Math.abs((a[index] as number) - (b[index] as number))
  return sum / (to - from)
}

function mean(hash: PictureHash, hiddenRows: number): number {
  const [from, to] = bounds(hiddenRows)
  let sum = 0
  for (let index = from; index < to; index++) sum += hash[index] as number
  return sum / (to - from)
}

const bounds = (hiddenRows: number): [number, number] => [hiddenRows * hashWidth, (hashHeight - hiddenRows) * hashWidth]
