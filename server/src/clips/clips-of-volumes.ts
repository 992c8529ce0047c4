import { eq, sql } from 'drizzle-orm'
import { clipIndex } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { refreshIndex } from './index-refresh.ts'

/** Of each volume, how many of its clips are nowhere else, and how many are used. */
export async function countClipsOfVolumes(
  database: Database,
  productionId: string,
): Promise<ReadonlyMap<string, { onlyHere: number; used: number }>> {
  await refreshIndex(database, productionId)
  const rows = await database
    .select({
      volumeId: clipIndex.volumeId,
      onlyHere: sql<number>`count(*) filter (where ${clipIndex.notice} like '%only on a card%')::int`,
      used: sql<number>`count(*) filter (where ${clipIndex.uses} > 0)::int`,
    })
    .from(clipIndex)
    .where(eq(clipIndex.productionId, productionId))
    .groupBy(clipIndex.volumeId)
  return new Map(rows.map((row) => [row.volumeId, row]))
}
