import type { FileHandle } from 'node:fs/promises'
import { type Extent, plainSoundStretches } from '@ennick/core'
import { readAt } from '../disk/fingerprint.ts'
import { type Box, boxes, firstBox } from './movie-boxes.ts'

/** A million pieces: more than a day of sound lies in. */
const mostTableBytes = 8 * 1024 * 1024

/**
 * Where the sound of a movie lies that has one track of it, of samples that are not packed (ISO/IEC 14496-12, 8.6.6 and
 * 8.7; the QuickTime file format, “Sound Media”).
 * @param frameBytes of one sample of all channels
 * @returns in the order of time, and null where it is not as plain as that: where an edit list leaves out or delays
 *   some of it, where it lies in fragments, in other files, or in tables that contradict themselves
 */
export async function soundExtents(file: FileHandle, frameBytes: number): Promise<readonly Extent[] | null> {
  const { size } = await file.stat()
  const movie = await firstBox(file, { from: 0, to: size }, 'moov')
  if (!movie || (await firstBox(file, movie, 'mvex'))) return null
  const tracks: { track: Box; media: Box }[] = []
  for await (const track of boxes(file, movie.from, movie.to, 'trak')) {
    const media = await firstBox(file, track, 'mdia')
    const handler = media && (await firstBox(file, media, 'hdlr'))
    if (!media || !handler) return null
    if ((await readAt(file, handler.from + 8, 4)).toString('latin1') === 'soun') tracks.push({ track, media })
  }
  const [only] = tracks
  if (!only || tracks.length > 1 || !(await beginsAtOnce(file, only.track))) return null
  const information = await firstBox(file, only.media, 'minf')
  const table = information && (await firstBox(file, information, 'stbl'))
  if (!information || !table || !(await isInThisFile(file, information))) return null
  if (table.to - table.from > mostTableBytes) return null
  const stretches = plainSoundStretches(await readAt(file, table.from, table.to - table.from), frameBytes)
  return stretches?.every(({ at, bytes }) => at + bytes <= size) ? stretches : null
}

/** Whether it is shown from its first sample on, at once; what is cut off at its end is counted by whoever asks. */
async function beginsAtOnce(file: FileHandle, track: Box): Promise<boolean> {
  const edits = await firstBox(file, track, 'edts')
  const list = edits && (await firstBox(file, edits, 'elst'))
  if (!list) return edits === null
  const entries = await readAt(file, list.from, Math.min(list.to - list.from, 28))
  if (entries.length < 20 || entries.readUInt32BE(4) !== 1) return false
  if (entries[0] !== 1) return entries.readInt32BE(12) === 0
  return entries.length === 28 && entries.readBigInt64BE(16) === 0n
}

/** Whether the one data reference says that the media lie in the file itself. */
async function isInThisFile(file: FileHandle, information: Box): Promise<boolean> {
  const data = await firstBox(file, information, 'dinf')
  const references = data && (await firstBox(file, data, 'dref'))
  if (!references) return false
  const bytes = await readAt(file, references.from, Math.min(references.to - references.from, 20))
  const selfContained = 1
  return (
    bytes.length === 20 && bytes.readUInt32BE(4) === 1 && (bytes.readUInt32BE(16) & selfContained) === selfContained
  )
}
