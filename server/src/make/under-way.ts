import type { ClipUnderWay } from '@ennick/contract'
import { pairKindOf } from '@ennick/core'
import { readLiveMakes } from '../queue/jobs.ts'
import type { Queryable } from '../store/database.ts'
import { readRecipes } from '../store/recipes.ts'

/** The clips of which a proxy or an optimized copy is being made, or waits to be: until it is proven there is none. */
export async function readClipsUnderWay(database: Queryable, productionId: string): Promise<ClipUnderWay[]> {
  const recipes = await readRecipes(database)
  const words = new Map<string, ClipUnderWay['state']>()
  for (const { input, state } of await readLiveMakes(database, productionId)) {
    const kinds = [input, ...(input.also ?? [])].flatMap(({ recipeId }) => {
      const recipe = recipes.get(recipeId)
      return recipe ? [pairKindOf(recipe)] : []
    })
    if (!kinds.some((kind) => kind === 'proxy' || kind === 'optimized')) continue
    // Of several jobs of a clip the one that runs is told.
    if (state === 'running' || !words.has(input.clipId))
      words.set(input.clipId, state === 'running' ? 'being made' : 'waits to be made')
  }
  return [...words].map(([clipId, state]) => ({ clipId, state }))
}
