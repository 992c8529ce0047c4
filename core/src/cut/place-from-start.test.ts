import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { anyCut, plainEvent } from '../testing/cuts.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { clip } from '../testing/trouble.ts'
import { allowsDropFrame, framesPerDay, parseTimecode, rate, sameRate } from '../time/index.ts'
import { type Cut, type CutEvent, cutFormats, placeFromStart, resolveEvents, writeInAll } from './index.ts'

/** A picture of 100 frames without timecode, unless told otherwise. */
const medium = (change: Parameters<typeof pictureFacts>[0] = {}) => ({
  ...{ name: 'mill.mov', path: '/made/mill.mov', reel: null },
  facts: pictureFacts({ start: null, frames: 100, ...change }),
})
const place = (change: Partial<CutEvent> = {}, of = medium(), behind: CutEvent[] = []) =>
  placeFromStart({ rate: rate(25), dropFrame: false, events: [plainEvent(change), ...behind] }, 0, of)
const rangeOf = (placed: ReturnType<typeof place>) => {
  if ('refusal' in placed) return placed.refusal
  const { source, record } = placed.event
  return [source.startFrame, source.endFrame, record.startFrame, record.endFrame]
}

describe('an event shows another medium from its first frame on', () => {
  test('as long as it is, where it is', () => {
    expect(rangeOf(place())).toEqual([0, 50, 100, 150])
    expect(place()).toMatchObject({
      event: { clipName: 'mill.mov', path: '/made/mill.mov', reel: null, medium: { frames: { endFrame: 100 } } },
    })
    const start = parseTimecode('10:00:00:00', rate(25))
    expect(rangeOf(place({}, medium({ start: '10:00:00:00' })))).toEqual([start, start + 50, 100, 150])
  })

  test('as fast as it runs, and at the medium’s own rate', () => {
    expect(rangeOf(place({ speed: { numerator: 2, denominator: 1 } }))).toEqual([0, 100, 100, 150])
    expect(rangeOf(place({ speed: { numerator: 0, denominator: 1 } }))).toEqual([0, 1, 100, 150])
    expect(rangeOf(place({}, medium({ rate: rate(50) })))).toEqual([0, 100, 100, 150])
  })

  test('sound from its first whole frame, where it begins between two', () => {
    const sound = { ...medium(), facts: soundFacts(48_000 * 4, 1000) }
    expect(rangeOf(place({ kind: 'sound', track: 'A1' }, sound))).toEqual([1, 51, 100, 150])
  })
})

describe('refused is', () => {
  const dissolve = { kind: 'dissolve' as const, wipeCode: null, durationFrames: 12 }
  const next = plainEvent({ record: { startFrame: 150, endFrame: 200 }, transition: dissolve })
  test.each<[string, ReturnType<typeof place>, RegExp]>([
    [
      'what is too short by a frame',
      place({}, medium({ frames: 49 })),
      /too short for it: 1 frame at the tail missing/,
    ],
    [
      'what is too short for what it lends to a dissolve',
      place({}, medium({ frames: 60 }), [next]),
      /2 frames at the tail missing/,
    ],
    ['a picture without a picture', place({}, { ...medium(), facts: soundFacts(48_000 * 9, 0) }), /has no picture/],
    ['sound without sound', place({ kind: 'sound' }, medium({ channels: 0 })), /has no sound/],
    ['one that runs backwards', place({ speed: { numerator: -1, denominator: 1 } }), /backwards/],
    ['one that was scaled', place({ fit: { scalePercent: 50, offset: null } }), /its scale was set/],
    ['a part of a key', place({ key: { part: 'background', durationFrames: 0 } }), /part of a key/],
  ])('%s', (_, placed, reason) => {
    expect(placed).toEqual({ refusal: expect.stringMatching(reason) })
  })
})

test('whatever takes the place lands on its first frame, also when the list that leaves is read again', () => {
  let count = 0
  const media = fc.record({
    rate: fc.constantFrom(rate(25), rate(24), rate(24_000, 1001), rate(30_000, 1001), rate(60_000, 1001)),
    drop: fc.boolean(),
    start: fc.oneof(fc.constant(null), fc.integer({ min: 0, max: 2_000_000 }), fc.constant(-20)),
    frames: fc.integer({ min: 1, max: 500 }),
  })
  fc.assert(
    fc.property(anyCut({ otherRates: true }), fc.nat(30), media, (cut, at, made) => {
      const position = at % cut.events.length
      // Sound has no frames of its own: it is counted as its cut.
      const own = cut.events[position]?.kind === 'sound' ? cut.rate : made.rate
      const drop = made.drop && allowsDropFrame(own)
      const day = framesPerDay(own, drop)
      const startFrame = made.start === null ? null : (made.start + day) % day
      const facts = { ...pictureFacts({ rate: own, drop, frames: made.frames, start: null, reel: null }), startFrame }
      const medium = { name: 'NEW.mov', path: '/bay/NEW.mov', reel: null, facts }
      const placed = placeFromStart(cut, position, medium)
      if ('refusal' in placed) return
      count++
      const clips = [clip({ id: 'new', name: 'NEW.mov', originalPaths: ['/bay/NEW.mov'], reel: null, facts })]
      const lands = ({ events }: Pick<Cut, 'events'>) =>
        resolveEvents(events, {
          ...{ clips, mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: cut.rate },
        }).flatMap(({ state, clipId, needed }) => (clipId ? [[state, needed.startFrame]] : []))
      const after = { ...cut, events: cut.events.with(position, placed.event) }
      expect(lands(after)).toEqual([['on original', startFrame ?? 0]])
      const before = writeInAll(cut, cutFormats, { edlReels: 'whole' })
      for (const [index, { text, format, reason }] of writeInAll(after, cutFormats, { edlReels: 'whole' }).entries()) {
        // An EDL has one rate, and nothing that is switched off.
        const isLost = format === 'edl' && (!sameRate(own, cut.rate) || placed.event.isDisabled)
        if (before[index]?.text === null || isLost) continue
        expect(reason).toBeNull()
        const again = cutFormats[index]?.read(text ?? '', { rate: cut.rate, fileName: 'x' })
        expect(again && lands(again)).toEqual([['on original', startFrame ?? 0]])
      }
    }),
    { numRuns: 200 },
  )
  expect(count).toBeGreaterThan(40)
})
