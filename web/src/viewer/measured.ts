import { useEffect, useState } from 'react'

/** What two pictures differ by, in levels of 255: each scaled to the same small raster, in grey. */
export interface Measured {
  readonly difference: number
  readonly most: number
  readonly levels: readonly [number, number]
}

const [width, height] = [320, 180]

/** Measures two pictures that are there already. */
export function useMeasured(one: string | null, two: string | null): Measured | null {
  const [measured, setMeasured] = useState<Measured | null>(null)
  useEffect(() => {
    setMeasured(null)
    if (one === null || two === null) return
    let isWanted = true
    void Promise.all([greyOf(one), greyOf(two)]).then(([a, b]) => isWanted && setMeasured(distance(a, b)))
    return () => {
      isWanted = false
    }
  }, [one, two])
  return measured
}

/** How far two grey pictures of one raster are apart. */
export function distance(a: ArrayLike<number>, b: ArrayLike<number>): Measured {
  let [sum, most, levelA, levelB] = [0, 0, 0, 0]
  for (let index = 0; index < a.length; index++) {
    const [x, y] = [a[index] as number, b[index] as number]
    const apart = Math.abs(x - y)
    sum += apart
    most = Math.max(most, apart)
    levelA += x
    levelB += y
  }
  return { difference: sum / a.length, most: Math.round(most), levels: [levelA / a.length, levelB / a.length] }
}

async function greyOf(address: string): Promise<Float32Array> {
  const picture = new Image()
  picture.src = address
  await picture.decode()
  const canvas = document.createElement('canvas')
  Object.assign(canvas, { width, height })
  const context = canvas.getContext('2d', { willReadFrequently: true }) as CanvasRenderingContext2D
  context.drawImage(picture, 0, 0, width, height)
  const { data } = context.getImageData(0, 0, width, height)
  const grey = new Float32Array(width * height)
  // Luma by ITU-R BT.709, section 3.
  for (let index = 0; index < grey.length; index++)
    grey[index] =
      0.2126 * (data[4 * index] as number) +
      0.7152 * (data[4 * index + 1] as number) +
      0.0722 * (data[4 * index + 2] as number)
  return grey
}
