import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import {
  builtInRecipes,
  codecTraits,
  contradictions,
  type Recipe,
  recipeCodecs,
  recipeContainers,
  recipePurposes,
} from './index.ts'

const base = builtInRecipes.find((recipe) => recipe.id === 'half-h264-intra') as Recipe
const found = (change: Partial<Recipe>) =>
  contradictions({ ...base, ...change }).map(({ level, message }) => `${level}: ${message}`)

test('nothing in the built-in recipes contradicts itself; only what is to be tiny pays for that, and says so', () => {
  const said = builtInRecipes.flatMap((recipe) => contradictions(recipe).map(({ level }) => [recipe.id, level]))
  expect(said).toEqual([
    ['travel-h264', 'warning'],
    ['travel-h264', 'warning'],
  ])
})

describe('an error says why', () => {
  test.each<[string, Partial<Recipe>, RegExp]>([
    [
      'a container that cannot carry the codec',
      { codec: 'prores-422', container: 'mp4', sound: 'compressed' },
      /MP4 does not carry ProRes 422 here: choose MOV/,
    ],
    [
      'OP1a where OP-Atom, one file per track is wanted',
      { purpose: 'cutting, OP-Atom, one file per track', codec: 'vc3-lb', container: 'mxf-op1a' },
      /want MXF OP-Atom/,
    ],
    [
      'OP-Atom where one file per clip is wanted',
      { codec: 'vc3-lb', container: 'mxf-op-atom' },
      /takes every clip apart/,
    ],
    ['PCM in MP4', { container: 'mp4' }, /carries no PCM/],
    ['compressed sound in MXF', { codec: 'vc3-lb', container: 'mxf-op1a', sound: 'compressed' }, /carries PCM/],
    ['a review copy that no browser plays', { purpose: 'review' }, /Browsers play MP4 and WebM/],
    ['a LUT burnt into what is finished', { purpose: 'finishing', codec: 'prores-hq' }, /takes the range away/],
    [
      'a burn-in in a finish',
      {
        purpose: 'cinema deliverable',
        viewingLut: null,
        burnIn: { timecode: 'top', text: null, heightPercent: 4, boxPercent: 0 },
      },
      /stays in the finish/,
    ],
    ['odd numbers', { size: { kind: 'raster', width: 853, height: 480 } }, /even/],
    ['a giant', { size: { kind: 'raster', width: 9000, height: 480 } }, /between 64 and 8192/],
    ['a fixed rate at another raster', { codec: 'vc3-hd' }, /1920 × 1080/],
    [
      'anamorphic pixels in a given raster',
      { pixels: 'kept', size: { kind: 'production' } },
      /kept only with the original’s raster/,
    ],
    [
      'anamorphic pixels in MXF',
      { pixels: 'kept', codec: 'vc3-sq', container: 'mxf-op1a' },
      /MXF loses the pixel aspect/,
    ],
    ['a suffix with a slash', { suffix: '/proxy' }, /file names/],
    ['a suffix that ends in a point', { suffix: '_v.' }, /ends in a point/],
    ['no name', { name: ' ' }, /needs a name/],
  ])('%s', (_, change, message) => {
    expect(
      found(change)
        .filter((line) => line.startsWith('error'))
        .join('\n'),
    ).toMatch(message)
  })
})

test.each<[string, Partial<Recipe>, RegExp]>([
  ['long GOP for cutting', { codec: 'h264-long' }, /warning: H\.264, long GOP keeps only what changes/],
  ['compressed sound for cutting', { sound: 'compressed' }, /warning: Compressed sound is as long as its packets/],
  [
    'a cutting codec for a finish',
    { purpose: 'finishing', viewingLut: null, size: { kind: 'source' } },
    /warning: .* not for a finish/,
  ],
  ['edges cut off', { fit: 'crop', size: { kind: 'production' } }, /warning: .* cut off at their edges/],
  [
    'shapes lost for review',
    {
      purpose: 'cinema deliverable',
      fit: 'stretch',
      size: { kind: 'production' },
      viewingLut: null,
      codec: 'prores-hq',
      sound: 'pcm 24',
    },
    /warning: .* distorted/,
  ],
  ['not a word on what it is for', { about: '' }, /warning: Say what it is for/],
])('a warning: %s', (_, change, message) => {
  expect(found(change)).toEqual([expect.stringMatching(message)])
})

test('errors come first, and a codec outside of its containers is always one', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...recipeCodecs),
      fc.constantFrom(...recipeContainers),
      fc.constantFrom(...recipePurposes),
      (codec, container, purpose) => {
        const lines = found({ codec, container, purpose })
        const firstWarning = lines.findIndex((line) => line.startsWith('warning'))
        if (firstWarning >= 0) expect(lines.slice(firstWarning).every((line) => line.startsWith('warning'))).toBe(true)
        const isCarried = codecTraits[codec].containers.includes(container)
        expect(lines.some((line) => line.includes('does not carry'))).toBe(!isCarried)
      },
    ),
  )
})
