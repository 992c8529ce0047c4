import type { BigIntStats } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import { xxh64 } from '@node-rs/xxhash'

const sampleBytes = 65_536

/** The size and time of a file, as a scan compares them. */
export interface FileStamp {
  readonly sizeBytes: number
  readonly mtimeMicros: number
  /** Of numbered stills: a mark of the size and time of each. */
  readonly eachStamp?: string | null
}

export const stampOfStats = ({ size, mtimeNs }: Pick<BigIntStats, 'size' | 'mtimeNs'>): FileStamp => ({
  sizeBytes: Number(size),
  mtimeMicros: Number(mtimeNs / 1000n),
})

/**
 * A quick fingerprint: xxHash64 over the size and the first, middle and last 64 KiB. It tells whether two files are
 * the same recording without reading all of either; it is no proof of every byte.
 */
export async function fingerprint(path: string, sizeBytes: number): Promise<string> {
  const file = await open(path, 'r')
  try {
    return await fingerprintOf(file, sizeBytes)
  } finally {
    await file.close()
  }
}

/** The same of a file that is open. */
export async function fingerprintOf(file: FileHandle, sizeBytes: number): Promise<string> {
  let hash = xxh64(Buffer.from(String(sizeBytes)))
  const starts = new Set([
    0,
    Math.max(0, Math.floor(sizeBytes / 2) - sampleBytes / 2),
    Math.max(0, sizeBytes - sampleBytes),
  ])
  for (const start of starts) hash = xxh64(await readAt(file, start, sampleBytes), hash)
  return hash.toString(16).padStart(16, '0')
}

/** Reads up to a number of bytes from a place; less only at the end of the file, and behind it none. */
export async function readAt(file: FileHandle, start: number, bytes: number): Promise<Buffer> {
  // A header that was harmed names places that no file has: Node.js would read from somewhere else, or refuse.
  if (!(start >= 0 && start + bytes <= Number.MAX_SAFE_INTEGER)) return Buffer.alloc(0)
  const buffer = Buffer.alloc(bytes)
  let filled = 0
  while (filled < bytes) {
    const { bytesRead } = await file.read(buffer, filled, bytes - filled, start + filled)
    if (bytesRead === 0) break
    filled += bytesRead
  }
  return buffer.subarray(0, filled)
}
