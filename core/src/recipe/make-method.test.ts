import { describe, expect, test } from '@jest/globals'
import type { MediaFacts, PictureFacts, StoredFrames } from '../media/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { builtInRecipes } from './built-in.ts'
import { planEncode } from './plan.ts'
import type { Recipe } from './recipe.ts'

const atom = builtInRecipes.find((recipe) => recipe.id === 'vc3-lb-op-atom') as Recipe
const whole: Recipe = { ...atom, purpose: 'cutting, one file per clip', container: 'mov' }
const original = pictureFacts({})
const picture = original.picture as PictureFacts
const like = (change: Partial<PictureFacts>, facts: Partial<MediaFacts> = {}): MediaFacts => ({
  ...original,
  ...{ container: 'mov', reel: 'A001', ...facts },
  picture: { ...picture, codec: 'dnxhd', profile: 'DNXHR LB', ...change },
})
const h264 = (stored: Partial<StoredFrames>, change: Partial<PictureFacts> = {}): MediaFacts =>
  like({
    ...{ codec: 'h264', profile: 'High', pixelFormat: 'yuv420p' },
    ...{ stored: { isIntra: true, leastBytes: 90_000, mostBytes: 140_000, ...stored } },
    ...change,
  })
const hd = (bytes: number): MediaFacts =>
  like({
    ...{ profile: 'DNXHD', pixelFormat: 'yuv422p' },
    stored: { isIntra: true, leastBytes: bytes, mostBytes: bytes },
  })
const methodFor = (facts: MediaFacts, recipe: Recipe, reel: string | null = 'A001', files = 1) =>
  planEncode({
    name: 'A001C001.mov',
    facts,
    reel,
    recipe,
    format: { rate: rate(25), width: 1920, height: 1080 },
    production: 'x',
    files,
  }).method

describe('what is there already is not encoded again', () => {
  test('the same codec, raster and container: a copy as it is; another container: a rewrap', () => {
    expect(methodFor(like({}), whole)).toBe('as it is')
    expect(methodFor(like({}), atom)).toBe('rewrap')
  })

  test('so is a codec that says no quality of itself, by the bytes of its frames', () => {
    expect(methodFor(hd(188_416), { ...whole, codec: 'vc3-hd' })).toBe('as it is')
    expect(methodFor(h264({}), { ...whole, codec: 'h264-intra' })).toBe('as it is')
    const jpeg = like({
      ...{ codec: 'mjpeg', profile: 'Baseline', pixelFormat: 'yuvj422p' },
      stored: { isIntra: true, leastBytes: 80_000, mostBytes: 200_000 },
    })
    expect(methodFor(jpeg, { ...whole, codec: 'mjpeg' })).toBe('as it is')
  })

  test.each<[string, MediaFacts, Partial<Recipe>]>([
    ['another codec', like({ codec: 'prores', profile: 'LT' }), {}],
    ['another profile', like({ profile: 'DNXHR HQ' }), {}],
    ['another raster', like({}), { size: { kind: 'divided', by: 2 } }],
    ['a turned picture', like({ rotation: 90 }), {}],
    ['squeezed pixels that are made square', like({ pixelAspect: { numerator: 2, denominator: 1 } }), {}],
    ['a burn-in', like({}), { burnIn: { timecode: 'top', text: null, heightPercent: 4, boxPercent: 50 } }],
    ['a LUT', like({ colour: { ...picture.colour, transfer: 'log100' } }), {}],
    ['a codec whose quality nothing says', like({ codec: 'h264', profile: 'High' }), { codec: 'h264-intra' }],
    ['a long GOP', h264({ isIntra: false }), { codec: 'h264-intra' }],
    ['what is much heavier', h264({ mostBytes: 250_000 }), { codec: 'h264-intra' }],
    ['more depth', h264({}, { pixelFormat: 'yuv420p10le' }), { codec: 'h264-intra' }],
    ['a fixed rate of another size', hd(917_504), { codec: 'vc3-hd' }],
  ])('%s is encoded', (_, facts, change) => expect(methodFor(facts, { ...whole, ...change })).toBe('encode'))

  test.each<[string, MediaFacts, Partial<Recipe>, string | null]>([
    ['a reel that the file does not say', like({}, { reel: null }), {}, 'A001'],
    ['another layout of the sound', like({}), { tracks: { keep: null, layout: 'stereo', atLeast: 0 } }, 'A001'],
    ['another depth of the sound', like({}), { sound: 'pcm 16' }, 'A001'],
    ['a container that does not say its pattern', like({}, { container: 'mxf' }), { container: 'mxf-op1a' }, 'A001'],
  ])('%s takes a new file around the same pictures', (_, facts, change, reel) =>
    expect(methodFor(facts, { ...whole, ...change }, reel)).toBe('rewrap'),
  )

  test('squeezed pixels that are kept go over; several files are always joined by encoding', () => {
    expect(methodFor(like({ pixelAspect: { numerator: 2, denominator: 1 } }), { ...whole, pixels: 'kept' })).toBe(
      'as it is',
    )
    expect(methodFor(like({}), whole, 'A001', 3)).toBe('encode')
  })
})
