import { and, eq, gte } from 'drizzle-orm'
import { searchIds } from '../catalogue/search.ts'
import { savedSearches } from '../store/catalogue-schema.ts'
import { record } from '../store/history.ts'
import { intakeRules } from '../store/recipe-schema.ts'
import { clipFiles, clips, files } from '../store/schema.ts'
import { readWorld } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import { planMake, queueMakes } from './plan-make.ts'

/** Gives the clips that a scan has brought in the recipes that the production's rules say. */
export async function applyIntakeRules({ database, job }: WorkContext, volumeId: string): Promise<void> {
  const rules = await database
    .select({ recipeId: intakeRules.recipeId, name: savedSearches.name, condition: savedSearches.condition })
    .from(intakeRules)
    .innerJoin(savedSearches, eq(savedSearches.id, intakeRules.searchId))
    .where(eq(intakeRules.productionId, job.productionId))
  if (rules.length === 0) return
  const arrived = await database
    .selectDistinct({ id: clips.id })
    .from(clips)
    .innerJoin(clipFiles, eq(clipFiles.clipId, clips.id))
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .where(and(eq(files.volumeId, volumeId), gte(clips.createdAt, job.createdAt)))
  if (arrived.length === 0) return
  for (const { recipeId, name, condition } of rules) {
    const found = new Set(await searchIds(database, job.productionId, { words: '', condition, sort: [] }))
    const clipIds = arrived.map(({ id }) => id).filter((id) => found.has(id))
    if (clipIds.length === 0) continue
    const world = await readWorld(database, job.productionId, clipIds)
    const recipe = world.recipes.get(recipeId)
    if (!recipe) continue
    const plan = await planMake(database, world, clipIds, recipe)
    const queued = plan.blocked ? [] : await queueMakes(database, job.productionId, plan, [recipe])
    const skipped = plan.items.filter((item) => item.skipped !== null)
    await record(
      database,
      job.productionId,
      'volume',
      volumeId,
      `Rule “${name}” gave ${queued.length} of ${clipIds.length} new clips “${recipe.name}”.${plan.blocked ? ` ${plan.blocked}` : ''}${skipped[0] ? ` ${skipped[0].name}: ${skipped[0].skipped}.` : ''}`,
    )
  }
}
