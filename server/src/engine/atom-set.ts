import { constants } from 'node:fs'
import { type FileHandle, open } from 'node:fs/promises'
import { bytesToPrimer, headerEnd, joinAtomSet, MxfError, readAtomIdentity } from '@ennick/core'

/**
 * Makes files of one essence each, as the encoder has written them, one clip to whoever reads them. Only bytes of their
 * headers change, and none of them moves; what was written is read again.
 * @param paths the picture's first; files that nobody else has
 * @returns why they are strangers still; null when they are one
 */
export async function joinAtomFiles(paths: readonly string[]): Promise<string | null> {
  const names = paths.map((_, index) => (index === 0 ? 'V1' : `A${index}`))
  const files: FileHandle[] = []
  try {
    for (const path of paths) files.push(await open(path, constants.O_RDWR | constants.O_NOFOLLOW))
    const starts = await Promise.all(files.map(readStart))
    const parts = joinAtomSet(starts, names)
    for (const [index, { offset, bytes }] of parts.entries()) await files[index]?.write(bytes, 0, bytes.length, offset)
    return await whyStrangers(files)
  } catch (error) {
    if (error instanceof MxfError) return error.message
    throw error
  } finally {
    await Promise.all(files.map((file) => file.close()))
  }
}

async function whyStrangers(files: readonly FileHandle[]): Promise<string | null> {
  const read = (await Promise.all(files.map(readStart))).map(readAtomIdentity)
  const fileIds = read.map(({ fileId }) => fileId).join()
  const [first] = read
  const isOne = read.every(
    ({ materialId, reelId, clipName, reel, trackFileIds }) =>
      materialId === first?.materialId &&
      reelId === first.reelId &&
      clipName === first.clipName &&
      reel === first.reel &&
      trackFileIds.join() === fileIds,
  )
  return isOne ? null : 'read again, they do not name each other'
}

/** The bytes of a file up to the end of its header. */
async function readStart(file: FileHandle): Promise<Uint8Array> {
  const first = await readBytes(file, bytesToPrimer)
  return readBytes(file, headerEnd(first))
}

async function readBytes(file: FileHandle, count: number): Promise<Uint8Array> {
  const bytes = new Uint8Array(count)
  let at = 0
  while (at < count) {
    const { bytesRead } = await file.read(bytes, at, count - at, at)
    if (bytesRead === 0) break
    at += bytesRead
  }
  return bytes.subarray(0, at)
}
