import type { HistoryLine } from '@ennick/contract'
import { and, desc, eq, sql } from 'drizzle-orm'
import { anyOf } from './any-of.ts'
import type { Queryable } from './database.ts'
import { history } from './schema.ts'

/** Leaves a line of history. */
export async function writeHistory(
  database: Queryable,
  productionId: string,
  subject: string,
  subjectId: string | null,
  what: string,
): Promise<void> {
  await database.insert(history).values({ productionId, subject, subjectId, what })
}

/** Leaves many lines of history at once. */
export async function writeLines(
  database: Queryable,
  productionId: string,
  lines: readonly { readonly subject: string; readonly subjectId: string | null; readonly what: string }[],
): Promise<void> {
  if (lines.length === 0) return
  await database.execute(sql`
    insert into history (production_id, subject, subject_id, what)
    select ${productionId}, subject, subject_id, what from unnest(
      ${sql.param(lines.map(({ subject }) => subject))}::text[],
      ${sql.param(lines.map(({ subjectId }) => subjectId))}::text[],
      ${sql.param(lines.map(({ what }) => what))}::text[]) with ordinality as line (subject, subject_id, what, number)
    order by number`)
}

/** The newest lines of a production, or of some of its subjects. */
export async function readHistory(
  database: Queryable,
  productionId: string,
  subjectIds: readonly string[] | null = null,
  limit = 200,
): Promise<HistoryLine[]> {
  const rows = await database
    .select()
    .from(history)
    .where(and(eq(history.productionId, productionId), subjectIds ? anyOf(history.subjectId, subjectIds) : undefined))
    .orderBy(desc(history.id))
    .limit(limit)
  return rows.map((row) => ({
    id: row.id,
    at: row.at.toISOString(),
    subject: row.subject,
    subjectId: row.subjectId,
    what: row.what,
  }))
}
