import { boxesOf, onlyBox } from './boxes.ts'
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
export function lieApart(tables: readonly SampleTable[], sizeBytes: number): boolean {
  const extents = tables.flatMap(stretchesOf).sort((a, b) => a.at - b.at)
  return extents.every(({ at, bytes }, index) => at + bytes <= (extents[index + 1]?.at ?? sizeBytes))
}

/**
 * Where sound of samples that are not packed lies.
 * @param content of the table of samples of its track (ISO/IEC 14496-12, 8.5.1)
 * @param frameBytes of one sample of all channels
 * @returns null where the table contradicts itself, or describes several kinds of samples
 */
export function plainSoundStretches(content: Uint8Array, frameBytes: number): Extent[] | null {
  const boxes = boxesOf(content)
  const table = boxes && readDescription(onlyBox(boxes, 'stsd')) && readSampleTable(boxes, frameBytes)
  return table ? stretchesOf(table) : null
}
