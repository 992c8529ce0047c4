import type { CutEvent, Fit } from './model.ts'

export interface Raster {
  readonly width: number
  readonly height: number
}

/** What a scale is made of: what fits the medium into the raster, and what the editor did besides. */
export interface PartsOfScale {
  readonly fillPercent: number
  readonly ownPercent: number
}

/** The scale at which all of a medium just fills a raster, in percent of its own size. */
export const fillPercent = (medium: Raster, raster: Raster): number =>
  100 * Math.min(raster.width / medium.width, raster.height / medium.height)

/** A scale taken apart: 220 % of a proxy that needs 200 % to fill the raster is 110 % of the editor's own. */
export function partsOfScale(scalePercent: number, medium: Raster, raster: Raster): PartsOfScale {
  const fill = fillPercent(medium, raster)
  return { fillPercent: tidy(fill), ownPercent: tidy((scalePercent / fill) * 100) }
}

/** The raster of the medium as the list has it, when it says so. */
export const listedRaster = ({ medium }: CutEvent): Raster | null =>
  medium?.width && medium.height ? { width: medium.width, height: medium.height } : null

/**
 * How an event stands with another medium, in another raster: the editor's own part of the scale stays, what was added
 * by the size of the proxy goes. Places are shares of the raster, and stay. Undefined where nothing is scaled or moved.
 */
export function refit(
  event: CutEvent,
  from: { readonly medium: Raster; readonly raster: Raster },
  to: { readonly medium: Raster; readonly raster: Raster },
): Fit | undefined {
  const scale = event.fit?.scalePercent ?? 100
  const scalePercent = tidy((scale * fillPercent(to.medium, to.raster)) / fillPercent(from.medium, from.raster))
  const offset = event.fit?.offset ?? null
  return scalePercent === 100 && !offset ? undefined : { scalePercent, offset }
}

/** Four decimals of a percent are far below a pixel. */
const tidy = (percent: number): number => Math.round(percent * 10_000) / 10_000
