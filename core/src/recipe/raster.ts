import type { PictureFacts } from '../media/index.ts'
import type { ProductionFormat, RecipeSize } from './recipe.ts'

/** Where the whole picture lies inside the made raster. All in pixels, all even. */
export interface MadeRaster {
  readonly width: number
  readonly height: number
  readonly content: { readonly width: number; readonly height: number; readonly left: number; readonly top: number }
}

const even = (value: number): number => Math.max(2, 2 * Math.round(value / 2))

/** The original's picture as it is shown: turned upright, with square pixels (the height stays, the width gives). */
export function uprightSquareRaster(picture: PictureFacts): { width: number; height: number } {
  const width = Math.round((picture.width * picture.pixelAspect.numerator) / picture.pixelAspect.denominator)
  const turned = Math.abs(picture.rotation) % 180 === 90
  return turned ? { width: picture.height, height: width } : { width, height: picture.height }
}

/** The raster that a recipe's size makes of a picture. The shape stays: never cropped, never stretched. */
export function madeRaster(picture: PictureFacts, size: RecipeSize, format: ProductionFormat): MadeRaster {
  const source = uprightSquareRaster(picture)
  if (size.kind !== 'production') {
    const by = size.kind === 'divided' ? size.by : 1
    const width = even(source.width / by)
    const height = even(source.height / by)
    return { width, height, content: { width, height, left: 0, top: 0 } }
  }
  // Compared by cross products, so that an exact fit is never padded by a rounding error.
  const widthLimited = source.width * format.height >= format.width * source.height
  const width = widthLimited ? even(format.width) : Math.min(even(format.width), even((format.height * source.width) / source.height))
  const height = widthLimited ? Math.min(even(format.height), even((format.width * source.height) / source.width)) : even(format.height)
  return {
    width: even(format.width),
    height: even(format.height),
    content: {
      width,
      height,
      left: 2 * Math.floor((even(format.width) - width) / 4),
      top: 2 * Math.floor((even(format.height) - height) / 4),
    },
  }
}
