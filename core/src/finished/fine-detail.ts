/** A grey picture, row by row from the top left, a byte a pixel. */
export interface GreyRaster {
  readonly width: number
  readonly height: number
  readonly levels: Uint8Array
}

/** Where an original holds less than so many times the detail of its proxy, there is nothing to tell them by. */
const leastLead = 2

/**
 * Whose fine detail a picture of a finished file holds: that of the original, or no more than the proxy has, as it does
 * where it was rendered from that. What is finer than two pixels is measured against the contrast of each picture, so
 * that grading cancels, and laid beside that of the other two.
 * @param finished in its own raster
 * @param original the same frame, brought to that raster
 * @param proxy the same frame, brought up to that raster
 * @returns null where it cannot be told
 */
export function whoseDetail(
  finished: GreyRaster,
  original: GreyRaster,
  proxy: GreyRaster,
): 'the original' | 'the proxy' | null {
  const [own, full, small] = [detailOf(finished), detailOf(original), detailOf(proxy)]
  if (!own || !full || !small) return null
  const [energy, most, least] = [energyOf(own), energyOf(full), energyOf(small)]
  if (most < leastLead * least) return null
  const isLow = energy * energy <= most * least
  const isOfProxy = likeness(own, small) > likeness(own, full)
  return isLow !== isOfProxy ? null : isLow ? 'the proxy' : 'the original'
}

/** What each pixel has beyond the mean of those around it, in standard deviations of the picture; null of a flat one. */
function detailOf({ width, height, levels }: GreyRaster): Float32Array | null {
  let [sum, squares] = [0, 0]
  for (const level of levels) {
    sum += level
    squares += level * level
  }
  const deviation = Math.sqrt(squares / levels.length - (sum / levels.length) ** 2)
  if (!(deviation >= 1)) return null
  const detail = new Float32Array(levels.length)
  const at = (index: number): number => levels[index] as number
  for (let y = 1; y < height - 1; y++)
    for (let x = 1; x < width - 1; x++) {
      const index = y * width + x
      const around = at(index - 1) + at(index + 1) + at(index - width) + at(index + width)
      detail[index] = (at(index) - around / 4) / deviation
    }
  return detail
}

const energyOf = (detail: Float32Array): number => productOf(detail, detail) / detail.length

const likeness = (a: Float32Array, b: Float32Array): number =>
  productOf(a, b) / Math.sqrt(productOf(a, a) * productOf(b, b) || 1)

function productOf(a: Float32Array, b: Float32Array): number {
  let product = 0
  for (let index = 0; index < a.length; index++) product += (a[index] as number) * (b[index] as number)
  return product
}
