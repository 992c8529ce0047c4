import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { anyCut } from '../../testing/cuts.ts'
import { cutFormats, edl, otio, writeProven, xmeml } from './index.ts'

/** `ENNICK_LONG_TESTS=10000` for many more. */
const runs = Number(process.env.ENNICK_LONG_TESTS || 30)

/** A database gives the parts of a value back in an order of its own. */
const inOtherOrder = <T>(value: T): T =>
  JSON.parse(JSON.stringify(value), (_, part) =>
    part !== null && typeof part === 'object' && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => a.length - b.length || (a < b ? -1 : 1)))
      : part,
  )

describe('what is written is read again as it was, to the frame', () => {
  test.each(cutFormats.map((format) => [format.name, format] as const))('%s', (_, format) => {
    fc.assert(
      fc.property(anyCut({ otherRates: format !== edl }), (cut) => {
        writeProven(inOtherOrder(cut), format)
      }),
      { numRuns: runs },
    )
  })

  test('from one format to the next, what all can say stays', () => {
    fc.assert(
      fc.property(anyCut({ otherRates: false }), (cut) => {
        let now = cut
        for (const format of [otio, xmeml, otio, edl, xmeml, edl, otio])
          now = format.read(writeProven(now, format), { rate: cut.rate, fileName: cut.name })
        const bare = (from: typeof cut) =>
          from.events
            .filter((event) => !event.isDisabled)
            .map(({ track, record, source, speed, soundTimes, reel }) => [
              track,
              record,
              soundTimes ? null : source.startFrame,
              speed,
              reel?.trim() ?? null,
            ])
        const kept = bare(cut).map((event, index) =>
          event[2] === null ? { ...event, 2: bare(now)[index]?.[2] } : event,
        )
        expect(bare(now)).toEqual(kept.map((event) => Object.values(event)))
      }),
      { numRuns: Math.ceil(runs / 3) },
    )
  })
})
