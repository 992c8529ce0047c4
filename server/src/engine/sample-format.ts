/** How samples lie in their bytes. */
export interface SampleFormat {
  readonly bytes: 2 | 3 | 4
  readonly isFloat: boolean
  readonly isBigEndian: boolean
}

/** The format of a codec as the probe calls it; null for one that has to be decoded. */
export function sampleFormatOf(codec: string): SampleFormat | null {
  const [, kind, bits, order] = /^pcm_([sf])(16|24|32)(le|be)$/.exec(codec) ?? []
  if (!kind || (kind === 'f' && bits !== '32')) return null
  return { bytes: (Number(bits) / 8) as 2 | 3 | 4, isFloat: kind === 'f', isBigEndian: order === 'be' }
}

/** Reads samples out of bytes, many times one after another into the same memory: fresh memory costs more than reading. */
export class SampleReader {
  readonly #channels: number
  readonly #format: SampleFormat
  #memory: Float32Array[] = []

  constructor(channels: number, format: SampleFormat) {
    this.#channels = channels
    this.#format = format
  }

  /**
   * The samples of each channel, from -1 to 1, of whole frames that lie channel beside channel.
   * @param bytes of whole frames
   * @returns what holds until the next are read
   */
  read(bytes: Buffer): Float32Array[] {
    const [format, channels] = [this.#format, this.#channels]
    const values = valuesOf(format.isBigEndian ? turnedRound(bytes, format.bytes) : bytes, format)
    const count = bytes.length / (channels * format.bytes)
    if (count > (this.#memory[0]?.length ?? 0))
      this.#memory = Array.from({ length: channels }, () => new Float32Array(count))
    return this.#memory.map((memory, channel) => {
      const samples = memory.subarray(0, count)
      if (values instanceof Uint8Array) readThreeBytes(values, channel * 3, channels * 3, samples)
      else if (values instanceof Int16Array) readWholes(values, channel, channels, 1 / 32_768, samples)
      else if (values instanceof Int32Array) readWholes(values, channel, channels, 1 / 2_147_483_648, samples)
      else readWholes(values, channel, channels, 1, samples)
      return samples
    })
  }
}

/** Numbers as they lie, where one may begin there; else a copy of them. Of three bytes there is no kind of number. */
function valuesOf(bytes: Buffer, { bytes: size, isFloat }: SampleFormat) {
  const { buffer, byteOffset: from } =
    bytes.byteOffset % 4 === 0 || size === 3 ? bytes : Uint8Array.prototype.slice.call(bytes)
  if (size === 3) return new Uint8Array(buffer, from, bytes.length)
  if (size === 2) return new Int16Array(buffer, from, bytes.length / 2)
  return isFloat ? new Float32Array(buffer, from, bytes.length / 4) : new Int32Array(buffer, from, bytes.length / 4)
}

/** A copy in which each sample's bytes are in the other order. */
function turnedRound(bytes: Buffer, size: SampleFormat['bytes']): Buffer {
  const turned = Buffer.from(bytes)
  if (size === 2) return turned.swap16()
  if (size === 4) return turned.swap32()
  for (let at = 0; at < turned.length; at += 3) {
    turned[at] = bytes[at + 2] as number
    turned[at + 2] = bytes[at] as number
  }
  return turned
}

// Hours of samples go through these two.

function readThreeBytes(values: Uint8Array, from: number, step: number, samples: Float32Array): void {
  const { length } = samples
  for (let index = 0, at = from; index < length; index++, at += step) {
    const upper = ((values[at + 2] as number) << 24) | ((values[at + 1] as number) << 16)
    samples[index] = (upper | ((values[at] as number) << 8)) * (1 / 2_147_483_648)
  }
}

type Wholes = Int16Array | Int32Array | Float32Array

function readWholes(values: Wholes, from: number, step: number, part: number, samples: Float32Array): void {
  const { length } = samples
  for (let index = 0, at = from; index < length; index++, at += step) samples[index] = (values[at] as number) * part
}
