import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import {
  builtInRecipes,
  encodeArguments,
  escapeFilterValue,
  estimateSize,
  madeRaster,
  planEncode,
  type Recipe,
  vc3FrameBytes,
} from './index.ts'

const format = { rate: rate(25), width: 1920, height: 1080 }
const recipe = (id: string): Recipe => builtInRecipes.find((candidate) => candidate.id === id) as Recipe
const picture = (change: Parameters<typeof pictureFacts>[0]) =>
  pictureFacts(change).picture as NonNullable<ReturnType<typeof pictureFacts>['picture']>
const plan = (facts = pictureFacts(), id = 'half-h264-intra') =>
  planEncode({ name: 'A001C001.mov', facts, reel: 'A001', recipe: recipe(id), format, production: 'Low Water' })
const words = (made: ReturnType<typeof plan>) =>
  encodeArguments(
    [
      {
        plan: made,
        outputs: made.files.map((_, index) => `/out${index}`),
        lut: { path: '/luts/a.cube', kind: '3D' },
        hashes: '/h',
      },
    ],
    { input: { kind: 'file', path: '/in.mov' }, font: '/fonts/mono.ttf', strip: null },
  )

describe('rasters', () => {
  test.each([
    ['half of UHD', { width: 3840, height: 2160 }, { kind: 'divided', by: 2 } as const, '1920x1080', '1920x1080'],
    ['half of an odd one', { width: 853, height: 481 }, { kind: 'divided', by: 2 } as const, '426x240', '426x240'],
    [
      'an anamorphic one made square',
      { width: 960, height: 1080, pixelAspect: { numerator: 2, denominator: 1 } },
      { kind: 'source' } as const,
      '1920x1080',
      '1920x1080',
    ],
    ['a wider one fitted', { width: 2048, height: 858 }, { kind: 'production' } as const, '1920x1080', '1920x804'],
    ['a narrower one fitted', { width: 1440, height: 1080 }, { kind: 'production' } as const, '1920x1080', '1440x1080'],
    [
      'one turned upright',
      { width: 1920, height: 1080, rotation: -90 },
      { kind: 'production' } as const,
      '1920x1080',
      '608x1080',
    ],
  ])('%s', (_, change, size, whole, content) => {
    const raster = madeRaster(picture(change), { size, fit: 'pad', pixels: 'square' }, format)
    expect([`${raster.width}x${raster.height}`, `${raster.content.width}x${raster.content.height}`]).toEqual([
      whole,
      content,
    ])
  })

  test('the whole picture lies inside, even in every number', () => {
    fc.assert(
      fc.property(fc.integer({ min: 16, max: 8192 }), fc.integer({ min: 16, max: 8192 }), (width, height) => {
        const { content, ...whole } = madeRaster(
          picture({ width, height }),
          { size: { kind: 'production' }, fit: 'pad', pixels: 'square' },
          format,
        )
        for (const value of [whole.width, whole.height, content.width, content.height, content.left, content.top])
          expect(value % 2).toBe(0)
        expect(content.left + content.width).toBeLessThanOrEqual(whole.width)
        expect(content.top + content.height).toBeLessThanOrEqual(whole.height)
      }),
    )
  })
})

test.each([
  [1920, 1080, 188_416],
  [3840, 2160, 749_568],
  [960, 540, 49_152],
])('a VC-3 LB frame of %i × %i is %i bytes', (width, height, size) => {
  expect(vc3FrameBytes(5888, width, height)).toBe(size)
})

test('a constant-rate size is exact and counts the sound; others are rough; sound alone has none', () => {
  expect(estimateSize(pictureFacts(), recipe('vc3-lb-op-atom'), format)).toEqual({
    // Files of 36,820 and twice 1145 blocks of 512 bytes, each with its index at the end.
    bytes: (36_820 + 2 * 1145) * 512 + 3 * 57,
    basis: 'exact',
  })
  expect(estimateSize(pictureFacts(), recipe('half-h264-intra'), format)?.basis).toBe('typical')
  expect(estimateSize(pictureFacts(), recipe('half-h264-intra'), format, 2)).toEqual({
    bytes: Math.round((100 * 960 * 540 * 2) / 8) + 2 * 192_000 * 3 + 1450 + 2 * 530 + 100 * 19,
    basis: 'sampled',
  })
  expect(estimateSize(soundFacts(48_000, 0), recipe('half-h264-intra'), format)).toBeNull()
})

describe('plans', () => {
  test('carry name, timecode, drop flag and reel', () => {
    const drop = plan(pictureFacts({ rate: rate(30000, 1001), drop: true, start: '12:59:58;00' }))
    expect(drop.files).toEqual([{ part: 'whole', name: 'A001C001_proxy.mov' }])
    const args = words(drop).join(' ')
    expect(args).toContain('-timecode 12:59:58;00')
    expect(args).toContain('-r 30000/1001')
    expect(args).toContain('-metadata:s:v:0 reel_name=A001')
  })

  test('one file for the picture and one for each channel', () => {
    const made = plan(pictureFacts({ channels: 4 }), 'vc3-lb-op-atom')
    expect(made.files.map((file) => file.name)).toEqual([
      'A001C001_V1.mxf',
      'A001C001_A1.mxf',
      'A001C001_A2.mxf',
      'A001C001_A3.mxf',
      'A001C001_A4.mxf',
    ])
    expect(words(made).filter((word) => word === 'mxf_opatom')).toHaveLength(5)
  })

  test('silent stays silent', () => {
    expect(plan(pictureFacts({ channels: 0 }), 'vc3-lb-op-atom').files).toHaveLength(1)
    expect(words(plan(pictureFacts({ channels: 0 }))).join(' ')).not.toContain('-c:a')
  })

  test('only a log picture passes the LUT, made smaller first and padded last', () => {
    const log = pictureFacts({
      width: 4096,
      height: 2160,
      colour: { primaries: 'bt709', transfer: 'log100', matrix: 'bt709', range: 'tv' },
    })
    const filters = words(plan(log, 'production-prores-proxy')).join(' ')
    expect(filters).toMatch(/scale=1920:1012.*lut3d=file=\/luts\/a\.cube.*pad=1920:1080/)
    expect(filters).toContain('-color_trc bt709')
    expect(words(plan()).join(' ')).not.toContain('lut3d')
  })

  test.each([
    ['sound alone', soundFacts(48_000, 0), 'sound alone'],
    ['a still', { ...pictureFacts(), kind: 'still' as const }, 'a still'],
    ['a variable rate', pictureFacts({ variableRate: true }), 'variable frame rate'],
  ])('%s is refused with its reason', (_, facts, reason) => {
    expect(() => plan(facts)).toThrow(reason)
  })

  test('no file name can become an option, a pattern or another protocol', () => {
    const names = ['-i.mov', 'http:x.mov', 'concat:a|b.mov', "it's %03d.mov", 'two\nlines.mov']
    for (const name of names) {
      const args = encodeArguments([{ plan: plan(), outputs: [`/o/${name}`], lut: null, hashes: '/h' }], {
        input: { kind: 'file', path: `/v/${name}` },
        font: '/f.ttf',
        strip: null,
      })
      expect(args).toContain(`file:/v/${name}`)
      expect(args).toContain(`file:/o/${name}`)
      expect(args[args.indexOf('-protocol_whitelist') + 1]).toBe('file,pipe')
    }
  })

  test('a filter value is escaped for the option and for the graph', () => {
    expect(escapeFilterValue("/a b/c:d'e[f],g;h\\i.cube")).toBe("/a b/c\\\\:d\\\\\\'e\\[f\\]\\,g\\;h\\\\\\\\i.cube")
  })
})
