import { formatNumber, groupBy } from '@ennick/core'
import { and, eq, gte } from 'drizzle-orm'
import { searchIds } from '../clips/search.ts'
import type { WorkContext } from '../queue/context.ts'
import { savedSearches } from '../store/catalogue-schema.ts'
import { writeHistory } from '../store/history.ts'
import { readMaterial } from '../store/material.ts'
import { intakeRules } from '../store/recipe-schema.ts'
import { clipFiles, clips, files } from '../store/schema.ts'
import { planMake } from './plan-make.ts'
import { queueMakes } from './queue-makes.ts'

/** Gives the clips that a scan has brought in the recipes that the production's rules say. */
export async function applyIntakeRules({ database, job }: WorkContext, volumeId: string): Promise<void> {
  const rules = await database
    .select({ recipeId: intakeRules.recipeId, name: savedSearches.name, condition: savedSearches.condition })
    .from(intakeRules)
    .innerJoin(savedSearches, eq(savedSearches.id, intakeRules.searchId))
    .where(eq(intakeRules.productionId, job.productionId))
    .orderBy(intakeRules.createdAt)
  if (rules.length === 0) return
  const arrived = await database
    .selectDistinct({ id: clips.id })
    .from(clips)
    .innerJoin(clipFiles, eq(clipFiles.clipId, clips.id))
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .where(and(eq(files.volumeId, volumeId), gte(clips.createdAt, job.createdAt)))
  if (arrived.length === 0) return
  // What several rules give one clip comes from one reading of it.
  const given = new Map<string, { recipeIds: string[]; names: string[] }>()
  for (const { recipeId, name, condition } of rules) {
    const found = new Set(await searchIds(database, job.productionId, { words: '', condition, sort: [] }))
    for (const { id } of arrived) {
      if (!found.has(id)) continue
      const { recipeIds, names } = given.get(id) ?? { recipeIds: [], names: [] }
      given.set(id, { recipeIds: [...new Set([...recipeIds, recipeId])], names: [...new Set([...names, name])] })
    }
  }
  for (const group of groupBy([...given], ([, { recipeIds }]) => recipeIds.join(' ')).values()) {
    const [[, { recipeIds, names }]] = group as [(typeof group)[number]]
    const clipIds = group.map(([id]) => id)
    const material = await readMaterial(database, job.productionId, clipIds)
    const recipes = recipeIds.flatMap((id) => material.recipes.get(id) ?? [])
    const [recipe, ...also] = recipes
    if (!recipe) continue
    const plan = await planMake(database, material, [...material.clips.values()], recipe, also)
    const queued = plan.blocked ? [] : (await queueMakes(database, job.productionId, plan, recipes, material)).jobs
    const skipped = plan.items.filter((item) => item.skipped !== null)
    await writeHistory(
      database,
      job.productionId,
      'volume',
      volumeId,
      `${names.length === 1 ? 'Rule' : 'Rules'} ${names.map((name) => `“${name}”`).join(' and ')} gave ` +
        `${formatNumber(queued.length)} of ${formatNumber(clipIds.length)} new clips ` +
        `${recipes.map((each) => `“${each.name}”`).join(' and ')}.${plan.blocked ? ` ${plan.blocked}` : ''}` +
        (skipped[0] ? ` ${skipped[0].name}: ${skipped[0].skipped}.` : ''),
    )
  }
}
