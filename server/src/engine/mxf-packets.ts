import type { FileHandle } from 'node:fs/promises'
import { partitionBytes, readPartition } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'

/** What the first packets of an MXF file are. */
export interface MxfPackets {
  /** Where its first picture lies; null where none is among them. */
  readonly firstPicture: { readonly at: number; readonly bytes: number } | null
  /** Of its pictures, in bytes. */
  readonly pictures: readonly number[]
}

/** The key of an element of essence (SMPTE ST 379-2, 7.1), behind which stands of which kind it is. */
const essenceElement = '060e2b34010201010d010301'
const [pictureKinds, otherKinds] = [
  [0x05, 0x15],
  [0x06, 0x16, 0x07, 0x17],
]
const keyBytes = 16
/** Of index tables, partitions and filler between them there are a few. */
const mostElements = 1000

/**
 * The first elements of essence behind a header (SMPTE ST 377-1, 6): pictures, sound and data.
 * @param atOnce how many of them
 * @returns null where what stands there cannot be read
 */
export async function firstMxfPackets(
  file: FileHandle,
  { from, sizeBytes, atOnce }: { from: number; sizeBytes: number; atOnce: number },
): Promise<MxfPackets | null> {
  const pictures: number[] = []
  let firstPicture: MxfPackets['firstPicture'] = null
  let [at, packets] = [from, 0]
  for (let count = 0; packets < atOnce && at < sizeBytes; count++) {
    const head = await readAt(file, at, keyBytes + 9)
    const told = head[keyBytes] ?? 0xff
    const more = told < 0x80 ? 0 : told - 0x80
    if (more > 8 || head.length < keyBytes + 1 + more || count === mostElements) return null
    const bytes = more === 0 ? told : Number(BigInt(`0x${head.toString('hex', keyBytes + 1, keyBytes + 1 + more)}`))
    const value = at + keyBytes + 1 + more
    if (value + bytes > sizeBytes) return null
    const kind = head.toString('hex', 0, 12) === essenceElement ? (head[12] as number) : 0
    if (pictureKinds.includes(kind)) {
      pictures.push(bytes)
      firstPicture ??= { at: value, bytes }
    }
    if (pictureKinds.includes(kind) || otherKinds.includes(kind)) packets++
    at = value + bytes
  }
  return { firstPicture, pictures }
}

/** An hour has some hundreds. */
const mostPartitions = 2000

/** Whether every partition lies where it says, and what is before each, from the last to the first. */
export async function arePartitionsWhole(file: FileHandle, sizeBytes: number): Promise<boolean> {
  const readOne = async (at: number) => readPartition(await readAt(file, at, partitionBytes))
  const first = await readOne(0)
  if (first?.at !== 0 || first.before !== 0 || first.headerBytes + first.indexBytes > sizeBytes) return false
  let at = first.footer
  for (let count = 0; at > 0; count++) {
    const partition = await readOne(at)
    if (!partition || partition.at !== at || partition.before >= at || count === mostPartitions) return false
    if (at + partition.headerBytes + partition.indexBytes > sizeBytes) return false
    at = partition.before
  }
  return true
}
