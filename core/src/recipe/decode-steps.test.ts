import { expect, test } from '@jest/globals'
import type { PictureFacts } from '../media/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { decodeSteps } from './decode-steps.ts'

const steps = (width: number, height: number, change: Partial<PictureFacts> = {}) =>
  decodeSteps(
    { ...(pictureFacts({ width, height }).picture as PictureFacts), ...change },
    { width: 1920, height: 1080 },
  ).map(({ by, raster, fittedPercent }) => `1/${by} ${raster.width} × ${raster.height} at ${fittedPercent} %`)

test('a half of UHD is the timeline, a quarter is blown up to twice its size', () => {
  expect(steps(3840, 2160)).toEqual([
    '1/1 3840 × 2160 at 50 %',
    '1/2 1920 × 1080 at 100 %',
    '1/4 960 × 540 at 200 %',
    '1/8 480 × 270 at 400 %',
  ])
})

test('another shape is fitted whole, anamorphic pixels are counted as they are seen, odd sizes rounded up', () => {
  expect(steps(4096, 1716)[1]).toBe('1/2 2048 × 858 at 94 %')
  expect(steps(1440, 1080, { pixelAspect: { numerator: 4, denominator: 3 } })[0]).toBe('1/1 1920 × 1080 at 100 %')
  expect(steps(1281, 721)[1]).toBe('1/2 641 × 361 at 299 %')
})
