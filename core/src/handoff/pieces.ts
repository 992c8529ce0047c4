import { channelCount, isAllIntra, type MediaFacts } from '../media/index.ts'
import {
  type FrameRange,
  formatTimecode,
  framesPerDay,
  mergeRanges,
  type Rate,
  rangeLength,
  sameRate,
} from '../time/index.ts'

/**
 * Whether a stretch of a file can be copied on its own, its pictures packet for packet and its sound to the sample:
 * every frame stands alone, the sound is not compressed, picture and sound begin together, and nothing else is in it.
 */
export function canBeCutOut(facts: MediaFacts): boolean {
  const { picture, sound, container } = facts
  if (!picture || container !== 'mov' || facts.furtherPictures || isAllIntra(picture) !== true) return false
  const isPlain = !picture.variableRate && picture.heldFrames === undefined && !picture.beginsMicroseconds
  const isPcm = sound.every(({ codec }) => codec.startsWith('pcm_'))
  const isOneRate = new Set(sound.map(({ sampleRate }) => sampleRate)).size <= 1
  return isPlain && isPcm && isOneRate && channelCount(facts) <= 64
}

/** What is left of a file when stretches are taken of it may not be worth the pieces. */
const mostOfWhole = 0.9

/**
 * The stretches of a file that a cut uses, each with handles, as far as the file goes; what touches is one.
 * @param uses on the timecode of the file, each at the rate at which it is counted
 * @param handles frames more at either end
 * @returns frames from the first of the file; null where it goes as a whole: it cannot be cut out of, its uses count at
 * another rate, or nearly all of it is used
 */
export function piecesOf(
  facts: MediaFacts,
  uses: readonly { readonly range: FrameRange; readonly rate: Rate }[],
  handles: number,
): FrameRange[] | null {
  const { picture } = facts
  if (!picture || !canBeCutOut(facts) || uses.some(({ rate }) => !sameRate(rate, picture.rate))) return null
  const first = facts.startFrame ?? 0
  const within = uses.map(({ range }) => ({
    startFrame: Math.max(0, range.startFrame - first - handles),
    endFrame: Math.min(picture.frames, range.endFrame - first + handles),
  }))
  // A use that lies outside of its file says that one of both is not what it seems.
  if (within.some((range) => rangeLength(range) <= 0)) return null
  const pieces = mergeRanges(within)
  const frames = pieces.reduce((sum, piece) => sum + rangeLength(piece), 0)
  return frames > 0 && frames < picture.frames * mostOfWhole ? pieces : null
}

/**
 * The label at which a piece begins, counted from midnight. Of a file without timecode too: lists count that from zero,
 * and of its piece they would count from another frame.
 */
export function pieceStart({ startFrame, dropFrame, picture }: MediaFacts, piece: FrameRange): number {
  const label = (startFrame ?? 0) + piece.startFrame
  return picture ? label % framesPerDay(picture.rate, dropFrame) : label
}

/** A name by which a piece is not taken for the whole: with the label at which it begins. */
export function pieceName(stem: string, facts: MediaFacts, piece: FrameRange): string {
  const start = pieceStart(facts, piece)
  const label = facts.picture ? formatTimecode(start, facts.picture.rate, facts.dropFrame) : String(start)
  return `${stem}_${label.replace(/\D/g, '')}.mov`
}
