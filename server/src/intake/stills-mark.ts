import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { type FrameRange, type StillSequence, stillName } from '@ennick/core'
import { xxh64 } from '@node-rs/xxhash'
import pLimit from 'p-limit'
import { fingerprint } from '../disk/fingerprint.ts'

/** Stills by the mark, and the bytes, that they had when they were seen. */
export interface KnownStills {
  readonly sequence: StillSequence
  readonly fingerprint: string
  readonly sizeBytes: number
}

/** What is known of a file as numbered stills; nothing of any other. */
export const asKnownStills = ({
  sequence,
  fingerprint: mark,
  sizeBytes,
}: {
  readonly sequence: StillSequence | null
  readonly fingerprint: string
  readonly sizeBytes: number
}): KnownStills[] => (sequence ? [{ sequence, fingerprint: mark, sizeBytes }] : [])

/** The name of each still, in order. */
export function* stillNames(sequence: StillSequence): Generator<string> {
  for (const range of sequence.ranges)
    for (let number = range.startFrame; number < range.endFrame; number++) yield stillName(sequence, number)
}

const readAtOnce = 4

/**
 * The mark of numbered stills, for their fingerprint: of their numbers, of all their bytes, and of the fingerprint of
 * each. Where pictures are not compressed all stills are of one size, and one of them may be another now.
 */
export class StillsMark {
  readonly #sequence: StillSequence
  readonly #sizeBytes: number
  /** The fingerprint of each still, in order. */
  readonly #prints: readonly string[]
  readonly mark: string

  private constructor(sequence: StillSequence, sizeBytes: number, prints: readonly string[]) {
    this.#sequence = sequence
    this.#sizeBytes = sizeBytes
    this.#prints = prints
    this.mark = markOf(['each still', numbersOf(sequence), sizeBytes], prints)
  }

  /** @throws as `open` does when a still is not there; the signal's reason when that ends it */
  static async read(
    root: string,
    sequence: StillSequence,
    sizeBytes: number,
    signal: AbortSignal | null = null,
  ): Promise<StillsMark> {
    const print = async (name: string): Promise<string> => {
      signal?.throwIfAborted()
      const path = join(root, sequence.folder, name)
      return fingerprint(path, (await stat(path)).size)
    }
    const prints = await pLimit(readAtOnce).map(stillNames(sequence), print)
    return new StillsMark(sequence, sizeBytes, prints)
  }

  /** Whether they are, as far as that tells, what an earlier version has marked. */
  wasMarked({ sequence, fingerprint: mark, sizeBytes }: KnownStills): boolean {
    if (sizeBytes !== this.#sizeBytes) return false
    const three = threeOf(this.#sequence, this.#prints)
    return [numbersOf(this.#sequence), ...formsOfBefore(sequence)].some(
      (form) => markOf([form, sizeBytes], three) === mark,
    )
  }
}

const markOf = (what: unknown, prints: readonly string[]): string =>
  prints
    .reduce((mark, print) => xxh64(Buffer.from(print), mark), xxh64(Buffer.from(JSON.stringify(what))))
    .toString(16)
    .padStart(16, '0')

const numbersOf = ({ ranges }: StillSequence): number[][] =>
  ranges.map(({ startFrame, endFrame }) => [startFrame, endFrame])

/** Marks were once made of three stills: the first, the first of the range in the middle, and the last. */
function threeOf({ ranges }: StillSequence, prints: readonly string[]): string[] {
  const before = ranges.slice(0, Math.floor(ranges.length / 2))
  const middle = before.reduce((sum, { startFrame, endFrame }: FrameRange) => sum + endFrame - startFrame, 0)
  return [prints[0], prints[middle], prints.at(-1)] as string[]
}

/** What marks of before were made of, in the order of words that a scan or the database had them in. */
const formsOfBefore = ({ folder, prefix, suffix, digits, ranges }: StillSequence): unknown[] => [
  { folder, prefix, suffix, digits, ranges: ranges.map(({ startFrame, endFrame }) => ({ startFrame, endFrame })) },
  { digits, folder, prefix, ranges: ranges.map(({ startFrame, endFrame }) => ({ endFrame, startFrame })), suffix },
]
