import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import {
  describeGaps,
  findCameraProxies,
  findSequences,
  findSpannedTakes,
  joinFacts,
  type StillSequence,
  sequenceFramePaths,
  sequenceFrames,
  sequenceGaps,
  sequenceName,
  sequencePath,
  sequenceStills,
} from './index.ts'

const range = (from: number, to: number): number[] => Array.from({ length: to - from + 1 }, (_, index) => from + index)
const padded = (numbers: number[], digits = 4): string[] =>
  numbers.map((number) => `mist_${String(number).padStart(digits, '0')}.dpx`)

describe('numbered stills', () => {
  test('are one clip, with their gaps', () => {
    const { sequences, rest } = findSequences('day 3', [
      ...padded([...range(1, 9), ...range(12, 20), 22]),
      'slate.png',
      'notes 1.txt',
    ])
    const [sequence] = sequences as [StillSequence]
    expect(sequences).toHaveLength(1)
    expect(rest).toEqual(['notes 1.txt', 'slate.png'])
    expect(sequencePath(sequence)).toBe('day 3/mist_####.dpx')
    expect(sequenceName(sequence)).toBe('mist')
    expect([sequenceFrames(sequence), sequenceStills(sequence)]).toEqual([22, 19])
    expect(sequenceGaps(sequence)).toEqual([
      { startFrame: 10, endFrame: 12 },
      { startFrame: 21, endFrame: 22 },
    ])
    expect(describeGaps(sequenceGaps(sequence))).toBe('frames 10 to 11 and 21')
  })

  test('a gap repeats the still before it, so that time holds', () => {
    const [sequence] = findSequences('', padded([1, 2, 3, 6, 7, 8])).sequences as [StillSequence]
    expect([...sequenceFramePaths(sequence)].map((path) => Number(path.slice(5, 9)))).toEqual([1, 2, 3, 3, 3, 6, 7, 8])
  })

  test('without padding, widths mix', () => {
    const [sequence] = findSequences(
      '',
      range(8, 12).map((number) => `f${number}.png`),
    ).sequences as [StillSequence]
    expect(sequence).toMatchObject({ digits: 0, ranges: [{ startFrame: 8, endFrame: 13 }] })
    expect(sequencePath(sequence)).toBe('f#.png')
  })

  test('with padding, widths are two sequences', () => {
    const names = [...padded(range(1, 6), 4), ...padded(range(1, 6), 6)]
    expect(
      findSequences('', names)
        .sequences.map(({ digits }) => digits)
        .sort(),
    ).toEqual([4, 6])
  })

  test('few stills, or stills numbered with wide gaps, stay single', () => {
    expect(findSequences('', padded(range(1, 4))).sequences).toEqual([])
    expect(findSequences('', padded([1, 10, 20, 30, 40, 50])).sequences).toEqual([])
  })

  test('movies are never taken for stills', () => {
    expect(
      findSequences(
        '',
        range(1, 9).map((number) => `A001C00${number}.mov`),
      ).sequences,
    ).toEqual([])
  })

  test('a lone gap in words', () => {
    expect(describeGaps([{ startFrame: 14, endFrame: 15 }])).toBe('frame 14')
    expect(describeGaps(range(1, 9).map((at) => ({ startFrame: at * 10, endFrame: at * 10 + 1 })))).toBe(
      'frames 10, 20, 30, 40, 50 and 4 more gaps',
    )
  })
})

describe('takes over several files', () => {
  const part = (path: string, start: string, frames = 100, sizeBytes = 4000, change = {}) => ({
    id: path,
    path,
    sizeBytes,
    facts: pictureFacts({ start, frames, ...change }),
  })
  test('continuous timecode and counters make one take', () => {
    const files = [
      part('B/T1_2.mov', '10:00:04:00'),
      part('B/T1_1.mov', '10:00:00:00'),
      part('B/T1_3.mov', '10:00:08:00', 40, 1000),
    ]
    expect(findSpannedTakes(files).map((take) => take.map(({ path }) => path))).toEqual([
      ['B/T1_1.mov', 'B/T1_2.mov', 'B/T1_3.mov'],
    ])
    const joined = joinFacts(findSpannedTakes(files)[0]?.map(({ facts }) => facts) ?? [])
    expect(joined.picture?.frames).toBe(240)
    expect(joined.sound[0]?.samples).toBe(240 * 1920)
    expect(joined.startFrame).toBe(900_000)
  })
  test.each([
    ['a frame between', [part('T_1.mov', '10:00:00:00'), part('T_2.mov', '10:00:04:01')]],
    ['another folder', [part('a/T_1.mov', '10:00:00:00'), part('b/T_2.mov', '10:00:04:00')]],
    ['another reel', [part('T_1.mov', '10:00:00:00'), part('T_2.mov', '10:00:04:00', 100, 4000, { reel: 'B001' })]],
    ['a counter inside the name', [part('A001C001.mov', '10:00:00:00'), part('A001C002.mov', '10:00:04:00')]],
    ['a counter that begins late', [part('T_7.mov', '10:00:00:00'), part('T_8.mov', '10:00:04:00')]],
    [
      'sizes that were cut at no limit',
      [part('T_1.mov', '10:00:00:00', 100, 900), part('T_2.mov', '10:00:04:00', 100, 4000)],
    ],
  ])('%s keeps them apart', (_, files) => expect(findSpannedTakes(files)).toEqual([]))
})

describe('a camera’s own proxies', () => {
  const file = (path: string, change = {}) => ({ id: path, path, facts: pictureFacts(change) })
  const small = { width: 640, height: 360 }
  const suffixes = ['_proxy']
  test('are found beside or below their originals', () => {
    const files = [
      file('B/C1.mov'),
      file('B/sub/C1_proxy.mov', small),
      file('B/C2.mov', { start: '11:00:00:00' }),
      file('low/C2.mp4', { ...small, start: '11:00:00:00' }),
    ]
    expect(findCameraProxies(files, suffixes)).toEqual([
      { originalId: 'B/C1.mov', proxyId: 'B/sub/C1_proxy.mov' },
      { originalId: 'B/C2.mov', proxyId: 'low/C2.mp4' },
    ])
  })
  test('a camera’s own suffix is known by what the two share in time; a counter that goes on is another shot', () => {
    const original = file('CLIP/C1.mov')
    expect(findCameraProxies([original, file('SUB/C1S03.mp4', small)], suffixes)).toHaveLength(1)
    expect(findCameraProxies([original, file('SUB/C1_low.mp4', small)], suffixes)).toHaveLength(1)
    expect(findCameraProxies([original, file('SUB/C10.mp4', small)], suffixes)).toEqual([])
    const atNought = { start: '00:00:00:00' }
    expect(
      findCameraProxies([file('C1.mov', atNought), file('C1S03.mp4', { ...small, ...atNought })], suffixes),
    ).toEqual([])
  })
  test.each([
    ['another length', { ...small, frames: 99 }],
    ['another start', { ...small, start: '10:00:00:01' }],
    ['the same raster', {}],
  ])('%s is no proxy', (_, change) =>
    expect(findCameraProxies([file('C1.mov'), file('C1_proxy.mov', change)], suffixes)).toEqual([]),
  )
  test('two originals that fit leave it open', () => {
    expect(findCameraProxies([file('a/C1.mov'), file('b/C1.mov'), file('C1_proxy.mov', small)], suffixes)).toEqual([])
  })
  test('a proxy is nobody’s original', () => {
    const files = [file('C1.mov', { width: 3840, height: 2160 }), file('m/C1.mov'), file('s/C1.mov', small)]
    const both = [
      { originalId: 'C1.mov', proxyId: 'm/C1.mov' },
      { originalId: 'C1.mov', proxyId: 's/C1.mov' },
    ]
    expect(findCameraProxies(files, suffixes)).toEqual(both)
    expect(findCameraProxies([...files].reverse(), suffixes)).toEqual([...both].reverse())
  })
})

test('very many files of one start and length are told apart by their names, not each with each', () => {
  const many = Array.from({ length: 20_000 }, (_, index) => ({
    id: String(index),
    path: `C${String(index).padStart(5, '0')}.mov`,
    facts: pictureFacts(),
  }))
  const small = { id: 'small', path: 'SUB/C00007S03.mp4', facts: pictureFacts({ width: 640, height: 360 }) }
  expect(findCameraProxies([...many, small], ['_proxy'])).toEqual([{ originalId: '7', proxyId: 'small' }])
})
