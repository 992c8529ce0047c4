import { sql } from 'drizzle-orm'
import type { Queryable } from '../store/database.ts'

/** Pairs that a mend which can be taken back has made, or has set aside. */
export async function pairsOfMends(database: Queryable, productionId: string): Promise<Set<string>> {
  const { rows } = await database.execute<{ id: string }>(sql`
    select distinct linked.id from mends
      cross join lateral jsonb_array_elements(mends.changes) as change(link)
      cross join lateral (values (change.link->>'before'), (change.link->>'after')) as linked(id)
    where mends.production_id = ${productionId} and mends.state in ('waiting', 'done') and linked.id is not null`)
  return new Set(rows.map(({ id }) => id))
}

/** Why nothing may be done to a pair of such a mend. */
export const mendRests = 'A mend rests on it: take that back first.'
