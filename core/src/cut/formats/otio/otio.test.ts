import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { formatTimecode, rate } from '../../../time/index.ts'
import { type Cut, CutFormatError, neededRanges } from '../../model.ts'
import { edl } from '../edl/read-edl.ts'
import { recogniseCutFormat } from '../index.ts'
import { otio } from './read-otio.ts'

const options = { rate: rate(25), fileName: 'mill.otio' }
const time = (value: number, at = 25) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: at })
const range = (start: number, duration: number, at = 25) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(start, at),
  duration: time(duration, at),
})
const clip = (change: object = {}) => ({
  OTIO_SCHEMA: 'Clip.1',
  name: 'A001C001.mov',
  source_range: range(900_000, 50),
  media_reference: {
    OTIO_SCHEMA: 'ExternalReference.1',
    target_url: 'file:///P:/LW/A001C001.mov',
    available_range: range(899_990, 100),
  },
  metadata: { cmx_3600: { reel: 'A001' } },
  ...change,
})
const timeline = (children: object[], change: object = {}) => ({
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Mill scene',
  global_start_time: time(900_000),
  tracks: { OTIO_SCHEMA: 'Stack.1', children: [{ OTIO_SCHEMA: 'Track.1', kind: 'Video', children }] },
  ...change,
})
const read = (value: unknown) => otio.read(typeof value === 'string' ? value : JSON.stringify(value), options)

describe('reading', () => {
  test('a clip with its reel, path, source and record', () => {
    const cut = read(timeline([{ OTIO_SCHEMA: 'Gap.1', source_range: range(0, 25) }, clip()]))
    expect(cut).toMatchObject({ name: 'Mill scene', rate: rate(25), tracks: [{ name: 'V1', kind: 'picture' }] })
    expect(cut.events[0]).toMatchObject({
      clipName: 'A001C001.mov',
      reel: 'A001',
      path: 'file:///P:/LW/A001C001.mov',
      source: { startFrame: 900_000, endFrame: 900_050 },
      mediumStartFrame: 899_990,
      record: { startFrame: 900_025, endFrame: 900_075 },
    })
  })

  test('the reel is read from whatever metadata names one, of the clip or of its media', () => {
    const reel = (change: object) => read(timeline([clip({ metadata: {}, ...change })])).events[0]?.reel
    expect(reel({ metadata: { anything: { 'Tape Name': 'B002' } } })).toBe('B002')
    const reference = {
      OTIO_SCHEMA: 'ExternalReference.1',
      target_url: 'file:///x.mov',
      metadata: { x: { reel_name: 'C3' } },
    }
    expect(reel({ media_reference: reference })).toBe('C3')
    expect(reel({ metadata: { cmx_3600: { reel: 'A001' }, other: { tape: 'Z' } } })).toBe('A001')
    expect(reel({ metadata: { other: { tape: 7, note: 'reel' } } })).toBeNull()
  })

  test('a source at 29.97 keeps its own rate, and takes record frames at the cut’s', () => {
    const cut = read(timeline([clip({ source_range: range(107_892, 30, 30000 / 1001) }), clip()]))
    expect(cut.events[0]).toMatchObject({
      sourceRate: rate(30000, 1001),
      source: { startFrame: 107_892, endFrame: 107_922 },
      record: { startFrame: 900_000, endFrame: 900_025 },
    })
    expect(cut.events[1]?.record.startFrame).toBe(900_025)
  })

  test('several references: the active one', () => {
    const many = clip({
      OTIO_SCHEMA: 'Clip.2',
      media_reference: undefined,
      active_media_reference_key: 'proxy',
      media_references: {
        proxy: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'p.mov' },
        DEFAULT_MEDIA: { OTIO_SCHEMA: 'ExternalReference.1', target_url: 'o.mov' },
      },
    })
    expect(read(timeline([many])).events[0]?.path).toBe('p.mov')
  })

  test('a transition goes to the clip after it, a warp sets the speed', () => {
    const dissolve = { OTIO_SCHEMA: 'Transition.1', in_offset: time(6), out_offset: time(6) }
    const fast = clip({ effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: 2 }] })
    const cut = read(timeline([clip(), dissolve, fast]))
    expect(cut.events[1]).toMatchObject({
      transition: { kind: 'dissolve', durationFrames: 12 },
      speed: { numerator: 2, denominator: 1 },
    })
  })
})

describe('without changing a frame', () => {
  const ranges = (cut: Cut) =>
    cut.events.map(({ source, record }) => [source, record].map((r) => [r.startFrame, r.endFrame]))

  test('a centred dissolve begins before the cut, and both clips show what it takes of them', () => {
    const dissolve = { OTIO_SCHEMA: 'Transition.1', in_offset: time(6), out_offset: time(4) }
    const plain = ranges(read(timeline([clip(), clip()])))
    const cut = read(timeline([clip(), dissolve, clip()]))
    const [[left, leftRecord], [right, rightRecord]] = plain as [[number[], number[]], [number[], number[]]]
    expect(ranges(cut)).toEqual([
      [
        [left[0], (left[1] as number) - 6],
        [leftRecord[0], (leftRecord[1] as number) - 6],
      ],
      [
        [(right[0] as number) - 6, right[1]],
        [(rightRecord[0] as number) - 6, rightRecord[1]],
      ],
    ])
    expect(cut.events[1]?.transition?.durationFrames).toBe(10)
    // The first clip lends what the dissolve shows of it: four frames past what was cut.
    expect(neededRanges(cut.events, cut.rate)[0]?.endFrame).toBe((left[1] as number) + 4)
    expect(ranges(otio.read(otio.write(cut), options))).toEqual(ranges(cut))
    const long = { OTIO_SCHEMA: 'Transition.1', in_offset: time(500), out_offset: time(4) }
    expect(() => read(timeline([clip(), long, clip()]))).toThrow('begins before the clip')
  })

  test('a list with speeds leaves and comes back with every record and every speed where it was', () => {
    const list = `TITLE: S
001  A V C 10:00:00:00 10:00:04:00 01:00:00:00 01:00:02:00
M2   A 050.0 10:00:00:00
002  B V C 11:00:00:00 11:00:01:00 01:00:02:00 01:00:04:00
M2   B 012.5 11:00:00:00
003  C V C 12:00:00:00 12:00:04:00 01:00:04:00 01:00:07:00
M2   C 033.333 12:00:00:00
004  D V C 13:00:00:00 13:00:01:00 01:00:07:00 01:00:08:00
`
    const cut = edl.read(list, { rate: rate(25), fileName: 'x.edl' })
    const again = otio.read(otio.write(cut), options)
    expect(again.events.map(({ record }) => record)).toEqual(cut.events.map(({ record }) => record))
    expect(again.events.map(({ speed }) => speed)).toEqual(cut.events.map(({ speed }) => speed))
    expect(neededRanges(again.events, again.rate)).toEqual(neededRanges(cut.events, cut.rate))
  })
})

describe('refusing, with the path and the reason', () => {
  test.each([
    ['{', 'the file', 'not JSON'],
    [{ OTIO_SCHEMA: 'Clip.1' }, 'the file', 'Timeline is read here'],
    [timeline([clip()], { tracks: null }), 'tracks', 'an object is needed'],
    [timeline([]), 'tracks', 'no clip'],
    [
      timeline([clip({ source_range: range(0, 50, 23.5) })]),
      'tracks.children[0].children[0].source_range.start_time',
      'no frame rate',
    ],
    [
      timeline([clip({ source_range: range(0.5, 50) })]),
      'tracks.children[0].children[0].source_range.start_time',
      'between two frames',
    ],
    [
      timeline([clip({ source_range: range(0, 0) })]),
      'tracks.children[0].children[0].source_range.duration',
      'at least one frame',
    ],
    [
      timeline([clip({ source_range: null, media_reference: null })]),
      'tracks.children[0].children[0]',
      'how long it is',
    ],
    [
      timeline([
        clip(),
        {
          OTIO_SCHEMA: 'Stack.1',
          children: [],
          effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: -2 }],
        },
      ]),
      'tracks.children[0].children[1]',
      'runs backwards',
    ],
    [timeline([{ OTIO_SCHEMA: 'Marker.2' }]), 'tracks.children[0].children[0]', 'Clip or Gap'],
  ])('%#', (value, location, reason) => {
    try {
      read(value)
      throw new Error('it was read')
    } catch (error) {
      expect(error).toBeInstanceOf(CutFormatError)
      expect((error as CutFormatError).location).toBe(location)
      expect((error as Error).message).toContain(reason)
    }
  })
})

test('what was read comes back the same, and says its timecode', () => {
  const dissolve = { OTIO_SCHEMA: 'Transition.1', in_offset: time(0), out_offset: time(12) }
  const cut = read(
    timeline([
      { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 25) },
      clip(),
      dissolve,
      clip({ source_range: range(107_892, 30, 29.97) }),
    ]),
  )
  const text = otio.write(cut)
  const again = otio.read(text, options)
  const bare = (item: typeof cut) => item.events.map(({ mediumStartFrame: _, location: __, ...rest }) => rest)
  expect(bare(again)).toEqual(bare(cut))
  expect(JSON.parse(text).metadata.ennick.startTimecode).toBe(formatTimecode(900_000, rate(25)))
})

test('formats are told apart by name and by content', () => {
  expect(recogniseCutFormat('x.edl', '').id).toBe('edl')
  expect(recogniseCutFormat('x.txt', 'TITLE: X\n').id).toBe('edl')
  expect(recogniseCutFormat('x.json', '{ "OTIO_SCHEMA": "Timeline.1" }').id).toBe('otio')
  expect(() => recogniseCutFormat('x.doc', 'Dear all')).toThrow('none of the formats')
})

test('a file with anything changed in it is read or refused, and never breaks', () => {
  const whole = timeline([
    { OTIO_SCHEMA: 'Gap.1', source_range: range(0, 25) },
    clip(),
    { OTIO_SCHEMA: 'Transition.1', in_offset: time(6), out_offset: time(6) },
    clip(),
  ])
  const places: (string | number)[][] = []
  const visit = (value: unknown, path: (string | number)[]): void => {
    places.push(path)
    if (value !== null && typeof value === 'object')
      for (const [key, inner] of Object.entries(value)) visit(inner, [...path, key])
  }
  visit(whole, [])
  const readWith = (path: (string | number)[], value: unknown): void => {
    const copy = structuredClone(whole) as Record<string | number, unknown>
    let at = copy
    for (const key of path.slice(0, -1)) at = at[key] as typeof at
    const last = path.at(-1)
    if (last !== undefined) at[last] = value
    try {
      read(JSON.stringify((last === undefined ? value : copy) ?? null))
    } catch (error) {
      expect(error).toBeInstanceOf(CutFormatError)
    }
  }
  // What cannot be made a text of, in each place.
  for (const path of places) readWith(path, { toString: [], valueOf: null })
  fc.assert(fc.property(fc.constantFrom(...places), fc.oneof(fc.jsonValue(), fc.constant(undefined)), readWith), {
    numRuns: 600,
  })
})
