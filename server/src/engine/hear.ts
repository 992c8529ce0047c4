import {
  ClippingMeter,
  channelCount,
  clipFacts,
  EnvelopeMaker,
  envelopeSourceRate,
  inputArguments,
  type MediaFacts,
  type TrackLevel,
  TrackMeter,
} from '@ennick/core'
import { type EngineFile, withInput } from './input.ts'
import { joinedSound } from './joined-sound.ts'
import { asEnded, startEncoder } from './process.ts'

/** Samples are handed over many at a time: a camera's packets hold a thousand, and each costs as much as very many. */
const handed = 'asetnsamples=n=32768:p=0'

/** What can be listened to: the files of one clip, in order. */
export interface HeardFiles {
  readonly files: readonly (EngineFile & { readonly facts: MediaFacts })[]
}

const bytesOfSample = 4
/** Envelopes have no use for a rate of pictures; lists of stills, which need one, have no sound. */
const anyRate = { numerator: 25, denominator: 1 }

/** What was heard of a clip from its first frame to its end. */
export interface HeardSound {
  /** All of its channels together. */
  readonly envelope: Float32Array
  readonly tracks: readonly TrackLevel[]
}

/** Listens to all of a clip. @returns null when it has no sound, or none that can be decoded */
export async function hearWhole({ files }: HeardFiles, signal: AbortSignal): Promise<HeardSound | null> {
  const maker = new EnvelopeMaker()
  const meters: TrackMeter[] = []
  const clipping: ClippingMeter[] = []
  const { sampleRate = envelopeSourceRate } = files.flatMap(({ facts }) => facts.sound)[0] ?? {}
  const take = (channels: readonly Float32Array[]): void => {
    channels.forEach((samples, channel) => {
      meters[channel] ??= new TrackMeter()
      meters[channel].add(samples)
    })
    maker.add(mixed(channels))
  }
  // What is clipped is no longer seen at the rate at which loudness is measured.
  const takeAll = (channels: readonly Float32Array[]): void =>
    channels.forEach((samples, channel) => {
      clipping[channel] ??= new ClippingMeter(sampleRate)
      clipping[channel].add(samples)
    })
  const asked = { sampleRate: envelopeSourceRate, fromSeconds: 0, most: [] }
  if (!(await decode(files, asked, signal, take, takeAll))) return null
  const tracks = meters.map((meter, channel) => ({ ...meter.finish(), clipping: clipping[channel]?.finish() ?? null }))
  return { envelope: maker.finish(), tracks }
}

/** The mean of all channels. */
function mixed(channels: readonly Float32Array[]): Float32Array {
  const [first] = channels
  if (!first || channels.length === 1) return first ?? new Float32Array()
  const mix = new Float32Array(first.length)
  for (const samples of channels)
    for (let index = 0; index < mix.length; index++)
      mix[index] = (mix[index] as number) + (samples[index] as number) / channels.length
  return mix
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
  // A little more is asked for, so that the last sample is not lost to rounding.
  const most = ['-t', (samples / sampleRate + 0.01).toFixed(3)]
  const isWhole = await decode(files, { sampleRate, fromSeconds, most }, signal, (channels) => {
    const taken = mixed(channels).subarray(0, samples - filled)
    stretch.set(taken, filled)
    filled += taken.length
  })
  return isWhole ? stretch.subarray(0, filled) : null
}

/** To start the decoder once more takes as long as to decode so much. */
const togetherSeconds = 20

/**
 * Several stretches of a clip's sound, equally long. What lies near together is decoded in one go.
 * @param fromSeconds as of `soundStretch`, ascending
 */
export async function soundStretches(
  clip: HeardFiles,
  { fromSeconds, samples, sampleRate }: { fromSeconds: readonly number[]; samples: number; sampleRate: number },
  signal: AbortSignal,
): Promise<(Float32Array | null)[]> {
  const [first = 0, last = 0] = [fromSeconds[0], fromSeconds.at(-1)]
  const offsets = fromSeconds.map((at) => Math.round((at - first) * sampleRate))
  if (last - first > togetherSeconds) {
    const stretches: (Float32Array | null)[] = []
    for (const at of fromSeconds)
      stretches.push(await soundStretch(clip, { fromSeconds: at, samples, sampleRate }, signal))
    return stretches
  }
  const all = { fromSeconds: first, samples: (offsets.at(-1) ?? 0) + samples, sampleRate }
  const whole = await soundStretch(clip, all, signal)
  return offsets.map((offset) => whole?.subarray(offset, offset + samples) ?? null)
}

/** Samples that lie one after another in their file, without a word of when each is due. */
const hasNoHoles = ({ container, sound }: MediaFacts): boolean =>
  ['mov', 'mxf', 'wav'].includes(container) && sound.every(({ codec }) => codec.startsWith('pcm_'))

/**
 * @param take gets the next samples of each channel
 * @param takeAll gets them at the rate of the file, where that is asked for
 * @returns whether all of it was decoded
 */
async function decode(
  files: HeardFiles['files'],
  { sampleRate, fromSeconds, most }: { sampleRate: number; fromSeconds: number; most: readonly string[] },
  signal: AbortSignal,
  take: (channels: readonly Float32Array[]) => void,
  takeAll?: (channels: readonly Float32Array[]) => void,
): Promise<boolean> {
  const facts = files.length ? clipFacts(files.map((file) => file.facts)) : null
  const channels = facts ? channelCount(facts) : 0
  if (!facts || channels === 0) return false
  // Sound that begins behind the first frame is filled up with silence: both are counted from there.
  const placed = `aresample=${sampleRate}:async=1:first_pts=0`
  return withInput(files, async (input) => {
    const joined = joinedSound(facts, input)?.graph
    // Where there may be holes each packet says when it is due: it is placed before it is joined with the next.
    const [before, after] = hasNoHoles(facts) ? [`,${handed}`, ''] : ['', `,${handed}`]
    const graph = takeAll
      ? `${joined}${before},asplit[b][d];[b]${placed}${after}[a];[d]anull${after}[c]`
      : `${joined}${before},${placed}${after}[a]`
    const words = [
      ...[...inputArguments(input, anyRate, fromSeconds), '-filter_complex', graph, '-map', '[a]', ...most],
      ...['-f', 'f32le', 'pipe:1'],
      ...(takeAll ? ['-map', '[c]', '-f', 'f32le', 'pipe:3'] : []),
    ]
    const child = startEncoder(words, signal, takeAll !== undefined)
    const second = takeAll && child.stdio[3]
    await Promise.all([
      readSamples(child.stdout as AsyncIterable<Buffer>, channels, take),
      ...(takeAll ? [readSamples(second as unknown as AsyncIterable<Buffer>, channels, takeAll)] : []),
    ])
    const result = await child
    signal.throwIfAborted()
    const { exitCode } = asEnded(result)
    return exitCode === 0
  })
}

async function readSamples(
  stream: AsyncIterable<Buffer>,
  channels: number,
  take: (channels: readonly Float32Array[]) => void,
): Promise<void> {
  let left: Buffer = Buffer.alloc(0)
  const step = bytesOfSample * channels
  for await (const chunk of stream) {
    const bytes = left.length ? Buffer.concat([left, chunk]) : chunk
    const whole = bytes.length - (bytes.length % step)
    left = bytes.subarray(whole)
    take(unwoven(asNumbers(bytes.subarray(0, whole)), channels))
  }
}

/** Bytes as they lie, where a number may begin there; else a copy of them. */
function asNumbers(bytes: Buffer): Float32Array {
  const count = bytes.length / bytesOfSample
  if (bytes.byteOffset % bytesOfSample === 0) return new Float32Array(bytes.buffer, bytes.byteOffset, count)
  return new Float32Array(Uint8Array.prototype.slice.call(bytes).buffer)
}

/** Channels that lie sample by sample beside each other, each on its own. */
function unwoven(woven: Float32Array, channels: number): Float32Array[] {
  if (channels === 1) return [woven]
  return Array.from({ length: channels }, (_, channel) => {
    const samples = new Float32Array(woven.length / channels)
    for (let index = 0; index < samples.length; index++) samples[index] = woven[index * channels + channel] as number
    return samples
  })
}
