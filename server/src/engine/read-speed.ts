import { constants } from 'node:fs'
import { open } from 'node:fs/promises'

/** Enough for the start to matter little, and short enough to be done beside other work. */
const sampleBytes = 64 * 1024 * 1024
const leastBytes = 8 * 1024 * 1024
const pieceBytes = 1024 * 1024

/**
 * Reads a piece out of the middle of a file from the disk itself, past what the system remembers of it.
 * @returns bytes a second; null for a file that is too short to tell, or where the file system knows no such reading
 */
export async function measureRead(path: string, sizeBytes: number, signal: AbortSignal): Promise<number | null> {
  if (sizeBytes < leastBytes || constants.O_DIRECT === undefined) return null
  const file = await open(path, constants.O_RDONLY | constants.O_DIRECT).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'EINVAL') return null
    throw error
  })
  if (!file) return null
  try {
    // Memory that begins at a page, as such reading needs it.
    const piece = Buffer.from(new WebAssembly.Memory({ initial: pieceBytes / 65_536 }).buffer)
    const from = Math.floor(sizeBytes / 3 / pieceBytes) * pieceBytes
    const startedAt = performance.now()
    let read = 0
    while (read < sampleBytes) {
      signal.throwIfAborted()
      const { bytesRead } = await file.read(piece, 0, pieceBytes, from + read)
      if (bytesRead === 0) break
      read += bytesRead
    }
    const seconds = (performance.now() - startedAt) / 1000
    return read > 0 && seconds > 0 ? read / seconds : null
  } finally {
    await file.close()
  }
}
