import { EnvelopeMaker, envelopeSourceRate, inputArguments, type MediaFacts } from '@ennick/core'
import { type EngineFile, withInput } from './input.ts'
import { joinedSound } from './joined-sound.ts'
import { startEncoder } from './process.ts'

/** What can be listened to: the files of one clip, in order. */
export interface HeardFiles {
  readonly files: readonly (EngineFile & { readonly facts: MediaFacts })[]
}

const bytesOfSample = 4
/** Envelopes have no use for a rate of pictures; lists of stills, which need one, have no sound. */
const anyRate = { numerator: 25, denominator: 1 }

/**
 * How loud a clip is over its length, all of its channels together, from its first frame on.
 * @returns null when it has no sound, or none that can be decoded
 */
export async function soundEnvelope({ files }: HeardFiles, signal: AbortSignal): Promise<Float32Array | null> {
  const maker = new EnvelopeMaker()
  const isWhole = await decode(files, { sampleRate: envelopeSourceRate, seek: [], most: [] }, signal, (samples) =>
    maker.add(samples),
  )
  return isWhole ? maker.finish() : null
}

/**
 * A stretch of a clip's sound, all of its channels together.
 * @param fromSeconds of its first sample, whole milliseconds, counted from the first frame
 * @returns fewer samples where the sound ends; null when it cannot be decoded
 */
export async function soundStretch(
  { files }: HeardFiles,
  { fromSeconds, samples, sampleRate }: { fromSeconds: number; samples: number; sampleRate: number },
  signal: AbortSignal,
): Promise<Float32Array | null> {
  const stretch = new Float32Array(samples)
  let filled = 0
  const seek = fromSeconds > 0 ? ['-ss', fromSeconds.toFixed(3)] : []
  // A little more is asked for, so that the last sample is not lost to rounding.
  const most = ['-t', (samples / sampleRate + 0.01).toFixed(3)]
  const isWhole = await decode(files, { sampleRate, seek, most }, signal, (some) => {
    const taken = some.subarray(0, samples - filled)
    stretch.set(taken, filled)
    filled += taken.length
  })
  return isWhole ? stretch.subarray(0, filled) : null
}

/** @returns whether all of it was decoded */
async function decode(
  files: HeardFiles['files'],
  { sampleRate, seek, most }: { sampleRate: number; seek: readonly string[]; most: readonly string[] },
  signal: AbortSignal,
  take: (samples: Float32Array) => void,
): Promise<boolean> {
  const facts = files[0]?.facts
  const joined = facts ? joinedSound(facts) : null
  if (!joined) return false
  const mix = Array.from({ length: joined.channels }, (_, channel) => `${1 / joined.channels}*c${channel}`).join('+')
  // Sound that begins behind the first frame is filled up with silence: both are counted from there.
  const graph = `${joined.graph},aresample=${sampleRate}:async=1:first_pts=0,pan=mono|c0=${mix}[a]`
  return withInput(files, async (input) => {
    const words = [
      ...[...seek, ...inputArguments(input, anyRate), '-filter_complex', graph, '-map', '[a]', ...most],
      ...['-f', 'f32le', 'pipe:1'],
    ]
    const child = startEncoder(words, signal)
    let left: Buffer = Buffer.alloc(0)
    for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
      const bytes = left.length ? Buffer.concat([left, chunk]) : chunk
      const whole = bytes.length - (bytes.length % bytesOfSample)
      left = bytes.subarray(whole)
      // A copy, which begins where a number may begin.
      take(new Float32Array(Uint8Array.prototype.slice.call(bytes, 0, whole).buffer))
    }
    const { exitCode } = await child
    signal.throwIfAborted()
    return exitCode === 0
  })
}
