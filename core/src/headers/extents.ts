import { viewOf } from '../bytes/index.ts'
import { type Box, boxesOf, latin1, onlyBox } from './boxes.ts'
import { readDescription } from './sample-description.ts'
import { type Extent, readSampleTable, type SampleTable } from './sample-table.ts'

/** The stretches of the file that a track's samples lie in, in the order of time; what goes on is one. */
function stretchesOf(table: SampleTable): Extent[] {
  const stretches: { at: number; bytes: number }[] = []
  for (const extent of table.extents()) {
    const last = stretches.at(-1)
    if (last && last.at + last.bytes === extent.at) last.bytes += extent.bytes
    else stretches.push({ ...extent })
  }
  return stretches
}

/**
 * Whether all samples of all tracks lie in the file, and none where another lies: a table that was harmed would have
 * something else read for them.
 */
export function lieApart(tracks: readonly { readonly table: SampleTable }[], sizeBytes: number): boolean {
  const extents = tracks.flatMap(({ table }) => stretchesOf(table)).sort((a, b) => a.at - b.at)
  return extents.every(({ at, bytes }, index) => at + bytes <= (extents[index + 1]?.at ?? sizeBytes))
}

/** Whether the one data reference says that the media lie in the file itself (ISO/IEC 14496-12, 8.7.2). */
export function isInThisFile(information: readonly Box[]): boolean {
  const data = boxesOf(onlyBox(information, 'dinf') ?? none)
  const references = data && onlyBox(data, 'dref')
  if (!references || references.length < 20) return false
  const view = viewOf(references)
  return view.getUint32(4) === 1 && (view.getUint32(16) & 1) === 1
}

const none = new Uint8Array()
const inside = (boxes: readonly Box[] | null, type: string): Box[] | null =>
  boxes && boxesOf(onlyBox(boxes, type) ?? none)

/**
 * Where the sound of a movie lies that has one track of it, of samples that are not packed (ISO/IEC 14496-12, 8.6.6 and
 * 8.7; the QuickTime file format, “Sound Media”).
 * @param movie the content of its movie box
 * @param frameBytes of one sample of all channels
 * @returns in the order of time, and null where it is not as plain as that: where an edit list leaves out or delays
 *   some of it, where it lies in fragments, in other files, or in tables that contradict themselves
 */
export function plainSoundExtents(movie: Uint8Array, frameBytes: number): Extent[] | null {
  const boxes = boxesOf(movie)
  if (!boxes || boxes.some(({ type }) => type === 'mvex')) return null
  const tracks = boxes.filter(({ type }) => type === 'trak').map(({ content }) => boxesOf(content))
  const [only, ...others] = tracks.filter((track) => handlerOf(inside(track, 'mdia')) === 'soun')
  if (!only || others.length || !beginsAtOnce(only)) return null
  const information = inside(inside(only, 'mdia'), 'minf')
  const tables = inside(information, 'stbl')
  if (!information || !tables || !isInThisFile(information) || !readDescription(onlyBox(tables, 'stsd'))) return null
  const table = readSampleTable(tables, frameBytes)
  return table && stretchesOf(table)
}

const handlerOf = (media: readonly Box[] | null): string =>
  latin1((media && onlyBox(media, 'hdlr'))?.subarray(8, 12) ?? none)

/** Whether it is shown from its first sample on, at once; what is cut off at its end is counted by whoever asks. */
function beginsAtOnce(track: readonly Box[]): boolean {
  const list = onlyBox(inside(track, 'edts') ?? [], 'elst')
  if (!list) return track.every(({ type }) => type !== 'edts')
  const view = viewOf(list)
  if (list.length < 20 || view.getUint32(4) !== 1) return false
  return list[0] === 1 ? list.length >= 28 && view.getBigInt64(16) === 0n : view.getInt32(12) === 0
}
