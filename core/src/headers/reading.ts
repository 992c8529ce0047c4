import type { MediaFacts } from '../media/index.ts'
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
  /** What its first pictures are as they are stored; null where there are too few. */
  readonly stored: { readonly isIntra: boolean; readonly leastBytes: number; readonly mostBytes: number } | null
  /** Of a recorder's notes; null where there are none. */
  readonly notes: {
    readonly timeReferenceSamples: number
    readonly originator: string | null
    readonly description: string | null
  } | null
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
  const { timecode, notes } = numbers
  if (timecode) {
    if (!picture || nominalFramesPerSecond(picture.rate) !== timecode.labelsPerSecond) return null
    if (timecode.frame >= framesPerDay(picture.rate, facts.dropFrame)) return null
  }
  return {
    ...facts,
    picture: picture && {
      ...picture,
      frames: numbers.frames as number,
      stored: keepsStored ? numbers.stored : null,
    },
    sound: sound.map((stream, index) => ({ ...stream, samples: numbers.samples[index] as number })),
    startFrame: timecode?.frame ?? null,
    createdAt: numbers.createdAt,
    ...(notes ?? {}),
  }
}
