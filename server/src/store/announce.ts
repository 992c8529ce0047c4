import type { ChangeTopic } from '@ennick/contract'
import { sql } from 'drizzle-orm'
import { clipStaleness } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'

export const changeChannel = 'ennick_change'

/** Topics after which any clip's row in the index may be out of date. */
const touchingClips: ReadonlySet<ChangeTopic> = new Set(['clips', 'pairs', 'cuts'])

/** Tells every server, and through them every browser, that something of a production has changed. */
export async function announce(
  database: Queryable,
  productionId: string | null,
  ...topics: ChangeTopic[]
): Promise<void> {
  if (productionId !== null && topics.some((topic) => touchingClips.has(topic)))
    await database.insert(clipStaleness).values({ productionId })
  await tell(database, productionId, topics)
}

/** The same for a change that touches these clips alone: their rows are written anew, and no others. */
export async function announceClips(
  database: Queryable,
  productionId: string,
  clipIds: readonly string[],
  ...topics: ChangeTopic[]
): Promise<void> {
  for (let index = 0; index < clipIds.length; index += 5000)
    await database
      .insert(clipStaleness)
      .values(clipIds.slice(index, index + 5000).map((clipId) => ({ productionId, clipId })))
  await tell(database, productionId, topics)
}

async function tell(database: Queryable, productionId: string | null, topics: readonly ChangeTopic[]): Promise<void> {
  for (const topic of topics)
    await database.execute(sql`select pg_notify(${changeChannel}, ${JSON.stringify({ topic, productionId })})`)
}
