import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { PictureFacts } from '../media/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import {
  builtInRecipes,
  codecTraits,
  encodeArguments,
  losesAlpha,
  madeRaster,
  pictureFilters,
  planEncode,
  type Recipe,
  RecipeError,
  recipeCodecs,
  sampledHashGraph,
  soughtHashGraph,
} from './index.ts'

const format = { rate: rate(25), width: 1920, height: 1080 }
const recipe = (id: string, change: Partial<Recipe> = {}): Recipe => ({
  ...(builtInRecipes.find((candidate) => candidate.id === id) as Recipe),
  ...change,
})
const plan = (made: Recipe, facts = pictureFacts()) =>
  planEncode({
    name: 'A001C001.mov',
    facts,
    reel: 'A001',
    recipe: made,
    format,
    production: 'Low Water',
    scene: '12A',
    take: '3',
  })
const words = (made: Recipe, facts = pictureFacts()) =>
  encodeArguments([{ plan: plan(made, facts), outputs: ['/out'], hashes: '/h', lut: null }], {
    input: { kind: 'file', path: '/in.mov' },
    font: '/f/Mono.ttf',
    strip: null,
  })
const filters = (made: Recipe, facts = pictureFacts()): string =>
  pictureFilters(plan(made, facts), { lut: null, font: '/f/Mono.ttf' })
const picture = (change: Partial<PictureFacts>) => pictureFacts(change).picture as PictureFacts

// Measured with the encoder; the formula is the standard's.
test.each([
  ['vc3-lb', 1920, 1080, 188_416],
  ['vc3-sq', 1920, 1080, 606_208],
  ['vc3-hq', 1920, 1080, 917_504],
  ['vc3-lb', 3840, 2160, 749_568],
  ['vc3-hd', 1920, 1080, 188_416],
] as const)('a frame of %s at %i × %i is %i bytes', (codec, width, height, bytes) => {
  expect(codecTraits[codec].frameBytes(width, height)).toBe(bytes)
})

test.each([
  ['yuv420p', 'yuv420p'],
  ['yuvj422p', 'yuv422p'],
  ['yuv422p10le', 'yuv422p10le'],
  ['yuv444p12le', 'yuv444p12le'],
  ['rgb24', 'gbrp'],
  ['rgb48be', 'gbrp16le'],
  ['gbrp10le', 'gbrp10le'],
  [null, 'yuv422p'],
  ['gray', 'gray'],
  ['gray12le', 'gray12le'],
  ['rgba', 'bgra'],
  ['argb', 'bgra'],
  ['rgba64be', 'gbrap16le'],
  ['gbrap10le', 'gbrap10le'],
  ['yuva444p10le', 'yuva444p10le'],
  ['yuva444p12le', 'yuva444p16le'],
  ['ya8', 'ya8'],
  ['pal8', 'bgra'],
])('what is lossless keeps the samples of %s as %s', (from, to) => {
  expect(codecTraits.ffv1.pixelFormat(picture({ pixelFormat: from }))).toBe(to)
})

test('alpha is lost by every codec but the lossless one, and by none of a picture that has none', () => {
  const clear = picture({ pixelFormat: 'yuva444p12le' })
  expect(recipeCodecs.filter((codec) => !losesAlpha(codec, clear))).toEqual(['ffv1'])
  expect(recipeCodecs.filter((codec) => losesAlpha(codec, picture({ pixelFormat: 'yuv444p12le' })))).toEqual([])
})

test('what is too small for a codec is told in the plan', () => {
  const small = pictureFacts({ width: 320, height: 180 })
  expect(() => plan(recipe('vc3-lb-op-atom', { size: { kind: 'divided', by: 2 } }), small)).toThrow(
    /would be 160 × 90, and VC-3 LB takes nothing smaller than 256 × 120/,
  )
  expect(plan(recipe('vc3-lb-op-atom'), small).raster).toMatchObject({ width: 320, height: 180 })
})

test.each([
  [rate(240), true],
  [rate(15), true],
  [rate(25_000, 1001), true],
  [rate(24_000, 1001), false],
  [rate(120), false],
])('whether MXF is made at a rate is told in the plan: %p', (at, isRefused) => {
  const make = () => plan(recipe('vc3-lb-op-atom'), pictureFacts({ rate: at, start: null }))
  if (isRefused) expect(make).toThrow(/MXF is not made at that rate/)
  else expect(make).not.toThrow()
  expect(() => plan(recipe('source-prores-422'), pictureFacts({ rate: at, start: null }))).not.toThrow()
})

describe('rasters', () => {
  test('a wider picture that fills a raster is cut off at both sides, alike', () => {
    const made = madeRaster(
      picture({ width: 2048, height: 858 }),
      { size: { kind: 'production' }, fit: 'crop', pixels: 'square' },
      format,
    )
    expect(made).toEqual({ width: 1920, height: 1080, content: { width: 2578, height: 1080, left: -328, top: 0 } })
  })

  test('what is cut off covers the whole raster', () => {
    const sizes = fc.integer({ min: 16, max: 8192 })
    fc.assert(
      fc.property(sizes, sizes, (width, height) => {
        const made = madeRaster(
          picture({ width, height }),
          { size: { kind: 'production' }, fit: 'crop', pixels: 'square' },
          format,
        )
        expect(made.content.width).toBeGreaterThanOrEqual(made.width)
        expect(made.content.height).toBeGreaterThanOrEqual(made.height)
        expect(made.content.left + made.content.width).toBeGreaterThanOrEqual(made.width)
        expect(made.content.top + made.content.height).toBeGreaterThanOrEqual(made.height)
      }),
    )
  })

  test('what is stretched takes the whole raster, whatever its shape; without a raster of its own nothing is stretched', () => {
    const whole = { width: 1920, height: 1080 }
    expect(
      madeRaster(
        picture({ width: 2048, height: 858 }),
        { size: { kind: 'production' }, fit: 'stretch', pixels: 'square' },
        format,
      ),
    ).toEqual({
      ...whole,
      content: { ...whole, left: 0, top: 0 },
    })
    expect(
      madeRaster(
        picture({ width: 2048, height: 858 }),
        { size: { kind: 'divided', by: 2 }, fit: 'stretch', pixels: 'square' },
        format,
      ),
    ).toMatchObject({
      width: 1024,
      height: 430,
    })
  })

  test('squeezed pixels that are kept keep the stored raster', () => {
    const squeezed = picture({ width: 960, height: 1080, pixelAspect: { numerator: 2, denominator: 1 } })
    expect(
      madeRaster(squeezed, { size: { kind: 'divided', by: 2 }, fit: 'pad', pixels: 'kept' }, format),
    ).toMatchObject({
      width: 480,
      height: 540,
    })
  })
})

describe('the encoder’s words', () => {
  test('a hash of every picture is taken before bars and burn-in, and goes its own way', () => {
    const list = words(recipe('review-h264'), pictureFacts({ width: 2048, height: 858 }))
    expect(list[list.indexOf('-filter_complex') + 1]).toMatch(
      /^\[0:V:0\]setpts=PTS\[i1\];\[i1\]scale=1280:536:.*format=yuv420p,split=2\[m\]\[s\];\[m\]pad=.*drawtext=.*\[v\];\[s\]scale=9:8:flags=area,format=gray\[h\]$/,
    )
    expect(list.slice(list.indexOf('[h]') - 1)).toEqual([
      ...['-map', '[h]', '-fps_mode', 'cfr', '-r', '25/1', '-c:v', 'rawvideo', '-f', 'rawvideo', 'file:/h'],
    ])
  })

  test('hashes of what was made are taken from the picture inside of its bars', () => {
    const fitted = plan(recipe('review-h264'), pictureFacts({ width: 2048, height: 858 }))
    expect(soughtHashGraph(fitted, 2)).toBe(
      '[0:V:0]trim=end_frame=1,setpts=0,crop=1280:536:0:92,scale=9:8:flags=area,format=gray[h0];[1:V:0]trim=end_frame=1,setpts=0,crop=1280:536:0:92,scale=9:8:flags=area,format=gray[h1];[h0][h1]vstack=inputs=2[h]',
    )
    expect(sampledHashGraph(fitted, [0, 24])).toBe(
      '[0:V:0]select=eq(n\\,0)+eq(n\\,24),crop=1280:536:0:92,scale=9:8:flags=area,format=gray[h]',
    )
  })

  test('what is lossless at its own size passes no scaler', () => {
    expect(filters(recipe('lossless-ffv1'))).toBe('format=yuv420p')
    expect(filters(recipe('lossless-ffv1', { size: { kind: 'divided', by: 2 } }))).toMatch(
      /^scale=960:540:flags=lanczos/,
    )
  })

  test('a codec that takes all values is given all, or white would be grey', () => {
    expect(filters(recipe('half-h264-intra', { codec: 'mjpeg' }))).toBe(
      'scale=960:540:flags=bilinear:out_range=pc,setsar=1,format=yuvj422p',
    )
    expect(filters(recipe('half-h264-intra'))).toContain('out_range=tv')
  })

  test('a burn-in is written last, over picture and bars, with the counting of the original', () => {
    const drop = pictureFacts({ rate: rate(30000, 1001), drop: true, start: '12:59:58;00', width: 2048, height: 858 })
    expect(filters(recipe('review-h264'), drop)).toBe(
      [
        'scale=1280:536:flags=bilinear:out_range=tv',
        'setsar=1',
        'format=yuv420p',
        'pad=1280:720:0:92',
        'drawtext=fontfile=/f/Mono.ttf:expansion=none:text=Low Water  A001C001.mov:fontcolor=white:fontsize=h*4/100:box=1:boxborderw=4:boxcolor=black@0.5:x=w/50:y=h-th-h/40',
        'drawtext=fontfile=/f/Mono.ttf:timecode=12\\\\:59\\\\:58\\;00:rate=30000/1001:fontcolor=white:fontsize=h*4/100:box=1:boxborderw=4:boxcolor=black@0.5:x=w-tw-w/50:y=h-th-h/40',
      ].join(','),
    )
  })

  test('a burnt-in text knows its fields and nothing else, and cannot leave its option', () => {
    const text = (line: string) =>
      filters(
        recipe('review-h264', {
          burnIn: { timecode: null, text: { words: line, place: 'top' }, heightPercent: 5, boxPercent: 0 },
        }),
      )
    expect(text('{reel} {scene}/{take} {what}')).toContain('text=A001 12A/3 {what}:')
    expect(text("it's: 100 % [a],b;c\\d")).toContain("text=it\\\\\\'s\\\\: 100 % \\[a\\]\\,b\\;c\\\\\\\\d:fontcolor")
    expect(text('   ')).not.toContain('drawtext')
  })

  test('without a timecode none is burnt in', () => {
    expect(filters(recipe('review-h264'), pictureFacts({ start: null }))).not.toContain('timecode=')
  })

  test('MP4 carries compressed sound and starts before it is whole', () => {
    expect(words(recipe('review-h264')).join(' ')).toContain('-c:a:0 aac -c:a:1 aac')
    expect(words(recipe('review-h264')).join(' ')).toContain(
      '+use_metadata_tags+faststart -movie_timescale 48000 -f mp4',
    )
  })

  test('scene, take and source are written into the file, in MXF as comments', () => {
    expect(words(recipe('source-prores-422')).join(' ')).toContain(
      '-metadata source=A001C001.mov -metadata scene=12A -metadata take=3',
    )
    expect(words(recipe('vc3-lb-op-atom')).join(' ')).toContain('-metadata comment_scene=12A')
  })

  test('the fixed-rate kind is asked for by the picture’s rate', () => {
    expect(words(recipe('hd-vc3-fixed-op-atom'), pictureFacts({ rate: rate(50) })).join(' ')).toContain('-b:v 75M')
  })
})

test.each<[string, Partial<Recipe>, Parameters<typeof pictureFacts>[0], RegExp]>([
  [
    'a rate that the fixed-rate kind does not know',
    { codec: 'vc3-hd' },
    { rate: rate(48) },
    /48 frames a second: VC-3, fixed rate for HD knows no such rate/,
  ],
  [
    'what is small already',
    { skipUpTo: { width: 1920, height: 1080 } },
    {},
    /1920 × 1080, which is not larger than 1920 × 1080/,
  ],
  [
    'what is of a codec that is left as it is',
    { skipCodecs: ['MJPEG', 'prores'] },
    { codec: 'prores' },
    /is ProRes.*, which the recipe leaves as it is/,
  ],
])('%s is refused', (_, change, facts, message) => {
  const made = recipe('hd-vc3-fixed-op-atom', { codec: 'vc3-lb', ...change })
  expect(() => plan(made, pictureFacts(facts))).toThrow(RecipeError)
  expect(() => plan(made, pictureFacts(facts))).toThrow(message)
})
