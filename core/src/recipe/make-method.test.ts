import { describe, expect, test } from '@jest/globals'
import type { MediaFacts, PictureFacts } from '../media/index.ts'
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

  test.each<[string, MediaFacts, Partial<Recipe>]>([
    ['another codec', like({ codec: 'prores', profile: 'LT' }), {}],
    ['another profile', like({ profile: 'DNXHR HQ' }), {}],
    ['another raster', like({}), { size: { kind: 'divided', by: 2 } }],
    ['a turned picture', like({ rotation: 90 }), {}],
    ['squeezed pixels that are made square', like({ pixelAspect: { numerator: 2, denominator: 1 } }), {}],
    ['a burn-in', like({}), { burnIn: { timecode: 'top', text: null, heightPercent: 4, boxPercent: 50 } }],
    ['a LUT', like({ colour: { ...picture.colour, transfer: 'log100' } }), {}],
    ['a codec whose quality a file does not say', like({ codec: 'h264', profile: 'High' }), { codec: 'h264-intra' }],
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
