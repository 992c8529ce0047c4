import type { FileHandle } from 'node:fs/promises'
import { readAt } from '../disk/fingerprint.ts'
import { type Box, boxes, firstBox } from './movie-boxes.ts'

/** Bytes of a file. */
export interface Extent {
  readonly at: number
  readonly bytes: number
}

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
  const extents = await extentsOf(file, table, frameBytes)
  return extents?.every(({ at, bytes }) => at + bytes <= size) ? extents : null
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

async function extentsOf(file: FileHandle, table: Box, frameBytes: number): Promise<Extent[] | null> {
  const read = async (type: string): Promise<Buffer | null> => {
    const box = await firstBox(file, table, type)
    return box && box.to - box.from <= mostTableBytes ? readAt(file, box.from, box.to - box.from) : null
  }
  const [kinds, sizes, runs, offsets, longOffsets] = [
    ...[await read('stsd'), await read('stsz'), await read('stsc')],
    ...[await read('stco'), await read('co64')],
  ]
  const places = offsets ?? longOffsets
  if (!kinds || !sizes || !runs || !places || sizes.length < 12 || kinds.length < 8) return null
  if (kinds.readUInt32BE(4) !== 1 || runs.length < 8 || places.length < 8) return null
  // Of samples that are not packed the table says one byte each, or how many they are.
  const [told, count] = [sizes.readUInt32BE(4), sizes.readUInt32BE(8)]
  if (told !== 1 && told !== frameBytes) return null
  const [runCount, chunkCount, width] = [runs.readUInt32BE(4), places.readUInt32BE(4), offsets ? 4 : 8]
  if (runs.length < 8 + 12 * runCount || places.length < 8 + width * chunkCount) return null
  const extents: { at: number; bytes: number }[] = []
  let left = count
  for (let run = 0; run < runCount; run++) {
    const first = runs.readUInt32BE(8 + 12 * run)
    const next = run + 1 < runCount ? runs.readUInt32BE(20 + 12 * run) : chunkCount + 1
    const samples = runs.readUInt32BE(12 + 12 * run)
    if (first < 1 || next <= first || next > chunkCount + 1 || (run === 0 && first !== 1)) return null
    for (let chunk = first; chunk < next && left > 0; chunk++) {
      const byte = 8 + width * (chunk - 1)
      const at = offsets ? places.readUInt32BE(byte) : Number(places.readBigUInt64BE(byte))
      const bytes = Math.min(samples, left) * frameBytes
      left -= Math.min(samples, left)
      const last = extents.at(-1)
      if (last && last.at + last.bytes === at) last.bytes += bytes
      else extents.push({ at, bytes })
    }
  }
  return left === 0 ? extents : null
}
