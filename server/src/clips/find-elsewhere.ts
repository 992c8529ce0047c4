import type { ClipElsewhere } from '@ennick/contract'
import { filterWords } from '@ennick/core'
import { and, asc, desc, eq, isNull, ne, sql } from 'drizzle-orm'
import { clipIndex } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { productions } from '../store/schema.ts'
import { refreshIndex } from './index-refresh.ts'

const mostFound = 12

/**
 * Clips of other productions that have all of some words among their names: "where is it?" is asked months later, and
 * of whatever job it was.
 */
export async function findElsewhere(database: Database, productionId: string, words: string): Promise<ClipElsewhere[]> {
  const asked = filterWords(words)
  if (asked.join('').length < 2) return []
  const others = and(ne(productions.id, productionId), isNull(productions.trialOf))
  for (const { id } of await database.select({ id: productions.id }).from(productions).where(others))
    await refreshIndex(database, id)
  return database
    .select({
      clipId: clipIndex.clipId,
      productionId: clipIndex.productionId,
      production: productions.name,
      name: clipIndex.fileName,
      volumeLabel: clipIndex.volume,
      presence: sql<ClipElsewhere['presence']>`${clipIndex.presence}`,
    })
    .from(clipIndex)
    .innerJoin(productions, eq(productions.id, clipIndex.productionId))
    .where(and(others, ...asked.map((word) => sql`position(${word} in ${clipIndex.words}) > 0`)))
    .orderBy(desc(productions.createdAt), asc(clipIndex.fileName), asc(clipIndex.clipId))
    .limit(mostFound)
}
