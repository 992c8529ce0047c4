import { createHash } from 'node:crypto'
import { sql } from 'drizzle-orm'
import type { Queryable } from '../store/database.ts'
import { findingFirsts } from '../store/schema.ts'
import type { CutState } from './cut-state.ts'

/** A key may be as long as a name that it holds; an index takes less. */
const markOf = (key: string): string => createHash('md5').update(key).digest('hex')

/** Rows of a cut and a mark each, as the database reads them. */
const marked = (list: readonly { readonly cutId: string; readonly mark: string }[]) => sql`unnest(
  ${sql.param(list.map(({ cutId }) => cutId))}::uuid[], ${sql.param(list.map(({ mark }) => mark))}::text[])
  as marked (cut_id, mark)`

/**
 * Since when each finding of some cuts is known, by cut and key. What is shown for the first time is noted, and what is
 * there no more is forgotten.
 */
export async function firstSeen(
  database: Queryable,
  states: readonly CutState[],
): Promise<ReadonlyMap<string, ReadonlyMap<string, Date>>> {
  const cutIds = sql.param(states.map(({ row }) => row.id))
  const { rows } = await database.execute<{ cut_id: string; finding_mark: string; seen_at: string }>(
    sql`select cut_id, finding_mark, seen_at from ${findingFirsts} where cut_id = any(${cutIds}::uuid[])`,
  )
  const over = new Map(rows.map((row) => [`${row.cut_id} ${row.finding_mark}`, row]))
  const fresh: { cutId: string; mark: string }[] = []
  const now = new Date()
  const since = new Map<string, ReadonlyMap<string, Date>>()
  for (const { row, findings } of states) {
    const ofCut = new Map<string, Date>()
    for (const { key } of findings) {
      const mark = markOf(key)
      const known = over.get(`${row.id} ${mark}`)
      if (known) over.delete(`${row.id} ${mark}`)
      else fresh.push({ cutId: row.id, mark })
      ofCut.set(key, known ? new Date(known.seen_at) : now)
    }
    since.set(row.id, ofCut)
  }
  if (fresh.length)
    await database.execute(sql`
      insert into ${findingFirsts} (cut_id, finding_mark, seen_at)
      select cuts.id, marked.mark, ${now.toISOString()}::timestamptz from ${marked(fresh)}
      join cuts on cuts.id = marked.cut_id on conflict do nothing`)
  if (over.size)
    await database.execute(sql`
      delete from ${findingFirsts}
      using ${marked([...over.values()].map((row) => ({ cutId: row.cut_id, mark: row.finding_mark })))}
      where ${findingFirsts.cutId} = marked.cut_id and ${findingFirsts.findingMark} = marked.mark`)
  return since
}

/**
 * What was known of one version of a cut is not new in the next.
 * @param keys of findings of the one, with the keys that the same ones have in the other
 */
export async function carryFirstSeen(
  transaction: Queryable,
  fromCutId: string,
  toCutId: string,
  keys: readonly (readonly [was: string, is: string])[],
): Promise<void> {
  await transaction.execute(sql`
    insert into ${findingFirsts} (cut_id, finding_mark, seen_at)
    select ${toCutId}, moved.is_now, min(first.seen_at)
    from unnest(${sql.param(keys.map(([was]) => markOf(was)))}::text[],
      ${sql.param(keys.map(([, is]) => markOf(is)))}::text[]) as moved (was, is_now)
    join ${findingFirsts} as first on first.cut_id = ${fromCutId} and first.finding_mark = moved.was
    group by moved.is_now`)
}

const dayMillis = 24 * 60 * 60 * 1000

/** Whether something that is known since a moment came within the last day. */
export const isNew = (since: Date | undefined): boolean =>
  since !== undefined && Date.now() - since.getTime() < dayMillis
