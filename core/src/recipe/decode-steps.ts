import type { PictureFacts } from '../media/index.ts'
import { uprightSquareRaster } from './raster.ts'

/** A picture as it is when a player decodes only a part of its pixels, and what becomes of it on the timeline. */
export interface DecodeStep {
  readonly by: 1 | 2 | 4 | 8
  /** As it comes out of the decoder, upright, with square pixels. */
  readonly raster: { readonly width: number; readonly height: number }
  /** By how much it is then scaled to be fitted into the timeline, in percent: above 100 it is softer than the cut. */
  readonly fittedPercent: number
}

/** What each view quality yields of a picture: whole, a half, a quarter and an eighth of its width and height. */
export function decodeSteps(picture: PictureFacts, timeline: { width: number; height: number }): DecodeStep[] {
  const { width, height } = uprightSquareRaster(picture)
  return ([1, 2, 4, 8] as const).map((by) => {
    const raster = { width: Math.ceil(width / by), height: Math.ceil(height / by) }
    const fit = Math.min(timeline.width / raster.width, timeline.height / raster.height)
    return { by, raster, fittedPercent: Math.round(fit * 100) }
  })
}
