import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { exactRange, rate } from '../time/index.ts'
import {
  assign,
  type Candidate,
  type Choice,
  compareTwin,
  judgePair,
  type PairState,
  rateCandidate,
  sameReel,
  type Wanted,
} from './index.ts'

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
    expect(differing(compare(pictureFacts({ width: 1920, height: 1080 }), 'A001C001.mov', odd, { width: 1920, height: 1038 }))).toEqual([])
    expect(differing(compare(pictureFacts({ width: 1920, height: 1080 }), 'A001C001.mov', odd))).toEqual(['shape'])
  })

  test('one file per essence splits channels by design', () => {
    const stereo = {
      ...original,
      facts: {
        ...pictureFacts({ channels: 0 }),
        sound: [{ codec: 'pcm_s16le', channels: 2, layout: 'stereo', sampleRate: 48_000, bitDepth: 16, samples: 192_000 }],
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
    const picture = { part: 'picture' as const, name: 'A001C001_V1.mxf', facts: pictureFacts({ channels: 0, container: 'mxf' }) }
    expect(differing(compareTwin(stereo, [picture, mono(1), mono(2)], [], null))).toEqual([])
    expect(differing(compareTwin(stereo, [picture, mono(1)], [], null))).toEqual(['channels'])
  })

  test('MXF cannot say “no timecode”: midnight stands for it', () => {
    const without = { ...original, facts: pictureFacts({ start: null }) }
    expect(differing(compare(pictureFacts({ start: '00:00:00:00', container: 'mxf' }), 'A001C001.mov', without))).toEqual([])
    expect(differing(compare(pictureFacts({ start: '00:00:00:00' }), 'A001C001.mov', without))).toEqual(['timecode'])
  })
})

describe('verdicts', () => {
  const well: PairState = {
    original: 'here',
    made: 'here',
    comparison: [],
    originalChanged: false,
    madeChanged: false,
    recipeChanged: false,
  }
  const row = { aspect: 'reel', expected: 'a', found: 'b', agrees: false, difference: null } as const
  test.each<[string, Partial<PairState>]>([
    ['sound', {}],
    ['both gone', { original: 'gone', made: 'gone' }],
    ['original gone', { original: 'gone' }],
    ['original away', { original: 'away' }],
    ['proxy gone', { made: 'gone', original: 'away' }],
    ['proxy away', { made: 'away' }],
    ['stale', { originalChanged: true, comparison: [row] }],
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

describe('candidates', () => {
  const wanted: Wanted = {
    id: 'w',
    names: ['A001C001.mov'],
    path: '/cards/A001/A001C001.mov',
    kind: 'picture',
    reel: 'A001',
    rate: rate(25),
    startFrame: 900_000,
    dropFrame: false,
    frames: 100,
    channels: 2,
    fingerprint: 'aaaa',
    uses: [{ label: 'event 7', rate: rate(25), range: exactRange({ startFrame: 900_010, endFrame: 900_090 }) }],
  }
  const file = (change: Partial<Candidate> = {}): Candidate => ({
    id: 'f',
    path: '/shelf/A001C001.mov',
    facts: pictureFacts(),
    reel: 'A001',
    fingerprint: 'bbbb',
    ...change,
  })
  const score = (change: Partial<Candidate>) => rateCandidate(wanted, file(change), ['_proxy'])

  test('the same content under another name beats the same name with other content', () => {
    const renamed = score({ path: '/shelf/x.mov', fingerprint: 'aaaa' })
    const other = score({})
    expect(renamed.refusal).toBeNull()
    expect(renamed.score).toBeGreaterThan(other.score)
  })

  test.each([
    ['another kind', { facts: soundFacts(480_000, 0) }, 'picture is wanted'],
    ['another rate', { facts: pictureFacts({ rate: rate(24) }) }, 'its rate is 24, not 25'],
    ['too short', { facts: pictureFacts({ frames: 85 }) }, 'event 7 needs 5 frames at the tail more'],
    ['starts late', { facts: pictureFacts({ start: '10:00:00:12' }) }, 'event 7 needs 2 frames at the head more'],
    [
      'nothing in common',
      { path: '/x/y.mov', reel: null, facts: pictureFacts({ start: null, reel: null }) },
      'nothing that names it agrees',
    ],
  ])('%s is refused with its reason', (_, change, reason) => {
    expect(score(change).refusal).toContain(reason)
  })

  test('a list may keep eight characters of a reel', () => {
    expect(sameReel('A001C001', 'a001c001_1104')).toBe(true)
    expect(sameReel('A001', 'A0012')).toBe(false)
  })
})

describe('assignment', () => {
  test('the batch is solved as a whole: the second best for one lets both have something', () => {
    const choices: Choice[] = [
      { wanted: 'a', candidate: '1', score: 10 },
      { wanted: 'a', candidate: '2', score: 9 },
      { wanted: 'b', candidate: '1', score: 8 },
    ]
    expect([...assign(choices)].sort()).toEqual([
      ['a', '2'],
      ['b', '1'],
    ])
  })

  test('no candidate is given twice and the sum is the greatest possible', () => {
    const choice = fc.record({
      wanted: fc.constantFrom('a', 'b', 'c', 'd'),
      candidate: fc.constantFrom('1', '2', '3', '4'),
      score: fc.integer({ min: 1, max: 50 }),
    })
    fc.assert(
      fc.property(fc.uniqueArray(choice, { selector: ({ wanted, candidate }) => wanted + candidate, maxLength: 12 }), (choices) => {
        const result = assign(choices)
        expect(new Set(result.values()).size).toBe(result.size)
        const sum = [...result].reduce(
          (total, [wanted, candidate]) =>
            total + (choices.find((item) => item.wanted === wanted && item.candidate === candidate)?.score ?? Number.NaN),
          0,
        )
        expect(sum).toBe(bestByTrying(choices))
      }),
    )
  })
})

/** The greatest sum by trying everything. */
function bestByTrying(choices: readonly Choice[]): number {
  const [first] = choices
  if (!first) return 0
  const without = bestByTrying(choices.slice(1))
  const rest = choices.slice(1).filter((choice) => choice.wanted !== first.wanted && choice.candidate !== first.candidate)
  return Math.max(without, first.score + bestByTrying(rest))
}
