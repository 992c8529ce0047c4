import { isNotNull } from 'drizzle-orm'
import { originalTrials } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'

/** What was found damaged when it was tried, by file and content. */
export async function readComplaints(database: Queryable): Promise<Map<string, string>> {
  const rows = await database.select().from(originalTrials).where(isNotNull(originalTrials.complaint))
  return new Map(rows.map(({ fileId, fingerprint, complaint }) => [`${fileId} ${fingerprint}`, complaint as string]))
}
