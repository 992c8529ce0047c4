import type { HistoryLine } from '@ennick/contract'
import { writeDelimited } from '@ennick/core'
import { and, desc, eq, lt, sql } from 'drizzle-orm'
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

/** Which lines are read. */
interface HistoryQuery {
  /** Of some subjects alone. */
  readonly subjectIds?: readonly string[]
  /** Lines that have each of these words in them; neither case nor Unicode form counts. */
  readonly words?: string | undefined
  /** Those that were written before this one. */
  readonly before?: number | undefined
  /** So many at most; all of them if not given. */
  readonly limit?: number
}

/** Lines of a production, the newest first. */
export async function readHistory(
  database: Queryable,
  productionId: string,
  { subjectIds, words = '', before, limit }: HistoryQuery,
): Promise<HistoryLine[]> {
  const sought = words.split(/\s+/).filter(Boolean)
  const query = database
    .select()
    .from(history)
    .where(
      and(
        eq(history.productionId, productionId),
        subjectIds && anyOf(history.subjectId, subjectIds),
        before === undefined ? undefined : lt(history.id, before),
        ...sought.map((word) => sql`position(ennick_fold(${word}) in ennick_fold(${history.what})) > 0`),
      ),
    )
    .orderBy(desc(history.id))
    .$dynamic()
  const rows = await (limit === undefined ? query : query.limit(limit))
  return rows.map((row) => ({
    id: row.id,
    at: row.at.toISOString(),
    subject: row.subject,
    subjectId: row.subjectId,
    what: row.what,
  }))
}

/** Lines that were read, as a table (CSV) with the oldest first. */
export const historyTable = (lines: readonly HistoryLine[]): string =>
  writeDelimited(',', ['When', 'Of what', 'What'], lines.map((line) => [line.at, line.subject, line.what]).reverse())
