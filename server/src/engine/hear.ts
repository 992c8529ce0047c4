import { envelopeSourceRate } from '@ennick/core'
import { threadsOf } from '../threads.ts'
import { decodeSound, type HeardFiles } from './decode-sound.ts'
import { type HeardSound, Hearing, mixed } from './hearing.ts'
import { type PlainSound, plainSoundOf, readStretches } from './plain-sound.ts'

/** As many as listen at once; one that waits for a disk keeps its own. */
const threads = threadsOf<PlainSound, HeardSound | null>('engine/hearing-thread', {
  maxThreads: 4,
  idleTimeout: 10_000,
})

/** Listens to all of a clip. @returns null when it has no sound, or none that can be decoded */
export async function hearWhole(clip: HeardFiles, signal: AbortSignal): Promise<HeardSound | null> {
  const plain = await plainSoundOf(clip)
  if (plain && plain.sampleRate >= envelopeSourceRate) {
    // What cannot be read like that is the decoder's to judge.
    const heard = await threads.run(plain, { signal }).catch(() => null)
    signal.throwIfAborted()
    if (heard) return heard
  }
  const { sampleRate = 0 } = clip.files.flatMap(({ facts }) => facts.sound)[0] ?? {}
  // A file that has fewer is heard at the rate at which loudness is measured.
  const rate = Math.max(sampleRate, envelopeSourceRate)
  const hearing = new Hearing(rate)
  const all = { fromSeconds: 0, take: (channels: readonly Float32Array[]) => hearing.take(channels) }
  return (await decodeSound(clip, rate, [all], signal)) ? hearing.finish() : null
}

/**
 * Stretches of a clip's sound, equally long, all of its channels together. Plain sound is read where they lie; of
 * anything else they are decoded in one go.
 * @param fromSeconds of their first samples, whole milliseconds, counted from the first frame, ascending
 * @returns for each fewer samples where the sound ends; null when it cannot be decoded
 */
export async function soundStretches(
  clip: HeardFiles,
  { fromSeconds, samples, sampleRate }: { fromSeconds: readonly number[]; samples: number; sampleRate: number },
  signal: AbortSignal,
): Promise<(Float32Array | null)[]> {
  const plain = await plainSoundOf(clip)
  const wanted = fromSeconds.map((at) => ({ firstSample: Math.round(at * sampleRate), samples }))
  const read = plain?.sampleRate === sampleRate ? await readStretches(plain, wanted).catch(() => null) : null
  signal.throwIfAborted()
  if (read) return read.map(mixed)
  const stretches = fromSeconds.map(() => ({ samples: new Float32Array(samples), filled: 0 }))
  const parts = stretches.map((stretch, index) => ({
    fromSeconds: fromSeconds[index] as number,
    // A little more is asked for, so that the last sample is not lost to rounding.
    seconds: samples / sampleRate + 0.01,
    take: (channels: readonly Float32Array[]) => {
      const taken = mixed(channels).subarray(0, samples - stretch.filled)
      stretch.samples.set(taken, stretch.filled)
      stretch.filled += taken.length
    },
  }))
  if (parts.length === 0) return []
  const isWhole = await decodeSound(clip, sampleRate, parts, signal)
  return stretches.map((stretch) => (isWhole ? stretch.samples.subarray(0, stretch.filled) : null))
}
