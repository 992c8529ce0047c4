import { madeRaster, type PictureFacts, type Recipe, sampleRanges } from '@ennick/core'
import type { Config } from '../config.ts'
import { encodeSamples } from '../engine/sample-encode.ts'
import { JobFailure } from '../queue/failure.ts'
import type { Database } from '../store/database.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { productionFormat } from '../store/production-row.ts'
import { sizeSamples } from '../store/recipe-schema.ts'
import { lutFile } from './luts.ts'
import { planFor } from './make.ts'
import { SizeSamples } from './size-samples.ts'

/**
 * Encodes parts of one clip as a recipe says, and keeps what they came to; what was sampled already is not sampled
 * again. What the recipe makes nothing of, or the encoder refuses, is kept as a sample of nothing, so that it is not
 * tried again and again.
 */
export async function sampleSize(
  database: Database,
  config: Config,
  material: Material,
  clip: KnownClip,
  recipe: Recipe,
  signal: AbortSignal,
): Promise<void> {
  const known = await SizeSamples.read(database, material.production.id, [recipe])
  if (known.wanted(recipe, [clip]).clips.length === 0) return
  const { main } = clip
  const picture = main.facts?.picture as PictureFacts
  const raster = madeRaster(picture, recipe, productionFormat(material.production))
  const nothing = { frames: 0, bytes: 0, milliseconds: 0 }
  const outcome = await (async () => {
    try {
      const plan = planFor(material, clip, recipe)
      if (!main.facts || plan.method !== 'encode') return nothing
      const lut = await lutFile(database, config, plan.viewingLut)
      return await encodeSamples(
        plan,
        { ...main, facts: main.facts },
        sampleRanges(picture.frames, picture.rate),
        lut,
        signal,
      )
    } catch (error) {
      signal.throwIfAborted()
      if (!(error instanceof JobFailure))
        console.error(`${clip.name} could not be sampled: ${(error as Error).message}`)
      return nothing
    }
  })()
  const row = {
    ...{ clipId: clip.id, recipeId: recipe.id, recipeVersion: recipe.version, fingerprint: main.fingerprint },
    ...outcome,
    pixels: raster.width * raster.height,
  }
  await database
    .insert(sizeSamples)
    .values(row)
    .onConflictDoUpdate({ target: [sizeSamples.clipId, sizeSamples.recipeId, sizeSamples.recipeVersion], set: row })
}
