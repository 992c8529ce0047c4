import type { WorkContext } from '../queue/context.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type MakeInput, placeOfRecipe } from './made-item.ts'
import { withRecordings } from './synced-sound.ts'

/** A job's clip by its name, and the volumes that it reads and writes on, as this worker has them. */
export async function workedOn(
  { database, config, job }: WorkContext,
  input: MakeInput,
): Promise<{ readonly name: string; readonly worked: readonly VolumeRow[] }> {
  const clipIds = await withRecordings(database, [input.clipId])
  const material = await readMaterial(database, job.productionId, clipIds, config.pathMap)
  const read = [...material.clips.values()].flatMap((clip) => clip.files.map(({ volume }) => volume))
  const written = [input, ...(input.also ?? [])].flatMap(({ recipeId }) => {
    const recipe = material.recipes.get(recipeId)
    return recipe ? [placeOfRecipe(material, recipe)] : []
  })
  return { name: material.clips.get(input.clipId)?.name ?? 'the clip', worked: [...new Set([...read, ...written])] }
}
