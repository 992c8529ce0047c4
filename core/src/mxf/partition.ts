import { toHex, viewOf } from '../bytes/index.ts'
import { MxfError, readKlv } from './klv.ts'

/** What a partition pack says of where it and others lie, in bytes of the file (SMPTE ST 377-1, table 5). */
export interface Partition {
  readonly at: number
  readonly before: number
  /** Where the last one lies; nought where that is not said. */
  readonly footer: number
  readonly headerBytes: number
  readonly indexBytes: number
}

/** So many bytes hold a partition pack that contains a few kinds of essence. */
export const partitionBytes = 512

const aPartition = /^060e2b34020501..0d01020101(02|03|04)/

/**
 * Reads a partition pack.
 * @param bytes of the file, from the first of its key; `partitionBytes` or what there is
 * @returns null where there is none
 */
export function readPartition(bytes: Uint8Array): Partition | null {
  try {
    if (bytes.length < 16 || !aPartition.test(toHex(bytes.subarray(0, 16)))) return null
    const { value } = readKlv(bytes, 0)
    if (value.length < 88) return null
    const at = (byte: number): number => Number(viewOf(value).getBigUint64(byte))
    return { at: at(8), before: at(16), footer: at(24), headerBytes: at(32), indexBytes: at(40) }
  } catch (error) {
    if (error instanceof MxfError) return null
    throw error
  }
}
