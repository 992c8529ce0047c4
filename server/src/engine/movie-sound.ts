import type { FileHandle } from 'node:fs/promises'
import { type Extent, plainSoundExtents } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'
import { firstBox } from './movie-boxes.ts'

/** Pieces of more than a day of sound, and those of its pictures. */
const mostHeaderBytes = 16 * 1024 * 1024

/** Where the sound of a movie lies; see `plainSoundExtents`. Null also where it does not lie in the file. */
export async function soundExtents(file: FileHandle, frameBytes: number): Promise<readonly Extent[] | null> {
  const { size } = await file.stat()
  const movie = await firstBox(file, { from: 0, to: size }, 'moov')
  if (!movie || movie.to - movie.from > mostHeaderBytes) return null
  const extents = plainSoundExtents(await readAt(file, movie.from, movie.to - movie.from), frameBytes)
  return extents?.every(({ at, bytes }) => at + bytes <= size) ? extents : null
}
