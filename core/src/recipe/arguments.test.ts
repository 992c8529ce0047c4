import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import {
  builtInRecipes,
  encodeArguments,
  inputArguments,
  inputList,
  isLogPicture,
  planEncode,
  type Recipe,
  readableFormats,
} from './index.ts'

const format = { rate: rate(25), width: 1920, height: 1080 }
const words = (recipeId: string, facts = pictureFacts(), reel: string | null = 'A001') => {
  const recipe = builtInRecipes.find((candidate) => candidate.id === recipeId) as Recipe
  const plan = planEncode({ name: 'A001C001.mov', facts, reel, recipe, format, production: 'Low Water' })
  const outputs = plan.files.map((file) => `/made/${file.name}`)
  return encodeArguments([{ plan, outputs, lut: { path: '/luts/x.cube', kind: '3D' }, hashes: '/tmp/hashes' }], {
    input: { kind: 'file', path: '/card/A001C001.mov' },
    font: '/fonts/mono.ttf',
    strip: null,
  })
}
const after = (list: readonly string[], word: string): string | undefined => list[list.indexOf(word) + 1]

test('what is made says from which folder of which box it is, where that is known', () => {
  const recipe = builtInRecipes.find(({ id }) => id === 'half-h264-intra') as Recipe
  const input = { name: 'A001C001.mov', facts: pictureFacts(), reel: null, recipe, format, production: 'Low Water' }
  const said = (sourcePlace?: { folder: string; volume: string }): string[] => {
    const plan = planEncode({ ...input, ...(sourcePlace && { sourcePlace }) })
    const paths = { input: { kind: 'file' as const, path: '/card/A001C001.mov' }, font: '/mono.ttf', strip: null }
    return encodeArguments([{ plan, outputs: ['/made/x.mov'], lut: null, hashes: '/h' }], paths).filter((word) =>
      word.startsWith('source'),
    )
  }
  expect(said({ folder: 'CLIPS/day 1', volume: 'A001' })).toEqual([
    ...['source=A001C001.mov', 'source_folder=CLIPS/day 1', 'source_volume=A001'],
  ])
  expect(said({ folder: '', volume: 'A001' })).toEqual(['source=A001C001.mov', 'source_volume=A001'])
  expect(said()).toEqual(['source=A001C001.mov'])
})

describe('of the two fields of an interlaced picture', () => {
  const filter = (recipeId: string, change: Parameters<typeof pictureFacts>[0] = {}): string =>
    after(words(recipeId, pictureFacts({ scan: 'tt', ...change })), '-filter_complex') ?? ''
  test('one is made before its lines are moved, and by codecs that cannot say that there are two', () => {
    for (const id of ['half-h264-intra', 'vc3-lb-op-atom', 'review-h264'])
      expect(filter(id)).toMatch(
        /^\[0:V:0\]setpts=PTS\[i1\];\[i1\](setsar=\S+?,)?bwdif=mode=send_frame:parity=auto:deint=all,scale=/,
      )
    expect(filter('half-h264-intra', { scan: 'progressive' })).not.toContain('bwdif')
    expect(filter('half-h264-intra', { scan: null })).not.toContain('bwdif')
  })
  test('both are kept by a codec that says so, as long as no line is moved', () => {
    expect(filter('source-prores-422')).not.toContain('bwdif')
    expect(after(words('source-prores-422', pictureFacts({ scan: 'bb' })), '-flags')).toBe('+ildct')
    expect(words('source-prores-422')).not.toContain('-flags')
    expect(filter('source-prores-422', { rotation: 90 })).toContain('bwdif')
  })
})

describe('the encoder’s words, whole', () => {
  test('half size in MOV', () => {
    expect(words('half-h264-intra')).toEqual([
      ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n'],
      ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-i', 'file:/card/A001C001.mov'],
      '-filter_complex',
      '[0:V:0]setpts=PTS[i1];[i1]scale=960:540:flags=bilinear:out_range=tv,setsar=1,format=yuv420p,split=2[m][s];[m]null[v];[s]scale=9:8:flags=area,format=gray[h]',
      ...[
        '-map',
        '[v]',
        '-map',
        '0:a:0',
        '-map',
        '0:a:1',
        '-map_metadata',
        '-1',
        '-map_chapters',
        '-1',
        '-fps_mode',
        'cfr',
        '-r',
        '25/1',
      ],
      ...['-c:v', 'libx264', '-preset', 'superfast', '-g', '1', '-crf', '22'],
      ...['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709'],
      ...['-c:a:0', 'pcm_s24le', '-c:a:1', 'pcm_s24le', '-timecode', '10:00:00:00'],
      ...['-metadata', 'reel_name=A001', '-metadata:s:v:0', 'reel_name=A001', '-metadata', 'production=Low Water'],
      ...['-metadata', 'source=A001C001.mov'],
      ...[
        '-metadata',
        'recipe=Half size, H.264 intra, version 1',
        '-movflags',
        '+use_metadata_tags',
        '-movie_timescale',
        '48000',
        '-f',
        'mov',
        'file:/made/A001C001_proxy.mov',
      ],
      ...['-map', '[h]', '-fps_mode', 'cfr', '-r', '25/1', '-c:v', 'rawvideo', '-f', 'rawvideo', 'file:/tmp/hashes'],
    ])
  })

  test('OP-Atom, one file per track: the picture’s words end before the first sound’s begin', () => {
    const list = words('vc3-lb-op-atom', pictureFacts({ channels: 1 }))
    const picture = list.slice(0, list.indexOf('file:/made/A001C001_V1.mxf') + 1)
    const sound = list.slice(picture.length, list.indexOf('[h]') - 1)
    expect(after(picture, '-profile:v')).toBe('dnxhr_lb')
    expect(after(picture, '-filter_complex')).toMatch(/;\[0:a:0\]pan=mono\|c0=c0\[a0\]$/)
    expect(sound).toEqual([
      ...[
        '-map',
        '[a0]',
        '-map_metadata',
        '-1',
        '-c:a',
        'pcm_s24le',
        '-ar',
        '48000',
        '-mxf_audio_edit_rate',
        '25/1',
        '-timecode',
        '10:00:00:00',
      ],
      ...[
        '-metadata',
        'reel_name=A001',
        '-metadata:s:v:0',
        'reel_name=A001',
        '-metadata',
        'material_package_name=A001C001',
        '-metadata',
        'comment_production=Low Water',
      ],
      ...['-metadata', 'comment_source=A001C001.mov'],
      ...[
        '-metadata',
        'comment_recipe=Source size, VC-3 LB, OP-Atom, version 1',
        '-metadata',
        // Room for the tracks of the other file, and what is left of that for names and comments.
        `comment_reserve=${'.'.repeat(427)}`,
        '-f',
        'mxf_opatom',
        'file:/made/A001C001_A1.mxf',
      ],
    ])
  })

  test('a stereo stream is taken apart channel by channel', () => {
    const stereo = {
      ...pictureFacts({ channels: 0 }),
      sound: [
        { codec: 'pcm_s16le', channels: 2, layout: 'stereo', sampleRate: 48_000, bitDepth: 16, samples: 192_000 },
      ],
    }
    const list = words('vc3-lb-op-atom', stereo)
    expect(after(list, '-filter_complex')).toMatch(/;\[0:a:0\]pan=mono\|c0=c0\[a0\];\[0:a:0\]pan=mono\|c0=c1\[a1\]$/)
    expect(list.filter((word) => word === 'pcm_s16le')).toHaveLength(2)
  })

  test('fitted to the production’s raster with bars that stay even', () => {
    const list = words('production-prores-proxy', pictureFacts({ width: 1440, height: 1080 }))
    expect(after(list, '-filter_complex')).toBe(
      '[0:V:0]setpts=PTS[i1];[i1]scale=1440:1080:flags=bilinear:out_range=tv,setsar=1,format=yuv422p10le,split=2[m][s];[m]pad=1920:1080:240:0[v];[s]scale=9:8:flags=area,format=gray[h]',
    )
    expect(after(list, '-profile:v')).toBe('0')
  })
})

describe('identity', () => {
  test('what is not known is not written', () => {
    const list = words('half-h264-intra', pictureFacts({ start: null }), null)
    expect(list).not.toContain('-timecode')
    expect(list.join(' ')).not.toContain('reel_name')
  })
  test('a reel from a rule is written, whatever the file says', () => {
    expect(words('half-h264-intra', pictureFacts({ reel: 'WRONG' }), 'B002')).toContain('reel_name=B002')
  })
  test('the rate is the original’s, exactly, never the production’s', () => {
    for (const { id } of builtInRecipes)
      expect(after(words(id, pictureFacts({ rate: rate(24000, 1001), start: '10:00:00:00' })), '-r')).toBe('24000/1001')
  })
  test.each([
    [16, 'pcm_s16le'],
    [24, 'pcm_s24le'],
    [32, 'pcm_s24le'],
    [null, 'pcm_s16le'],
  ])('sound of %p bits is written as %s', (bitDepth, codec) => {
    const sound = [{ codec: 'pcm', channels: 1, layout: null, sampleRate: 48_000, bitDepth, samples: 192_000 }]
    expect(after(words('half-h264-intra', { ...pictureFacts(), sound }), '-c:a:0')).toBe(codec)
  })
})

test.each([
  ['log100', true],
  ['log316', true],
  ['bt709', false],
  ['smpte2084', false],
  [null, false],
])('transfer %p is a log picture: %p', (transfer, isLog) => {
  const picture = pictureFacts({ colour: { primaries: null, transfer, matrix: null, range: null } }).picture
  expect(picture && isLogPicture(picture)).toBe(isLog)
})

test('a log picture without its LUT at hand is no reason to make a flat one', () => {
  const recipe = builtInRecipes[0] as Recipe
  const log = pictureFacts({ colour: { primaries: 'bt709', transfer: 'log100', matrix: 'bt709', range: 'tv' } })
  const plan = planEncode({ name: 'x.mov', facts: log, reel: null, recipe, format, production: 'x' })
  expect(() =>
    encodeArguments([{ plan, outputs: ['/b'], lut: null, hashes: '/h' }], {
      input: { kind: 'file', path: '/a' },
      font: '/fonts/mono.ttf',
      strip: null,
    }),
  ).toThrow('not in the library')
})

test('the built-in recipes say what they are for, and have names and ids of their own', () => {
  expect(new Set(builtInRecipes.map((recipe) => recipe.id)).size).toBe(builtInRecipes.length)
  for (const recipe of builtInRecipes) expect(recipe.about).toMatch(/\.$/)
})

describe('several files as one input', () => {
  test('a list is read by its own format alone, stills at the clip’s rate', () => {
    const stills = inputArguments({ kind: 'list', path: '/tmp/l', isStills: true }, rate(30000, 1001))
    expect(stills.slice(-8)).toEqual(['-r', '30000/1001', '-f', 'concat', '-safe', '0', '-i', 'file:/tmp/l'])
    const parts = inputArguments({ kind: 'list', path: '/tmp/l', isStills: false }, rate(25))
    expect(parts).not.toContain('-r')
    expect(parts[3]).toContain('concat')
    expect(inputArguments({ kind: 'file', path: '/tmp/l' }, rate(25))[3]).not.toContain('concat')
  })
  test('a list names nothing that could be an order to the decoder', () => {
    expect(inputList(['0.mov', '1.mov'], false)).toBe('ffconcat version 1.0\nfile 0.mov\nfile 1.mov\n')
    expect(inputList(['0.dpx'], true)).toContain('option pattern_type none')
    for (const name of [
      "it's.mov",
      'a\nfile http://127.0.0.1/x',
      '../x.mov',
      '/v/b.mov',
      'x y',
      '%03d.dpx',
      '',
      'a.b.c',
    ])
      expect(() => inputList([name], false)).toThrow('is no name')
  })
})

describe('several items from one decode', () => {
  const logFacts = pictureFacts({ colour: { primaries: 'bt709', transfer: 'log100', matrix: 'bt709', range: 'tv' } })
  const lut = { path: '/luts/x.cube', kind: '1D' } as const
  const item = (id: string, change: Partial<Recipe> = {}, facts = logFacts) => {
    const recipe = { ...(builtInRecipes.find((candidate) => candidate.id === id) as Recipe), ...change }
    const plan = planEncode({ name: 'A001C001.mov', facts, reel: 'A001', recipe, format, production: 'Low Water' })
    return { plan, outputs: plan.files.map((file) => `/made/${file.name}`), lut, hashes: `/tmp/${id}` }
  }
  const strip = { path: '/strip.jpg', frames: [3, 9], width: 320, height: 180, lut }
  const paths = { input: { kind: 'file', path: '/card/A001C001.mov' }, font: '/fonts/mono.ttf', strip } as const
  const graphOf = (...items: Parameters<typeof encodeArguments>[0]): string[] =>
    (after(encodeArguments(items, paths), '-filter_complex') as string).split(';')
  const list = encodeArguments([item('half-h264-intra'), item('vc3-lb-op-atom')], paths)
  const graph = (after(list, '-filter_complex') as string).split(';')

  test('the original is read once, and each item without a LUT begins at a branch of its own', () => {
    expect(list.filter((word) => word === '-i')).toHaveLength(1)
    const plain = graphOf(item('half-h264-intra', {}, pictureFacts()), item('vc3-lb-op-atom', {}, pictureFacts()))
    expect(plain[0]).toBe('[0:V:0]setpts=PTS,split=3[i1][i2][i3]')
    expect(plain.filter((piece) => piece.startsWith('[i1]scale=960:540'))).toHaveLength(1)
    expect(plain.filter((piece) => piece.startsWith('[i2]scale=1920:1080'))).toHaveLength(1)
  })

  test('what is smaller is made from the pictures of a larger one that have passed the same LUT', () => {
    expect(graph[0]).toBe('[0:V:0]setpts=PTS,split=2[i1][i2]')
    expect(graph[1]).toBe(
      '[b_1]scale=960:540:flags=bilinear,setsar=1,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p,split=2[m_1][s_1]',
    )
    expect(graph.filter((piece) => piece.startsWith('[i1]'))).toEqual([
      '[i1]scale=1920:1080:flags=bilinear:out_range=tv,setsar=1,format=gbrp16le,lut1d=file=/luts/x.cube,split=2[l_2][b_1]',
    ])
    expect(graph).toContain('[l_2]scale=out_color_matrix=bt709:out_range=tv,format=yuv422p,split=2[m_2][s_2]')
  })

  test.each([
    ['another care in scaling', { scaling: 'fine' }],
    ['pixels kept as they are', { pixels: 'kept' }],
    ['no LUT', { viewingLut: null }],
  ] as const)('it begins at the original where it has %s', (_, change) => {
    expect(graphOf(item('half-h264-intra', change), item('vc3-lb-op-atom'))[0]).toBe(
      '[0:V:0]setpts=PTS,split=3[i1][i2][i3]',
    )
  })

  test('of two that are alike the first one passes the LUT', () => {
    const twice = graphOf(item('vc3-lb-op-atom'), item('vc3-lb-op-atom'), item('half-h264-intra'))
    expect(twice[0]).toBe('[0:V:0]setpts=PTS,split=2[i1][i2]')
    expect(twice[1]).toMatch(/lut1d=file=\/luts\/x\.cube,split=3\[l_1\]\[b_2\]\[b_3\]$/)
  })

  test('pictures, hashes and sounds of each go to its own files', () => {
    expect(list.filter((word) => word.startsWith('file:/'))).toEqual([
      ...['file:/card/A001C001.mov', 'file:/made/A001C001_proxy.mov', 'file:/tmp/half-h264-intra'],
      ...[
        'file:/made/A001C001_V1.mxf',
        'file:/made/A001C001_A1.mxf',
        'file:/made/A001C001_A2.mxf',
        'file:/tmp/vc3-lb-op-atom',
      ],
      'file:/strip.jpg',
    ])
    const maps = list.flatMap((word, index) => (word === '-map' ? [list[index + 1]] : []))
    expect(maps).toEqual(['[v_1]', '0:a:0', '0:a:1', '[h_1]', '[v_2]', '[a0_2]', '[a1_2]', '[h_2]', '[f]'])
    const labels = graph.flatMap((piece) => piece.match(/\[\w+\]$/) ?? [])
    expect(new Set(labels).size).toBe(labels.length)
  })

  test('the strip takes its frames by number, with the look', () => {
    expect(graph.at(-1)).toBe(
      '[i2]select=eq(n\\,3)+eq(n\\,9),scale=320:180:flags=bilinear,setsar=1,format=gbrp,lut1d=file=/luts/x.cube,format=yuvj420p,tile=2x1[f]',
    )
  })
})
