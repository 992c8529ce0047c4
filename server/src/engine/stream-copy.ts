import {
  beginAt,
  type FrameRange,
  inputArguments,
  type MediaFacts,
  type PictureFacts,
  type Rate,
  rangeLength,
  readableFormats,
} from '@ennick/core'
import { joinedSound } from './joined-sound.ts'
import { asEnded, startEncoder } from './process.ts'

/** A file whose pictures are copied into another, with what it says of itself. */
export interface CopiedFile {
  readonly fullPath: string
  readonly facts: MediaFacts
}

/** Bytes of one sample of one channel, while sound is on its way from one file into another. */
export const bytesOfSample = 4

/** Whether sound comes out of its codec as it went in. */
export const isExact = ({ sound }: MediaFacts): boolean => sound.every(({ codec }) => codec.startsWith('pcm_'))

/** The encoder's name of a codec of sound. */
export const encoderOf = (codec: string): string => (codec === 'opus' ? 'libopus' : codec)

/** Parts the channels into streams again, as they were. */
export function streamsOf({ sound }: MediaFacts): string {
  let channel = 0
  const streams = sound.map(({ channels }, index) => {
    const of = Array.from({ length: channels }, (_, own) => `c${own}=c${channel + own}`).join('|')
    channel += channels
    return `[p${index}]pan=${channels}c|${of}[s${index}]`
  })
  return [`[1:a]asplit=${sound.length}${sound.map((_, index) => `[p${index}]`).join('')}`, ...streams].join(';')
}

/** So many bytes of a stream: what is too long is cut, what is too short is filled with silence. */
export async function* exactly(wanted: number, stream: AsyncIterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  let left = wanted
  for await (const chunk of stream) {
    // What comes behind the last is read to its end, so that the decoder ends by itself.
    const taken = chunk.subarray(0, left)
    left -= taken.length
    if (taken.length) yield taken
  }
  for (; left > 0; left -= Math.min(left, silence.length)) yield silence.subarray(0, Math.min(left, silence.length))
}
const silence = new Uint8Array(1 << 16)

/**
 * All channels of a file's sound, 32 bits a sample.
 * @param range frames of its picture, from the first; a little more than they last may come. All of it where absent
 */
export async function* decodedSound(
  path: string,
  facts: MediaFacts,
  signal: AbortSignal,
  range?: FrameRange,
): AsyncGenerator<Uint8Array> {
  const placed = `${joinedSound(facts)?.graph},aresample=async=1:first_pts=0[a]`
  const { rate, beginsMicroseconds } = facts.picture as PictureFacts
  const from = range ? secondsBefore(range.startFrame, rate) : 0
  // A frame more: what is wanted of it is counted in samples.
  const until = range ? ['-t', secondsBefore(rangeLength(range) + 1, rate).toFixed(6)] : []
  const child = startEncoder(
    [
      ...inputArguments({ kind: 'file', path, beginsMicroseconds }, rate, from),
      ...['-filter_complex', placed, '-map', '[a]', ...until, '-f', 's32le', 'pipe:1'],
    ],
    signal,
  )
  yield* child.stdout as AsyncIterable<Buffer>
  const result = await child
  signal.throwIfAborted()
  if (asEnded(result).exitCode !== 0) throw new Error(`The sound of ${path} cannot be decoded.`)
}

const secondsBefore = (frames: number, { numerator, denominator }: Rate): number => (frames * denominator) / numerator

/**
 * A hash of every decoded picture, in order.
 * @param within frames of a file whose frames stand alone, and the rate at which they do; all of them where absent
 */
export async function* pictureHashes(
  path: string,
  signal: AbortSignal,
  within?: { readonly range: FrameRange; readonly rate: Rate },
): AsyncGenerator<string, void> {
  // From the middle of the frame before: the next to be shown is the first that is wanted.
  const from = within ? beginAt(secondsBefore(within.range.startFrame - 0.5, within.rate)) : []
  const until = within ? ['-frames:v', String(rangeLength(within.range))] : []
  const child = startEncoder(
    [
      ...[...from, '-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-i', `file:${path}`],
      ...['-map', '0:V:0', '-fps_mode', 'passthrough', ...until, '-f', 'framemd5', 'pipe:1'],
    ],
    signal,
  )
  let rest = ''
  try {
    for await (const chunk of child.stdout as AsyncIterable<Buffer>) {
      const lines = (rest + chunk.toString('latin1')).split('\n')
      rest = lines.pop() as string
      // Stream, times, size and hash.
      for (const line of lines) if (!line.startsWith('#')) yield line.slice(line.lastIndexOf(',') + 1).trim()
    }
    const result = await child
    signal.throwIfAborted()
    asEnded(result)
  } finally {
    child.kill('SIGKILL')
    await child
  }
  signal.throwIfAborted()
}
