import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { codecTraits } from './codec.ts'
import { builtInRecipes, contradictions, estimateSize, madeRaster, type Recipe, type RecipeQuality } from './index.ts'

const half = builtInRecipes[0] as Recipe
const words = (codec: Recipe['codec'], quality: RecipeQuality) => codecTraits[codec].words(rate(25), quality).join(' ')
const step = (name: 'lighter' | 'usual' | 'finer'): RecipeQuality => ({ kind: 'step', step: name })

describe('quality', () => {
  test('is a step of the codec’s own, or a rate that may swing by half', () => {
    expect(words('h264-intra', step('finer'))).toContain('-crf 17')
    expect(words('h264-long', step('lighter'))).toContain('-crf 29')
    expect(words('mjpeg', step('usual'))).toContain('-q:v 4')
    const rated = words('h264-long', { kind: 'rate', kilobits: 1001 })
    expect(rated).toContain('-b:v 1001k -maxrate 1502k -bufsize 2002k')
    expect(rated).not.toContain('-crf')
  })

  test('is no choice where a codec has one of its own', () => {
    const rated: Recipe = { ...half, codec: 'vc3-lb', quality: { kind: 'rate', kilobits: 5000 } }
    expect(contradictions(rated).map(({ message }) => message)).toContain(
      'VC-3 LB has one quality: leave it at the usual one.',
    )
    expect(contradictions({ ...half, quality: step('finer') })).toEqual([])
  })

  test('weighs on the size: by its step, or by its rate and the time', () => {
    // Four seconds of 25.
    const facts = pictureFacts({ channels: 0 })
    const bytes = (quality: RecipeQuality) =>
      estimateSize(facts, { ...half, quality }, { rate: rate(25), width: 1920, height: 1080 })?.bytes ?? 0
    expect(bytes(step('lighter'))).toBeLessThan(bytes(step('usual')))
    expect(bytes(step('finer'))).toBeGreaterThan(bytes(step('usual')))
    expect(Math.abs(bytes({ kind: 'rate', kilobits: 8000 }) - 4_000_000)).toBeLessThan(5000)
  })
})

describe('the step nearest to the production', () => {
  const made = (width: number, height: number, format: { width: number; height: number }) => {
    const { width: w, height: h } = madeRaster(
      pictureFacts({ width, height }).picture as NonNullable<ReturnType<typeof pictureFacts>['picture']>,
      { size: { kind: 'nearest' }, fit: 'pad', pixels: 'square' },
      { ...format, rate: rate(25) },
    )
    return `${w} × ${h}`
  }
  test.each([
    [3840, 2160, '1920 × 1080'],
    [1920, 1080, '1920 × 1080'],
    [1280, 720, '1280 × 720'],
    [4096, 2160, '2048 × 1080'],
    // A quarter would be softer than the production.
    [6144, 3160, '3072 × 1580'],
    [7680, 4320, '1920 × 1080'],
    // Of a wider shape, fitted between bars: half of it is as wide as the production.
    [4096, 1716, '2048 × 858'],
    [3838, 2158, '3838 × 2158'],
    [2880, 2160, '1440 × 1080'],
    [8192, 4320, '2048 × 1080'],
    [640, 480, '640 × 480'],
  ])('%i × %i in a production of 1920 × 1080 is %s', (width, height, expected) => {
    expect(made(width, height, { width: 1920, height: 1080 })).toBe(expected)
  })
})
