import { randomUUID } from 'node:crypto'
import type { MakePlan } from '@ennick/contract'
import type { Recipe } from '@ennick/core'
import { addJob, type JobRow, makeKey, readMakesUnderWay } from '../queue/jobs.ts'
import type { Database } from '../store/database.ts'
import { makeBatches, type SkippedItem } from '../store/job-schema.ts'
import type { Material } from '../store/known-material.ts'

/**
 * Puts the making of what a plan says on the queue, a job a clip, and keeps what was asked for as a batch: what is
 * skipped has no job that would tell of it.
 * @returns the jobs, and what is skipped with its reason
 */
export async function queueMakes(
  database: Database,
  productionId: string,
  plan: MakePlan,
  recipes: readonly Recipe[],
  material: Material,
  holdsAtFailure = false,
): Promise<{ jobs: JobRow[]; skipped: readonly SkippedItem[] }> {
  const batch = { id: randomUUID(), holdsAtFailure }
  const lists = [plan.items, ...plan.also.map((each) => each.items)]
  return database.transaction(async (transaction) => {
    const underWay = await readMakesUnderWay(transaction, productionId)
    const jobs: JobRow[] = []
    const skipped: SkippedItem[] = []
    for (const [at, { clipId, name }] of plan.items.entries()) {
      const going = recipes.flatMap((recipe, index) => {
        const item = lists[index]?.[at]
        if (!item) return []
        const reason = item.skipped ?? (underWay.has(makeKey(clipId, recipe.id)) ? 'it is on the queue already' : null)
        if (reason === null) return [{ recipe, number: item.number, item }]
        skipped.push({ clipId, name, recipe: recipe.name, reason })
        return []
      })
      const [first, ...others] = going.map(({ recipe, number }) => ({
        recipeId: recipe.id,
        recipeVersion: recipe.version,
        index: number,
      }))
      if (!first) continue
      const sizes = going.flatMap(({ item }) => item.bytes ?? [])
      const plannedBytes = sizes.reduce((sum, size) => sum + size, 0)
      const title = `${name} → ${going.map(({ recipe }) => recipe.name).join(' + ')}`
      const input = {
        kind: 'make',
        clipId,
        ...first,
        mendId: null,
        batch,
        ...(sizes.length === going.length ? { plannedBytes } : {}),
        ...(others.length ? { also: others } : {}),
      } as const
      const outputs = going.flatMap(({ item }) => item.outputs)
      const files = { source: material.clips.get(clipId)?.main.fullPath ?? name, outputs }
      const codecs = [...new Set(going.map(({ recipe }) => recipe.codec))]
      jobs.push(await addJob(transaction, productionId, title, input, { files, codecs }))
    }
    if (jobs.length)
      await transaction.insert(makeBatches).values({
        ...{ id: batch.id, productionId, recipes: recipes.map(({ name }) => name), skipped },
        clipIds: plan.items.map(({ clipId }) => clipId),
      })
    return { jobs, skipped }
  })
}
