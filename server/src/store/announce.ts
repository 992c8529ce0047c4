import type { ChangeTopic } from '@ennick/contract'
import { sql } from 'drizzle-orm'
import type { Queryable } from './database.ts'

export const changeChannel = 'ennick_change'

/** Tells every server, and through them every browser, that something of a production has changed. */
export async function announce(database: Queryable, productionId: string | null, ...topics: ChangeTopic[]): Promise<void> {
  for (const topic of topics) await database.execute(sql`select pg_notify(${changeChannel}, ${JSON.stringify({ topic, productionId })})`)
}
