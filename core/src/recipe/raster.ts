import type { PictureFacts } from '../media/index.ts'
import type { ProductionFormat, Recipe } from './recipe.ts'

/**
 * What a recipe makes of a picture's raster. The whole picture is scaled to `content` and laid into the made raster;
 * what does not fit in is cut off, what it does not cover is black. All in pixels, all even.
 */
export interface MadeRaster {
  readonly width: number
  readonly height: number
  /** Left and top are negative where the picture is cut off. */
  readonly content: { readonly width: number; readonly height: number; readonly left: number; readonly top: number }
}

const even = (value: number): number => Math.max(2, 2 * Math.round(value / 2))

const isTurned = (picture: PictureFacts): boolean => Math.abs(picture.rotation) % 180 === 90

/** The original's picture as it is shown: turned upright, with square pixels (the height stays, the width gives). */
export function uprightSquareRaster(picture: PictureFacts): { width: number; height: number } {
  const width = Math.round((picture.width * picture.pixelAspect.numerator) / picture.pixelAspect.denominator)
  return isTurned(picture) ? { width: picture.height, height: width } : { width, height: picture.height }
}

/**
 * By how much a raster is divided to come nearest to another without falling below it: as far as the picture, fitted
 * into the other, is never larger than what is made.
 */
function nearestStep(raster: { width: number; height: number }, to: { width: number; height: number }): 1 | 2 | 4 | 8 {
  const isNotBelow = (by: number): boolean => raster.width >= by * to.width || raster.height >= by * to.height
  return ([8, 4, 2] as const).find(isNotBelow) ?? 1
}

/**
 * The raster that a recipe makes of a picture. Its shape stays; it is cropped or stretched only where the recipe says
 * so.
 */
export function madeRaster(
  picture: PictureFacts,
  recipe: Pick<Recipe, 'size' | 'fit' | 'pixels'>,
  format: ProductionFormat,
): MadeRaster {
  const { size } = recipe
  const square = uprightSquareRaster(picture)
  if (size.kind === 'source' || size.kind === 'divided' || size.kind === 'nearest') {
    const stored = isTurned(picture) ? { width: picture.height, height: picture.width } : picture
    const source = recipe.pixels === 'kept' ? stored : square
    const by = size.kind === 'divided' ? size.by : size.kind === 'nearest' ? nearestStep(square, format) : 1
    const width = even(source.width / by)
    const height = even(source.height / by)
    return { width, height, content: { width, height, left: 0, top: 0 } }
  }
  const frame = size.kind === 'production' ? format : size
  if (recipe.fit === 'stretch') {
    const width = even(frame.width)
    const height = even(frame.height)
    return { width, height, content: { width, height, left: 0, top: 0 } }
  }
  // Compared by cross products, so that an exact fit is never padded by a rounding error.
  const isWider = square.width * frame.height >= frame.width * square.height
  const fillsWidth = recipe.fit === 'pad' ? isWider : !isWider
  const limit = recipe.fit === 'pad' ? Math.min : Math.max
  const width = fillsWidth
    ? even(frame.width)
    : limit(even(frame.width), even((frame.height * square.width) / square.height))
  const height = fillsWidth
    ? limit(even(frame.height), even((frame.width * square.height) / square.width))
    : even(frame.height)
  return {
    width: even(frame.width),
    height: even(frame.height),
    content: {
      width,
      height,
      left: 2 * Math.trunc((even(frame.width) - width) / 4),
      top: 2 * Math.trunc((even(frame.height) - height) / 4),
    },
  }
}
