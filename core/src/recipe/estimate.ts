import type { MediaFacts } from '../media/index.ts'
import { madeRaster } from './raster.ts'
import type { ProductionFormat, Recipe } from './recipe.ts'

/** Bytes that a made item will take. `exact` for constant-rate codecs; others are a rough guide from typical pictures. */
export interface SizeEstimate {
  readonly bytes: number
  readonly exact: boolean
}

/** Bytes of one VC-3 LB frame of any raster: macroblocks scaled and rounded to the nearest 4096 (SMPTE ST 2019-1, annex on DNxHR). */
export function vc3LbFrameBytes(width: number, height: number): number {
  const macroblocks = Math.ceil(width / 16) * Math.ceil(height / 16)
  return Math.max(8192, Math.floor((Math.floor((macroblocks * 5888) / 255) + 2048) / 4096) * 4096)
}

/** Typical bits per pixel of the codecs whose size follows the picture. */
const typicalBitsPerPixel = { 'h264-intra': 0.6, 'prores-proxy': 0.75 } as const

/** What a recipe will make of one original, in bytes; null when it makes nothing of it. */
export function estimateSize(facts: MediaFacts, recipe: Recipe, format: ProductionFormat): SizeEstimate | null {
  if (!facts.picture) return null
  const raster = madeRaster(facts.picture, recipe.size, format)
  const soundBytes = facts.sound.reduce(
    (sum, stream) => sum + (stream.samples ?? 0) * stream.channels * ((stream.bitDepth ?? 16) > 16 ? 3 : 2),
    0,
  )
  const frames = facts.picture.frames
  if (recipe.codec === 'dnxhr-lb') return { bytes: frames * vc3LbFrameBytes(raster.width, raster.height) + soundBytes, exact: true }
  const frameBytes = (raster.width * raster.height * typicalBitsPerPixel[recipe.codec]) / 8
  return { bytes: Math.round(frames * frameBytes) + soundBytes, exact: false }
}
