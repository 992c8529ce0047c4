import type { WorkContext } from '../queue/context.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type MakeInput, placeOfRecipe } from './made-item.ts'
import { withRecordings } from './synced-sound.ts'

/** The volumes that a job reads and writes on, as this worker has them. */
export async function workedOn({ database, config, job }: WorkContext, input: MakeInput): Promise<VolumeRow[]> {
  const clipIds = await withRecordings(database, [input.clipId])
  const material = await readMaterial(database, job.productionId, clipIds, config.pathMap)
  const read = [...material.clips.values()].flatMap((clip) => clip.files.map(({ volume }) => volume))
  const written = [input, ...(input.also ?? [])].flatMap(({ recipeId }) => {
    const recipe = material.recipes.get(recipeId)
    return recipe ? [placeOfRecipe(material, recipe)] : []
  })
  return [...new Set([...read, ...written])]
}
