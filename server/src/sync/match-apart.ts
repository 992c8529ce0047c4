import type { Heard, SoundAlignment, WaveformOutcome } from '@ennick/core'
import { forEachAtOnce } from '../intake/describe-file.ts'
import { threadsOf } from '../threads.ts'
import type { Matchings, MatchingTask } from './matching-thread.ts'

const mostThreads = 2
const threads = threadsOf<MatchingTask, Matchings[keyof Matchings]['answered']>('sync/matching-thread', {
  maxThreads: mostThreads,
  idleTimeout: 10_000,
})

/**
 * Does it in a thread of its own: others want this one, and the lease of the job.
 * @throws the signal's reason when that ends it
 */
async function runApart<K extends keyof Matchings>(
  kind: K,
  asked: Matchings[K]['asked'],
  signal: AbortSignal,
): Promise<Matchings[K]['answered']> {
  try {
    return (await threads.run({ kind, asked } as MatchingTask, { signal })) as Matchings[K]['answered']
  } catch (error) {
    signal.throwIfAborted()
    throw error
  }
}

/** Pictures that one task compares: each task makes all recordings ready for it, which is as much work as one more. */
const atOnce = 16

/**
 * Finds for each picture the recording that sounds like it.
 * @param onMatched told how many more pictures are done; a large day takes minutes
 * @returns an outcome for each picture, in order
 */
export async function matchApart(
  pictures: readonly Heard[],
  recordings: readonly Heard[],
  signal: AbortSignal,
  onMatched: (pictures: number) => void,
): Promise<WaveformOutcome[]> {
  const parts: (readonly Heard[])[] = []
  for (let at = 0; at < pictures.length; at += atOnce) parts.push(pictures.slice(at, at + atOnce))
  const outcomes: WaveformOutcome[][] = []
  await forEachAtOnce([...parts.entries()], mostThreads, async ([index, part]) => {
    outcomes[index] = await runApart('match', { pictures: part, recordings }, signal)
    onMatched(part.length)
  })
  return outcomes.flat()
}

/** Lays two stretches of one moment on each other to the sample, as `alignSound`. */
export const alignApart = (
  one: Float32Array,
  other: Float32Array,
  most: number,
  signal: AbortSignal,
): Promise<SoundAlignment | null> => runApart('align', { one, other, most }, signal)
