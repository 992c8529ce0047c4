import { describe, expect, test } from '@jest/globals'
import { plainEvent } from '../testing/cuts.ts'
import { describeShortfall, fraction, rate, zero } from '../time/index.ts'
import { type CutEvent, normalSpeed, trimUse } from './index.ts'

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
