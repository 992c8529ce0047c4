import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { type Cut, type CutEvent, edl, exactNeeds, otio, wholeFrames, writeProven, xmeml } from '../cut/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { type ExactRange, fraction, parseTimecode, rangeLength, rate } from '../time/index.ts'
import { type JoinedSource, JoinedSources, joinedEntries, takeApart } from './index.ts'

const part = (name: string, change: Parameters<typeof pictureFacts>[0]) => ({
  ...{ name: `${name}_proxy.mov`, clipName: name, clipId: `clip ${name}`, reel: `${name}001` },
  facts: pictureFacts(change),
})
/** A begins at 01:00:00:00 of the joined file, B at frame 20 behind that, C at frame 50; B has no timecode. */
const day: JoinedSource = {
  ...{ id: 'day', name: 'Day 1.mov', rate: rate(25) },
  entries: joinedEntries([
    part('A', { frames: 20, start: '10:00:00:00' }),
    part('B', { frames: 30, start: null }),
    part('C', { frames: 25, start: '23:59:59:20' }),
  ]),
}
const at = (label: string): number => parseTimecode(label, rate(25))
const hour = 90_000

function use(from: number, to: number, change: Partial<CutEvent> = {}): CutEvent {
  const length = to - from
  return {
    ...{ number: '001', track: 'V1', kind: 'picture', clipName: 'Day 1', reel: 'DAY1', path: null },
    source: { startFrame: hour + from, endFrame: hour + to },
    ...{ sourceRate: rate(25), mediumStartFrame: null, record: { startFrame: hour, endFrame: hour + length } },
    ...{ transition: null, speed: { numerator: 1, denominator: 1 }, notes: [], location: '' },
    ...change,
  }
}
const cutOf = (...events: CutEvent[]): Cut => ({
  ...{ name: 'Cut', rate: rate(25), dropFrame: false, events },
  tracks: [{ name: 'V1', kind: 'picture' }],
})
function apart(event: CutEvent, ...others: CutEvent[]) {
  const cut = cutOf(event, ...others)
  return takeApart(cut, event, day, exactNeeds(cut.events, cut.rate)[0] as ExactRange)
}
const pieces = (event: CutEvent, ...others: CutEvent[]) => {
  const result = apart(event, ...others)
  if ('refusal' in result) throw new Error(result.refusal)
  return result.pieces
}
const short = (event: CutEvent) =>
  pieces(event).map(({ event: { clipName, reel, source, record } }) => [
    ...[clipName, reel, source.startFrame, source.endFrame],
    ...[record.startFrame - hour, record.endFrame - hour],
  ])

describe('an event of one part', () => {
  test('names it, by its own reel and labels', () => {
    const [piece] = pieces(use(3, 15))
    const start = at('10:00:00:03')
    expect(piece?.event).toMatchObject({
      ...{ clipName: 'A', reel: 'A001', path: null, number: '001' },
      ...{ source: { startFrame: start, endFrame: start + 12 }, record: { startFrame: hour, endFrame: hour + 12 } },
    })
    expect([piece?.entry.clipId, piece?.lentFrom]).toEqual(['clip A', []])
  })

  test('without a timecode counts from zero', () => {
    expect(short(use(20, 50))).toEqual([['B', 'B001', 0, 30, 0, 30]])
  })

  test('counted from the beginning of the joined file is found as well', () => {
    const source = { startFrame: 50, endFrame: 60 }
    const start = at('23:59:59:20')
    expect(short(use(50, 60, { source, mediumStartFrame: 0 }))).toEqual([['C', 'C001', start, start + 10, 0, 10]])
  })

  test('stays as fast as it runs, backwards and held too', () => {
    const back = use(49, 50, { speed: { numerator: -2, denominator: 1 }, record: { startFrame: 0, endFrame: 15 } })
    expect(pieces(back)[0]?.event).toMatchObject({
      ...{ clipName: 'B', source: { startFrame: 29 }, speed: { numerator: -2, denominator: 1 } },
    })
    const held = use(19, 20, { speed: { numerator: 0, denominator: 1 }, record: { startFrame: 0, endFrame: 400 } })
    expect(pieces(held)[0]?.event).toMatchObject({ clipName: 'A', source: { startFrame: at('10:00:00:19') } })
  })

  test('says whose pictures its transition showed, which its own original does not have there', () => {
    const dissolve = { kind: 'dissolve', wipeCode: null, durationFrames: 8 } as const
    const next = use(60, 70, { transition: dissolve, record: { startFrame: hour + 10, endFrame: hour + 20 } })
    expect(pieces(use(5, 15), next)[0]?.lentFrom.map(({ clipName }) => clipName)).toEqual(['B'])
    expect(pieces(use(5, 15, { fadeOut: { ...dissolve, durationFrames: 5 } }))[0]?.lentFrom).toEqual([])
  })
})

test('a joined file of more than an hour is counted from zero in its second hour too', () => {
  const long = { ...day, entries: joinedEntries([part('A', { frames: hour }), part('B', { frames: 500 })]) }
  const event = use(0, 0, { source: { startFrame: hour + 100, endFrame: hour + 120 }, mediumStartFrame: 0 })
  const taken = { ...event, record: { startFrame: 0, endFrame: 20 } }
  const need = exactNeeds([taken], rate(25))[0] as ExactRange
  expect(takeApart(cutOf(taken), taken, long, need)).toMatchObject({ pieces: [{ entry: { clipName: 'B' } }] })
})

describe('an event of several parts', () => {
  test('becomes one of each, where each stood', () => {
    const start = at('10:00:00:10')
    const last = at('23:59:59:20')
    expect(short(use(10, 55))).toEqual([
      ['A', 'A001', start, start + 10, 0, 10],
      ['B', 'B001', 0, 30, 10, 40],
      ['C', 'C001', last, last + 5, 40, 45],
    ])
  })

  test('keeps what leads into it with the first, and what leads out of it with the last', () => {
    const fade = { kind: 'dissolve', wipeCode: null, durationFrames: 4 } as const
    const own = pieces(use(10, 25, { transition: fade, fadeOut: fade, linkedBy: 'x' }))
    expect(own.map(({ event: { transition, fadeOut, linkedBy } }) => [transition, fadeOut, linkedBy])).toEqual([
      [fade, undefined, 'x 1'],
      [null, fade, 'x 2'],
    ])
  })

  test('is refused where a frame would be another', () => {
    const twice = { numerator: 2, denominator: 1 }
    const refusal = (change: Partial<CutEvent>): string => {
      const result = apart(use(10, 40, change))
      return 'refusal' in result ? result.refusal : ''
    }
    expect(refusal({ speed: twice, record: { startFrame: 0, endFrame: 15 } })).toMatch(
      /over A and B, and it is retimed/,
    )
    expect(refusal({ key: { part: 'background', durationFrames: 0 } })).toMatch(/part of a key/)
    const long = { kind: 'dissolve', wipeCode: null, durationFrames: 11 } as const
    expect(refusal({ transition: long })).toMatch(/within its transition/)
  })
})

test('what the joined file does not have, or counts otherwise, is refused', () => {
  expect(apart(use(70, 76))).toEqual({ refusal: 'it shows frames that the joined file does not have' })
  expect(apart(use(-1, 5))).toEqual({ refusal: 'it shows frames that the joined file does not have' })
  expect(apart(use(0, 5, { sourceRate: rate(24) }))).toEqual({
    refusal: 'the list counts it at 24, and it runs at 25',
  })
})

test('a joined file is found by name or path in any case, and nothing else is', () => {
  const sources = new JoinedSources([day])
  const found = (change: Partial<CutEvent>) => sources.of(use(0, 5, change))?.id
  expect(found({ clipName: 'DAY 1.MOV' })).toBe('day')
  expect(found({ clipName: null, path: 'file:///Volumes/Cut/day%201.mov' })).toBe('day')
  expect(found({ clipName: 'Day 1a' })).toBeUndefined()
  expect([sources.isCalled('day 1.mxf'), sources.isCalled('Day 2.mov')]).toEqual([true, false])
  expect(new JoinedSources([]).of(use(0, 5))).toBeUndefined()
})

test('no frame is lost or changed, whatever is shown, and every format can say what comes of it', () => {
  const frames = fc.tuple(fc.integer({ min: 0, max: 74 }), fc.integer({ min: 1, max: 75 }))
  fc.assert(
    fc.property(frames, fc.constantFrom(0, 1), ([from, length], zero) => {
      const to = Math.min(75, from + length)
      const counted = zero ? { source: { startFrame: from, endFrame: to }, mediumStartFrame: 0 } : {}
      const own = pieces(use(from, to, counted))
      const shown = own.flatMap(({ event, entry }) =>
        Array.from({ length: rangeLength(event.source) }, (_, index) => {
          const inPart = event.source.startFrame - (entry.sourceStartFrame ?? 0) + index
          return [event.record.startFrame - hour + index, entry.startFrame + inPart]
        }),
      )
      expect(shown).toEqual(Array.from({ length: to - from }, (_, index) => [index, from + index]))
      const events = own.map(({ event }, index) => ({ ...event, number: String(index + 1).padStart(3, '0') }))
      for (const format of [edl, otio, xmeml]) expect(() => writeProven(cutOf(...events), format)).not.toThrow()
    }),
    { numRuns: 40 },
  )
})

test('sound that is cut between frames stays where it is cut', () => {
  const times = {
    ...{
      sourceStart: { numerator: 2 * hour + 5, denominator: 2 },
      sourceEnd: { numerator: hour + 10, denominator: 1 },
    },
    ...{ recordStart: { numerator: 2 * hour + 1, denominator: 2 }, recordEnd: { numerator: hour + 8, denominator: 1 } },
  }
  const sound = use(2, 10, { kind: 'sound', track: 'A1', soundTimes: times })
  const [piece] = pieces(sound)
  const need = exactNeeds([piece?.event as CutEvent], rate(25))[0]
  expect(need?.start).toEqual(fraction(2 * at('10:00:00:02') + 1, 2))
  expect(need && wholeFrames(need)).toEqual({ startFrame: at('10:00:00:02'), endFrame: at('10:00:00:10') })
})
