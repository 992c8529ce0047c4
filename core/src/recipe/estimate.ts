import type { MediaFacts } from '../media/index.ts'
import { codecTraits } from './codec.ts'
import { madeRaster } from './raster.ts'
import type { ProductionFormat, Recipe } from './recipe.ts'
import { planTracks } from './tracks.ts'

/** Bytes that a made item will take. `exact` for constant-rate codecs; others are a rough guide from typical pictures. */
export interface SizeEstimate {
  readonly bytes: number
  readonly exact: boolean
}

const compressedBitsPerSecond = 96_000

/** Bytes that one PCM sample of a stream takes in what a recipe makes. */
export const pcmBytes = (recipe: Recipe, bitDepth: number | null): 2 | 3 =>
  recipe.sound === 'pcm 16' ? 2 : recipe.sound === 'pcm 24' ? 3 : (bitDepth ?? 16) > 16 ? 3 : 2

/** What a recipe will make of one original, in bytes; null when it makes nothing of it. */
export function estimateSize(facts: MediaFacts, recipe: Recipe, format: ProductionFormat): SizeEstimate | null {
  if (!facts.picture) return null
  const raster = madeRaster(facts.picture, recipe, format)
  const soundBytes = planTracks(facts, recipe.tracks).reduce((sum, { samples, channels, bitDepth, sampleRate }) => {
    if (recipe.sound === 'compressed') return sum + ((samples ?? 0) * compressedBitsPerSecond) / (8 * sampleRate)
    return sum + (samples ?? 0) * channels * pcmBytes(recipe, bitDepth)
  }, 0)
  const { frames } = facts.picture
  const traits = codecTraits[recipe.codec]
  const constant = traits.frameBytes(raster.width, raster.height)
  const frameBytes = constant ?? (raster.width * raster.height * traits.typicalBitsPerPixel) / 8
  return { bytes: Math.round(frames * frameBytes + soundBytes), exact: constant !== null && recipe.sound !== 'compressed' }
}
