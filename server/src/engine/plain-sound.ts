import { type FileHandle, open } from 'node:fs/promises'
import type { Extent } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'
import type { HeardFiles } from './decode-sound.ts'
import { soundExtents } from './movie-sound.ts'
import { readWave } from './riff.ts'
import { type SampleFormat, SampleReader, sampleFormatOf } from './sample-format.ts'

/** Sound that lies in its file sample by sample, so that nothing has to be decoded. */
export interface PlainSound {
  readonly path: string
  readonly format: SampleFormat
  readonly channels: number
  readonly sampleRate: number
  /** From the first frame of its clip to the end. */
  readonly samples: number
  /** Where it lies, in the order of time: whole samples of all channels in each. */
  readonly extents: readonly Extent[]
}

/**
 * What is plain of a clip: a wave file, or a movie with one track of samples that are not packed, which begins with its
 * pictures and has as much of it as is known. Null for all else, which has to be decoded.
 */
export async function plainSoundOf({ files }: HeardFiles): Promise<PlainSound | null> {
  const [file] = files
  if (!file || files.length > 1 || file.sequence !== null) return null
  const { container, picture, sound } = file.facts
  const [stream] = sound
  const format = stream ? sampleFormatOf(stream.codec) : null
  if (!stream || !format || sound.length > 1 || stream.samples === null || picture?.beginsMicroseconds) return null
  const { channels, sampleRate, samples } = stream
  const plain = { path: file.fullPath, format, channels, sampleRate, samples }
  const handle = await open(file.fullPath, 'r').catch(() => null)
  if (!handle) return null
  try {
    const found =
      container === 'wav'
        ? waveExtents(handle, plain)
        : container === 'mov'
          ? soundExtents(handle, bytesOf(plain))
          : null
    const extents = await found
    const bytes = extents?.reduce((sum, extent) => sum + extent.bytes, 0)
    return extents && bytes === samples * bytesOf(plain) ? { ...plain, extents } : null
  } finally {
    await handle.close()
  }
}

type KnownSound = Omit<PlainSound, 'extents'>

/** Of one sample of all channels. */
const bytesOf = ({ channels, format }: KnownSound): number => channels * format.bytes

/** Where the sound of a wave file lies; null where its chunks do not say what is known of it. */
async function waveExtents(file: FileHandle, plain: KnownSound): Promise<readonly Extent[] | null> {
  const { chunks, format } = await readWave(file)
  const data = chunks.find(({ id }) => id === 'data')
  const { size } = await file.stat()
  const isAsKnown =
    format.byteLength >= 16 &&
    format.getUint16(12, true) === bytesOf(plain) &&
    format.getUint32(4, true) === plain.sampleRate
  if (!data || !isAsKnown || data.at + data.bytes > size) return null
  return [{ at: data.at, bytes: data.bytes - (data.bytes % bytesOf(plain)) }]
}

interface Stretch {
  readonly firstSample: number
  readonly samples: number
}

/**
 * Stretches of it.
 * @returns of each the samples of each channel; fewer where it ends
 */
export async function readStretches(plain: PlainSound, stretches: readonly Stretch[]): Promise<Float32Array[][]> {
  const file = await open(plain.path, 'r')
  try {
    const read: Float32Array[][] = []
    for (const stretch of stretches) read.push(await readStretch(file, plain, stretch))
    return read
  } finally {
    await file.close()
  }
}

async function readStretch(
  file: FileHandle,
  plain: PlainSound,
  { firstSample, samples }: Stretch,
): Promise<Float32Array[]> {
  const [from, to] = [firstSample * bytesOf(plain), (firstSample + samples) * bytesOf(plain)]
  const pieces: Buffer[] = []
  let begins = 0
  for (const { at, bytes } of plain.extents) {
    const [start, end] = [Math.max(from, begins), Math.min(to, begins + bytes)]
    if (start < end) pieces.push(await readAt(file, at + start - begins, end - start))
    begins += bytes
  }
  const bytes = Buffer.concat(pieces)
  const reader = new SampleReader(plain.channels, plain.format)
  return reader.read(bytes.subarray(0, bytes.length - (bytes.length % bytesOf(plain))))
}
