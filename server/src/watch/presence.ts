import { stat } from 'node:fs/promises'
import { eq } from 'drizzle-orm'
import { announce } from '../store/announce.ts'
import type { Queryable } from '../store/database.ts'
import { record } from '../store/history.ts'
import { volumes } from '../store/schema.ts'

/** Looks once which volumes are in, and writes down and announces those that came or went. */
export async function watchOnce(database: Queryable): Promise<void> {
  const rows = await database.select().from(volumes)
  for (const row of rows) {
    const isHere = await stat(row.rootPath).then(
      (info) => info.isDirectory(),
      () => false,
    )
    if (isHere === row.isHere) continue
    await database
      .update(volumes)
      .set(isHere ? { isHere, lastSeenAt: new Date() } : { isHere })
      .where(eq(volumes.id, row.id))
    await record(
      database,
      row.productionId,
      'volume',
      row.id,
      isHere ? `Volume “${row.label}” is here.` : `Volume “${row.label}” went away.`,
    )
    await announce(database, row.productionId, 'volumes', 'clips', 'pairs', 'cuts')
  }
}

/** Looks every two seconds. @returns what stops it. */
export function watchPresence(database: Queryable): () => void {
  let looking = false
  const timer = setInterval(() => {
    if (looking) return
    looking = true
    watchOnce(database)
      .catch((error: Error) => console.error(`Could not look at the volumes: ${error.message}`))
      .finally(() => {
        looking = false
      })
  }, 2000)
  return () => clearInterval(timer)
}
