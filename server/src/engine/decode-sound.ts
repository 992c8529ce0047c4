import { channelCount, clipFacts, inputArguments, inputCount, type MediaFacts } from '@ennick/core'
import { type EngineFile, withInput } from './input.ts'
import { joinedSound } from './joined-sound.ts'
import { asEnded, startEncoder } from './process.ts'
import { SampleReader } from './sample-format.ts'

/** What can be listened to: the files of one clip, in order. */
export interface HeardFiles {
  readonly files: readonly (EngineFile & { readonly facts: MediaFacts })[]
}

/** Gets the next samples of each channel, from -1 to 1, which hold until it has returned. */
export type TakeSamples = (channels: readonly Float32Array[]) => void

/** Where to begin, and who gets what is there. */
export interface DecodedPart {
  /** Whole milliseconds, counted from the first frame. */
  readonly fromSeconds: number
  /** How much is decoded; all of it without. */
  readonly seconds?: number
  readonly take: TakeSamples
}

/** Samples are handed over many at a time: a camera's packets hold a thousand, and each costs as much as very many. */
const handed = 'asetnsamples=n=32768:p=0'
/** Sound has no use for a rate of pictures; lists of stills, which need one, have no sound. */
const anyRate = { numerator: 25, denominator: 1 }
const decoded = { bytes: 4, isFloat: true, isBigEndian: false } as const

/** Samples that lie one after another in their file, without a word of when each is due. */
const hasNoHoles = ({ container, sound }: MediaFacts): boolean =>
  ['mov', 'mxf', 'wav'].includes(container) && sound.every(({ codec }) => codec.startsWith('pcm_'))

/**
 * Decodes the sound of a clip, or some parts of it, all in one go of the decoder, to start which takes as long as to
 * decode some twenty seconds. Sound that begins behind the first frame has silence before it.
 * @returns whether all of it was decoded
 */
export async function decodeSound(
  { files }: HeardFiles,
  sampleRate: number,
  parts: readonly DecodedPart[],
  signal: AbortSignal,
): Promise<boolean> {
  const facts = files.length ? clipFacts(files.map((file) => file.facts)) : null
  const channels = facts ? channelCount(facts) : 0
  if (!facts || channels === 0) return false
  const placed = `aresample=${sampleRate}:async=1:first_pts=0`
  // Where there may be holes each packet says when it is due: it is placed before it is joined with the next.
  const filters = hasNoHoles(facts) ? `${handed},${placed}` : `${placed},${handed}`
  return withInput(files, async (input) => {
    const graph = parts.map(
      (_, index) => `${joinedSound(facts, input, index * inputCount(input))?.graph},${filters}[p${index}]`,
    )
    const words = [
      ...parts.flatMap(({ fromSeconds }) => inputArguments(input, anyRate, fromSeconds)),
      ...['-filter_complex', graph.join(';')],
      ...parts.flatMap(({ seconds }, index) => [
        ...['-map', `[p${index}]`, ...(seconds === undefined ? [] : ['-t', seconds.toFixed(3)])],
        ...['-f', 'f32le', `pipe:${descriptorOf(index)}`],
      ]),
    ]
    const child = startEncoder(words, signal, parts.length - 1)
    await Promise.all(
      parts.map(({ take }, index) =>
        readSamples(child.stdio[descriptorOf(index)] as unknown as AsyncIterable<Buffer>, channels, take),
      ),
    )
    const result = await child
    signal.throwIfAborted()
    return asEnded(result).exitCode === 0
  })
}

/** Its standard output, then what follows its standard error. */
const descriptorOf = (index: number): number => (index === 0 ? 1 : index + 2)

/** Hands on what comes, channel by channel. */
async function readSamples(stream: AsyncIterable<Buffer>, channels: number, take: TakeSamples): Promise<void> {
  let left: Buffer = Buffer.alloc(0)
  const reader = new SampleReader(channels, decoded)
  const step = decoded.bytes * channels
  for await (const chunk of stream) {
    const bytes = left.length ? Buffer.concat([left, chunk]) : chunk
    const whole = bytes.length - (bytes.length % step)
    left = bytes.subarray(whole)
    if (whole > 0) take(reader.read(bytes.subarray(0, whole)))
  }
}
