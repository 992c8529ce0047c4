import type { Extent, SampleTable } from './sample-table.ts'

/**
 * Whether all samples of all tracks lie in the file, and none where another lies: a table that was harmed would have
 * something else read for them.
 */
export function lieApart(tables: readonly SampleTable[], sizeBytes: number): boolean {
  const extents: { from: number; to: number }[] = []
  for (const table of tables) {
    let last: Extent | null = null
    for (const extent of table.extents()) {
      const before = extents.at(-1)
      if (last && before && last.to === extent.from) before.to = extent.to
      else extents.push({ ...extent })
      last = extent
    }
  }
  extents.sort((a, b) => a.from - b.from)
  return extents.every(({ from, to }, index) => to <= (extents[index + 1]?.from ?? sizeBytes) && from <= to)
}
