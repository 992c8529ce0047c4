import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { compareTwin, judgePair, type PairState } from './index.ts'

const original = { name: 'A001C001.mov', facts: pictureFacts(), reel: 'A001' }
const compare = (
  facts = pictureFacts(),
  name = 'A001C001_proxy.mov',
  source = original,
  content: { width: number; height: number } | null = null,
) => compareTwin(source, [{ part: 'whole', name, facts }], ['_proxy'], content)
const differing = (rows: ReturnType<typeof compare>) => rows.filter((row) => !row.agrees).map((row) => row.aspect)

describe('twins', () => {
  test('a half-size proxy agrees in everything', () => {
    expect(differing(compare(pictureFacts({ width: 960, height: 540 })))).toEqual([])
  })

  test.each([
    ['one frame short', pictureFacts({ frames: 99 }), ['length', 'sound length'], '1 frame short'],
    ['another rate', pictureFacts({ rate: rate(24), start: '10:00:00:00' }), ['rate'], 'drifts'],
    ['shifted', pictureFacts({ start: '10:00:00:02' }), ['timecode'], '2 frames later'],
    ['no timecode', pictureFacts({ start: null }), ['timecode'], 'the other has none'],
    ['another reel', pictureFacts({ reel: 'A002' }), ['reel'], 'the reels differ'],
    ['a channel missing', pictureFacts({ channels: 1 }), ['channels'], '1 channel missing'],
    ['squeezed', pictureFacts({ width: 720, height: 576 }), ['shape'], 'stretched or squeezed'],
  ])('%s is found and told', (_, facts, aspects, difference) => {
    const rows = compare(facts)
    expect(differing(rows)).toEqual(aspects)
    expect(rows[0]?.difference).toContain(difference)
  })

  test('another name is found', () => {
    expect(differing(compare(pictureFacts(), 'A001C0010_proxy.mov'))).toEqual(['name'])
  })

  test('a twin may keep the name that its renamed original has lost', () => {
    const renamed = { ...original, name: 'wheel close.mov', formerNames: ['A001C001'] }
    expect(differing(compare(pictureFacts(), 'A001C001_proxy.mov', renamed))).toEqual([])
    expect(differing(compare(pictureFacts(), 'B.mov', renamed))).toEqual(['name'])
  })

  test('rounding to even dimensions is no other shape, and padding is not part of the picture', () => {
    const odd = { ...original, facts: pictureFacts({ width: 1998, height: 1080 }) }
    expect(differing(compare(pictureFacts({ width: 500, height: 270 }), 'A001C001.mov', odd))).toEqual([])
    expect(
      differing(
        compare(pictureFacts({ width: 1920, height: 1080 }), 'A001C001.mov', odd, { width: 1920, height: 1038 }),
      ),
    ).toEqual([])
    expect(differing(compare(pictureFacts({ width: 1920, height: 1080 }), 'A001C001.mov', odd))).toEqual(['shape'])
  })

  test('OP-Atom, one file per track splits channels by design', () => {
    const stereo = {
      ...original,
      facts: {
        ...pictureFacts({ channels: 0 }),
        sound: [
          { codec: 'pcm_s16le', channels: 2, layout: 'stereo', sampleRate: 48_000, bitDepth: 16, samples: 192_000 },
        ],
      },
    }
    const mono = (number: number) => ({
      part: 'sound' as const,
      name: `A001C001_A${number}.mxf`,
      facts: {
        ...soundFacts(192_000, 0),
        container: 'mxf',
        sound: [{ codec: 'pcm_s16le', channels: 1, layout: null, sampleRate: 48_000, bitDepth: 16, samples: 192_000 }],
      },
    })
    const picture = {
      part: 'picture' as const,
      name: 'A001C001_V1.mxf',
      facts: pictureFacts({ channels: 0, container: 'mxf' }),
    }
    expect(differing(compareTwin(stereo, [picture, mono(1), mono(2)], [], null))).toEqual([])
    expect(differing(compareTwin(stereo, [picture, mono(1)], [], null))).toEqual(['channels'])
  })

  test('compressed sound that is made a file of its own is decoded in whole packets, then filled to whole frames', () => {
    // Two seconds at 50 fps: 87 packets of 1024 samples at 44.1 kHz are 96,967 samples at 48 kHz, or 102 frames.
    const sound = { codec: 'aac', channels: 1, layout: 'mono', sampleRate: 44_100, bitDepth: null, samples: 88_200 }
    const shown = { ...pictureFacts({ channels: 0, frames: 100, rate: rate(50) }), sound: [sound] }
    const made = (samples: number) => [
      { part: 'picture' as const, name: 'A001C001_V1.mxf', facts: { ...shown, container: 'mxf', sound: [] } },
      {
        part: 'sound' as const,
        name: 'A001C001_A1.mxf',
        facts: {
          ...{ ...soundFacts(samples, 0), container: 'mxf' },
          sound: [{ ...sound, codec: 'pcm_s16le', layout: null, sampleRate: 48_000, bitDepth: 16, samples }],
        },
      },
    ]
    const compareSound = (samples: number) =>
      differing(compareTwin({ ...original, facts: shown }, made(samples), [], null))
    expect(compareSound(102 * 960)).toEqual([])
    expect(compareSound(105 * 960)).toEqual(['sound length'])
    expect(compareSound(96 * 960)).toEqual(['sound length'])
  })

  test('compressed sound of others may end with a packet: less than one is told, and no fault', () => {
    const shown = (codec: string, samples: number) => {
      const facts = pictureFacts({ channels: 1 })
      return { ...facts, sound: facts.sound.map((stream) => ({ ...stream, codec, samples })) }
    }
    const lengthOf = (codec: string, samples: number) =>
      compareTwin(
        { ...original, facts: shown('pcm_s24le', 192_000) },
        [{ part: 'whole', name: 'A001C001.mp4', facts: shown(codec, samples) }],
        [],
        null,
      ).find(({ aspect }) => aspect === 'sound length')
    expect(lengthOf('aac', 192_000)).toMatchObject({ agrees: true, difference: null })
    for (const samples of [191_976, 193_536])
      expect(lengthOf('aac', samples)).toMatchObject({ agrees: true, difference: expect.stringMatching(/a packet/) })
    expect(lengthOf('aac', 189_000)).toMatchObject({ agrees: false })
    expect(lengthOf('pcm_s16le', 191_976)).toMatchObject({ agrees: false })
  })

  test('in one MXF file sound is as long as its picture: what that makes of another length is told', () => {
    const shown = (samples: number, container = 'mov') => {
      const facts = pictureFacts({ channels: 1, container })
      return { ...facts, sound: facts.sound.map((stream) => ({ ...stream, samples })) }
    }
    const lengthOf = (samples: number, made: number) =>
      compareTwin(
        { ...original, facts: shown(samples) },
        [{ part: 'whole', name: 'A001C001.mxf', facts: shown(made, 'mxf') }],
        [],
        null,
      ).find(({ aspect }) => aspect === 'sound length')
    // A hundred frames at 25 are 192,000 samples.
    expect(lengthOf(192_000, 192_000)).toMatchObject({ agrees: true, difference: null })
    expect(lengthOf(191_000, 192_000)).toMatchObject({ agrees: true, difference: null })
    expect(lengthOf(180_000, 192_000)).toMatchObject({
      agrees: true,
      difference: expect.stringMatching(/12000.*silence/),
    })
    expect(lengthOf(200_000, 192_000)).toMatchObject({
      agrees: true,
      difference: expect.stringMatching(/8000.*not in it/),
    })
    // Neither as long as its picture nor as the original's.
    expect(lengthOf(180_000, 185_000)).toMatchObject({ agrees: false })
  })

  test('MXF cannot say “no timecode”: midnight stands for it', () => {
    const without = { ...original, facts: pictureFacts({ start: null }) }
    expect(
      differing(compare(pictureFacts({ start: '00:00:00:00', container: 'mxf' }), 'A001C001.mov', without)),
    ).toEqual([])
    const rows = compare(pictureFacts({ start: '00:00:00:00', container: 'mxf' }), 'A001C001.mov', without)
    expect(rows.find(({ aspect }) => aspect === 'timecode')).toMatchObject({
      ...{ expected: 'none', found: '00:00:00:00', difference: expect.stringContaining('tells nothing') },
    })
    expect(differing(compare(pictureFacts({ start: '00:00:00:00' }), 'A001C001.mov', without))).toEqual(['timecode'])
  })
})

describe('verdicts', () => {
  const well: PairState = {
    original: 'here',
    made: 'here',
    comparison: [],
    originalChanged: false,
    soundChanged: false,
    madeChanged: false,
    recipeChanged: false,
  }
  const row = { aspect: 'reel', expected: 'a', found: 'b', agrees: false, difference: null } as const
  test.each<[string, Partial<PairState>]>([
    ['matched', {}],
    ['proven', { comparison: [{ ...row, aspect: 'pictures', agrees: true }] }],
    ['mismatched', { comparison: [{ ...row, aspect: 'pictures' }] }],
    ['both gone', { original: 'gone', made: 'gone' }],
    ['original gone', { original: 'gone' }],
    ['original away', { original: 'away' }],
    ['proxy gone', { made: 'gone', original: 'away' }],
    ['proxy away', { made: 'away' }],
    ['stale', { originalChanged: true, comparison: [row] }],
    ['stale', { soundChanged: true, comparison: [row] }],
    ['proxy gone', { soundChanged: true, made: 'gone' }],
    ['unchecked', { comparison: null }],
    ['unchecked', { madeChanged: true }],
    ['mismatched', { comparison: [row], recipeChanged: true }],
    ['stale', { recipeChanged: true }],
  ])('%s', (verdict, change) => {
    expect(judgePair({ ...well, ...change })).toBe(verdict)
  })

  test('a proxy that plays never hides an original that is gone', () => {
    const presence = fc.constantFrom('here', 'away', 'gone') as fc.Arbitrary<PairState['original']>
    fc.assert(
      fc.property(presence, fc.boolean(), fc.boolean(), (made, originalChanged, recipeChanged) => {
        expect(judgePair({ ...well, original: 'gone', made, originalChanged, recipeChanged })).toMatch(/gone$/)
      }),
    )
  })
})
