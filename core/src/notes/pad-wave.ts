/** Where a chunk of a wave file lies: its content, behind the eight bytes of its head. */
export interface WaveChunk {
  readonly id: string
  readonly at: number
  readonly bytes: number
}

/** How a wave file becomes longer by silence; everything else of it stays byte for byte. */
export interface PaddedWave {
  /** Of the file's beginning, up to the end of its sound. */
  readonly keepBytes: number
  /** Silence, with the byte that makes it even where it has to be. */
  readonly silenceBytes: number
  /** Where what is behind the sound goes on. */
  readonly goOnAt: number
  /** What the copy says of lengths, by its own places. */
  readonly patches: readonly { readonly at: number; readonly bytes: Uint8Array }[]
}

/** Format tags of which nought is silence: PCM, floating point, and those that say more in an extension. */
const silentAsZero: ReadonlySet<number> = new Set([0x0001, 0x0003, 0xfffe])
const largest = 0xffffffff
const even = (bytes: number): number => bytes + (bytes % 2)

/**
 * Plans a copy of a wave file (RIFF; RF64 by EBU Tech 3306) with silence behind its sound. Notes of its recorder stay
 * as they are, since nothing before its end changes.
 * @param chunks in order
 * @param format content of its "fmt " chunk
 * @returns a refusal, in words that go on after "because", where that cannot be done
 */
export function padWave(
  file: { readonly form: string; readonly bytes: number },
  chunks: readonly WaveChunk[],
  format: DataView,
  samples: number,
): PaddedWave | { readonly refusal: string } {
  const data = chunks.find(({ id }) => id === 'data')
  if (!data || format.byteLength < 16) return { refusal: 'its sound is not where a wave file has it' }
  const [tag, blockBytes, bits] = [format.getUint16(0, true), format.getUint16(12, true), format.getUint16(14, true)]
  if (!silentAsZero.has(tag) || bits < 16) return { refusal: 'silence is no row of noughts in its codec' }
  const end = data.at + data.bytes
  if (end > file.bytes) return { refusal: 'it is cut off: its sound is shorter than it says' }
  const added = samples * blockBytes
  const dataBytes = data.bytes + added
  const goOnAt = Math.min(file.bytes, data.at + even(data.bytes))
  const silenceBytes = added + (goOnAt > end || goOnAt < file.bytes ? dataBytes % 2 : 0)
  const total = end + silenceBytes + file.bytes - goOnAt
  const long = chunks.find(({ id }) => id === 'ds64')
  const isLong = file.form !== 'RIFF'
  if (isLong && !long) return { refusal: 'it does not say how long it is' }
  if (!isLong && total - 8 > largest) return { refusal: 'it would be longer than a wave file of its kind can be' }
  const fact = chunks.find(({ id, bytes }) => id === 'fact' && bytes >= 4)
  const known = data.bytes / blockBytes + samples
  const patches = long
    ? [wide(long.at, total - 8), wide(long.at + 8, dataBytes), wide(long.at + 16, known)]
    : [narrow(4, total - 8), narrow(data.at - 4, dataBytes)]
  if (fact && fact.at < end && !isLong) patches.push(narrow(fact.at, known))
  return { keepBytes: end, silenceBytes, goOnAt, patches }
}

function narrow(at: number, value: number): PaddedWave['patches'][number] {
  const bytes = new Uint8Array(4)
  new DataView(bytes.buffer).setUint32(0, value, true)
  return { at, bytes }
}

function wide(at: number, value: number): PaddedWave['patches'][number] {
  const bytes = new Uint8Array(8)
  new DataView(bytes.buffer).setBigUint64(0, BigInt(value), true)
  return { at, bytes }
}
