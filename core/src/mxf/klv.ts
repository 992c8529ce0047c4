import { fromHex, toHex, viewOf } from '../bytes/index.ts'

/** A file that is not the MXF it has to be, or has no room for what it is to say. */
export class MxfError extends Error {
  override readonly name = 'MxfError'
}

/** A key with its value, and where both lie: SMPTE ST 336, section 6. Offsets count from the first byte of the file. */
export interface Klv {
  /** The key's 16 bytes in hexadecimal. */
  readonly key: string
  readonly value: Uint8Array
  readonly offset: number
  readonly end: number
}

const keyBytes = 16

/** @throws MxfError when it reaches over the end of what there is */
export function readKlv(bytes: Uint8Array, offset: number): Klv {
  const first = bytes[offset + keyBytes]
  if (first === undefined) throw new MxfError('it ends within a key')
  const count = first < 0x80 ? 0 : first - 0x80
  let length = count === 0 ? first : 0
  const from = offset + keyBytes + 1 + count
  if (count > 8 || from > bytes.length) throw new MxfError('a length in it cannot be read')
  for (let index = 0; index < count; index++) length = length * 256 + (bytes[offset + keyBytes + 1 + index] as number)
  const end = from + length
  if (end > bytes.length) throw new MxfError('it ends within a value')
  return { key: toHex(bytes.subarray(offset, offset + keyBytes)), value: bytes.subarray(from, end), offset, end }
}

/** A key, its length in four bytes, and its value. */
export function writeKlv(key: string, value: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(keyBytes + 4 + value.length)
  bytes.set(fromHex(key))
  viewOf(bytes).setUint32(keyBytes, 0x83_00_00_00 + value.length)
  bytes.set(value, keyBytes + 4)
  return bytes
}
