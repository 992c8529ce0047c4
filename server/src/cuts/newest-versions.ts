import type { cuts } from '../store/schema.ts'

type Version = Pick<typeof cuts.$inferSelect, 'lineId' | 'version'>

/** The newest version of each line among some cuts. */
export function newestVersions(rows: readonly Version[]): Map<string, number> {
  const newest = new Map<string, number>()
  for (const { lineId, version } of rows) newest.set(lineId, Math.max(version, newest.get(lineId) ?? 0))
  return newest
}

/** What counts when it is asked what a production needs: an older version of a cut is kept for comparing. */
export function newestOf<Row extends Version>(rows: readonly Row[]): Row[] {
  const newest = newestVersions(rows)
  return rows.filter(({ lineId, version }) => newest.get(lineId) === version)
}
