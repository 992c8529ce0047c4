import { expect, test } from '@jest/globals'
import fc from 'fast-check'
import { floor, fraction, rate } from '../../time/index.ts'
import type { Transition } from '../model.ts'
import type { Lane, Placed } from './placing.ts'
import { turnRound } from './turn-round.ts'

const dissolve = (durationFrames: number): Transition => ({ kind: 'dissolve', wipeCode: null, durationFrames })

interface Making {
  readonly gap: number
  readonly frames: number
  readonly speed: number
  readonly source: number
  readonly enters: number
  readonly fade: number
}

/** Items one behind the other, each with its own clip. */
function laneOf(makings: readonly Making[]): { lane: Lane; frames: number } {
  let at = 0
  const items = makings.map((making, index): Placed => {
    const start = at + making.gap
    const end = start + making.frames
    at = end + (making.fade ? making.fade : 0)
    return {
      ...{ number: null, start: fraction(start), end: fraction(end), sourceFrames: null },
      sourceStart: fraction(making.source),
      event: {
        ...{ kind: 'picture', clipName: `clip ${index}`, reel: null, path: null, sourceRate: rate(25) },
        ...{ mediumStartFrame: null, notes: [], location: `item ${index}` },
        speed: { numerator: making.speed, denominator: 1 },
        transition: making.enters ? dissolve(making.enters) : null,
        ...(making.fade && { fadeOut: dissolve(making.fade) }),
      },
    }
  })
  return { lane: { kind: 'picture', items, generators: [] }, frames: at + 3 }
}

/** What is seen at each frame: the clips with their frames, two of them within a dissolve. */
function seenOn({ items }: Lane, frames: number): string[][] {
  const whole = (value: Placed['start']): number => Number(floor(value))
  return Array.from({ length: frames }, (_, at) =>
    items
      .flatMap((placed, index) => {
        const next = items[index + 1]
        const into = next && whole(next.start) === whole(placed.end) ? next.event.transition : null
        const lends = (into && !into.fromBlack ? into.durationFrames : 0) || (placed.event.fadeOut?.durationFrames ?? 0)
        if (at < whole(placed.start) || at >= whole(placed.end) + lends) return []
        const frame = whole(placed.sourceStart) + (at - whole(placed.start)) * placed.event.speed.numerator
        return [`${placed.event.clipName} ${frame}`]
      })
      .sort(),
  )
}

test('backwards every frame is the one from the other end, dissolves and fades with it', () => {
  const making = fc.record({
    gap: fc.constantFrom(0, 0, 0, 7),
    frames: fc.integer({ min: 12, max: 30 }),
    speed: fc.constantFrom(1, 1, 2, -1, -2, 0),
    source: fc.integer({ min: 1000, max: 2000 }),
    enters: fc.constantFrom(0, 0, 4, 6),
    fade: fc.constantFrom(0, 0, 0, 5),
  })
  fc.assert(
    fc.property(fc.array(making, { minLength: 1, maxLength: 6 }), (makings) => {
      const { lane, frames } = laneOf(makings)
      const back = turnRound(lane, fraction(frames), rate(25))
      expect(seenOn(back, frames)).toEqual(seenOn(lane, frames).reverse())
      // And round again it is what it was.
      expect(seenOn(turnRound(back, fraction(frames), rate(25)), frames)).toEqual(seenOn(lane, frames))
    }),
    { numRuns: 300 },
  )
})

test('a wipe is refused, and what is all transition', () => {
  const one = { gap: 0, frames: 20, speed: 1, source: 0, enters: 0, fade: 0 }
  const { lane, frames } = laneOf([one, one])
  const [first, second] = lane.items as [Placed, Placed]
  const into = (transition: Transition): Lane => ({
    ...lane,
    items: [first, { ...second, event: { ...second.event, transition } }],
  })
  const turn = (of: Lane) => () => turnRound(of, fraction(frames), rate(25))
  expect(turn(into({ kind: 'wipe', wipeCode: '001', durationFrames: 5 }))).toThrow(/wipe cannot run backwards/)
  expect(turn(into(dissolve(20)))).toThrow(/all transition/)
})
