import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { anyCut, plainEvent } from '../testing/cuts.ts'
import { pictureFacts } from '../testing/facts.ts'
import { clip } from '../testing/trouble.ts'
import { describeShortfall, formatTimecode, fraction, rate, zero } from '../time/index.ts'
import { type CutEvent, cutFormats, normalSpeed, resolveEvents, trimUse, writeInAll } from './index.ts'

const lack = (head: number | [number, number], tail: number | [number, number]) => {
  const of = (value: number | [number, number]) => (typeof value === 'number' ? fraction(value) : fraction(...value))
  return { headFrames: of(head), tailFrames: of(tail) }
}
const trim = (events: CutEvent[], lacks: ReturnType<typeof lack>, position = 0) =>
  trimUse({ rate: rate(25), events }, position, lacks)

describe('a use gives up what is not there', () => {
  test('a fraction of a frame costs a whole one, at the end where it lacks', () => {
    expect(trim([plainEvent()], lack(0, [2, 5]))).toMatchObject({
      event: { source: { startFrame: 1000, endFrame: 1049 }, record: { startFrame: 100, endFrame: 149 } },
      gives: lack(0, 1),
    })
    expect(trim([plainEvent()], lack(3, 2))).toMatchObject({
      event: { source: { startFrame: 1003, endFrame: 1048 }, record: { startFrame: 103, endFrame: 148 } },
    })
    expect(describeShortfall(lack(3, 1))).toBe('3 frames at the head and 1 frame at the tail')
    expect(trim([plainEvent()], { headFrames: zero, tailFrames: zero })).toMatchObject({ event: plainEvent() })
  })

  test('what would change more than that is refused, with the reason', () => {
    const refusal = (change: Partial<CutEvent>, lacks = lack(0, 1)) => {
      const trimmed = trim([plainEvent(change)], lacks)
      return 'refusal' in trimmed ? trimmed.refusal : null
    }
    const dissolve = { kind: 'dissolve' as const, wipeCode: null, durationFrames: 10 }
    expect(refusal({ speed: { ...normalSpeed, numerator: 2 } })).toBe('it is retimed')
    expect(refusal({ sourceRate: rate(50) })).toContain('another rate')
    expect(refusal({ transition: dissolve }, lack(1, 0))).toContain('at its head')
    expect(refusal({ transition: dissolve }, lack(0, 1))).toBeNull()
    expect(refusal({ fadeOut: dissolve })).toContain('at its tail')
    expect(refusal({ fadeOut: dissolve }, lack(41, 0))).toBe('less of it would be left than its transition takes')
    expect(refusal({ transition: dissolve }, lack(0, 41))).toBe('less of it would be left than its transition takes')
    expect(refusal({ transition: dissolve }, lack(0, 40))).toBeNull()
    expect(refusal({}, lack(20, 30))).toBe('nothing of it would be left')
    expect(refusal({}, lack(20, 29))).toBeNull()
    const next = plainEvent({ record: { startFrame: 150, endFrame: 200 }, transition: dissolve })
    expect(trim([plainEvent(), next], lack(0, 1))).toMatchObject({ refusal: 'a transition stands at its tail' })
    expect(trim([plainEvent(), { ...next, track: 'V2' }], lack(0, 1))).toHaveProperty('event')
    // What comes out of black takes nothing of it.
    const black = { ...next, transition: { ...dissolve, fromBlack: true as const } }
    expect(trim([plainEvent(), black], lack(0, 1))).toHaveProperty('event')
  })
})

test('a cut with trimmed uses lands, and leaves in every format in which it could leave before', () => {
  let count = 0
  const spans = fc.array(fc.tuple(fc.integer({ min: -6, max: 40 }), fc.integer({ min: 1, max: 200 })), { minLength: 1 })
  fc.assert(
    fc.property(anyCut({ otherRates: false }), spans, (random, lengths) => {
      const named = random.events.map((event, index): CutEvent => {
        return { ...event, clipName: `U${index}.mov`, path: null, reel: null, mediumStartFrame: null }
      })
      const cut = { ...random, events: named }
      const clips = named.map(({ source, sourceRate }, index) => {
        const [lead, frames] = lengths[index % lengths.length] as [number, number]
        const start = formatTimecode(Math.max(0, source.startFrame - lead), sourceRate, cut.dropFrame)
        const facts = pictureFacts({ rate: sourceRate, drop: cut.dropFrame, start, frames, reel: null })
        return clip({ id: `${index}`, name: `U${index}.mov`, originalPaths: [`/bay/U${index}.mov`], reel: null, facts })
      })
      const context = { clips, mappings: [], suffixes: [], unreadable: [], chosen: new Map(), recordRate: cut.rate }
      const done: number[] = []
      const events = resolveEvents(named, context).map(({ state, shortfall }, index) => {
        const trimmed = state === 'short' && shortfall ? trimUse(cut, index, shortfall) : { refusal: '' }
        if ('refusal' in trimmed) return named[index] as CutEvent
        done.push(index)
        return trimmed.event
      })
      count += done.length
      const again = resolveEvents(events, context)
      expect(done.map((index) => again[index]?.state)).toEqual(done.map(() => 'on original'))
      const leaves = (some: readonly CutEvent[]) =>
        writeInAll({ ...cut, events: some }, cutFormats, { edlReels: 'whole' }).map(({ text }) => text !== null)
      expect(leaves(events)).toEqual(leaves(named))
    }),
    { numRuns: 200 },
  )
  expect(count).toBeGreaterThan(20)
})
