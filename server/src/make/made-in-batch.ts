import { and, eq } from 'drizzle-orm'
import { makeKey, makesOf } from '../queue/jobs.ts'
import { anyOf } from '../store/any-of.ts'
import type { Queryable } from '../store/database.ts'
import { batchOfJob, jobs } from '../store/job-schema.ts'
import type { KnownClip, KnownPair, Material } from '../store/known-material.ts'

/** Something that was made and is in use, with the clip that it was made of. */
export interface MadeItem {
  readonly clip: KnownClip
  readonly pair: KnownPair
}

/** The items in use that are wanted. */
export function madeItems(material: Material, isWanted: (clip: KnownClip, pair: KnownPair) => boolean): MadeItem[] {
  return [...material.clips.values()].flatMap((clip) =>
    clip.pairs.flatMap((pair) => (pair.recipeId !== null && isWanted(clip, pair) ? [{ clip, pair }] : [])),
  )
}

/** @param makes keys of what was made */
export const itemsOfMakes = (material: Material, makes: ReadonlySet<string>): MadeItem[] =>
  madeItems(material, ({ id }, { recipeId }) => recipeId !== null && makes.has(makeKey(id, recipeId)))

/** Keys of what a batch has made. */
export async function makesOfBatch(database: Queryable, productionId: string, batchId: string): Promise<Set<string>> {
  const done = await database
    .select({ input: jobs.input })
    .from(jobs)
    .where(and(eq(jobs.productionId, productionId), eq(jobs.state, 'done'), anyOf(batchOfJob, [batchId])))
  return new Set(done.flatMap(({ input }) => makesOf(input)))
}
