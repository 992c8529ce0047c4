import type { MediaFacts, PictureFacts, StoredFrames } from '../media/index.ts'
import { framesPerDay, nominalFramesPerSecond } from '../time/index.ts'

/** What a header says. */
export interface HeaderReading {
  /**
   * All that the header says but for the numbers below. Two files of the same shape are of one maker, one format and
   * one way of writing, and whatever was found out of one of them, but for these numbers, is so of the other.
   */
  readonly shape: string
  readonly numbers: HeaderNumbers
}

export interface HeaderNumbers {
  readonly frames: number | null
  /** Of each sound stream. */
  readonly samples: readonly number[]
  /** The label that its timecode track begins with, counted from midnight. */
  readonly timecode: { readonly frame: number; readonly labelsPerSecond: number } | null
  readonly createdAt: string | null
  /**
   * What its first pictures are as they are stored; null where there are too few. Where only the pictures themselves
   * say whether each can be decoded alone, that is not read: it is a matter of the shape.
   */
  readonly stored: StoredFrames<boolean | null> | null
  /** Of a recorder's notes; null where there are none. */
  readonly notes: {
    readonly timeReferenceSamples: number
    readonly originator: string | null
    readonly description: string | null
  } | null
  /** What the package of an MXF file is called, which is its own; null for other files. */
  readonly materialPackage: { readonly id: string; readonly name: string | null } | null
}

/** Some twenty pictures, or all of a file that has fewer than these. */
const fewestPictures = 12

/**
 * What the first pictures of a file are as they are stored.
 * @param sizes of some of its first, in bytes
 * @param frames how many it has
 * @param isIntra null where that is not read
 */
export function storedPictures<T extends boolean | null>(
  sizes: readonly number[],
  frames: number,
  isIntra: T,
): StoredFrames<T> | null {
  if (sizes.length < Math.min(fewestPictures, frames)) return null
  return { isIntra, leastBytes: Math.min(...sizes), mostBytes: Math.max(...sizes) }
}

/**
 * What is to be said of a file of the same shape as another one.
 * @param facts of the other
 * @param keepsStored whether what its first pictures are was asked of this one
 * @returns null where something stands between header and facts that is not read here
 */
export function factsLike(facts: MediaFacts, numbers: HeaderNumbers, keepsStored: boolean): MediaFacts | null {
  const { picture, sound } = facts
  if ((picture === null) !== (numbers.frames === null) || sound.length !== numbers.samples.length) return null
  if (facts.kind === 'still' || facts.furtherPictures || facts.labelsPerSecond || picture?.heldFrames) return null
  if (picture?.variableRate) return null
  const { timecode, notes, materialPackage } = numbers
  if (timecode && picture) {
    if (nominalFramesPerSecond(picture.rate) !== timecode.labelsPerSecond) return null
    if (timecode.frame >= framesPerDay(picture.rate, facts.dropFrame)) return null
  }
  return {
    ...facts,
    picture: picture && {
      ...picture,
      frames: numbers.frames as number,
      stored: keepsStored ? storedLike(picture, numbers.stored) : null,
    },
    sound: sound.map((stream, index) => ({ ...stream, samples: numbers.samples[index] as number })),
    startFrame: picture && timecode ? timecode.frame : null,
    createdAt: numbers.createdAt,
    ...(notes ?? {}),
    ...(materialPackage && { materialPackage }),
  }
}

function storedLike({ stored }: PictureFacts, own: HeaderNumbers['stored']): StoredFrames | null {
  const isIntra = own?.isIntra ?? stored?.isIntra
  return own && isIntra !== undefined ? { ...own, isIntra } : null
}
