import { sql } from 'drizzle-orm'
import type { Queryable } from '../store/database.ts'
import { jobs } from '../store/schema.ts'

/** Frames a second that recipes were made with on this system lately, by the recipe's id. */
export async function makeSpeeds(database: Queryable): Promise<ReadonlyMap<string, number>> {
  const speed = sql<number>`avg((${jobs.progress}->>'unitsPerSecond')::double precision)`
  const rows = await database
    .select({ recipeId: sql<string>`${jobs.input}->>'recipeId'`, speed })
    .from(jobs)
    .where(
      sql`${jobs.state} = 'done' and ${jobs.input}->>'kind' = 'make' and ${jobs.input}->'also' is null and ${jobs.endedAt} > now() - interval '30 days' and ${jobs.progress}->>'unitsPerSecond' is not null and ${jobs.progress}->>'unit' = 'frames'`,
    )
    .groupBy(sql`1`)
  return new Map(rows.map((row) => [row.recipeId, Number(row.speed)]))
}
