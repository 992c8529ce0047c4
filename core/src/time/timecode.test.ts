import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import {
  allowsDropFrame,
  commonRates,
  formatRate,
  formatTimecode,
  framesPerDay,
  parseRate,
  parseTimecode,
  rate,
  rateFromDecimal,
  sameLabel,
  TimecodeError,
} from './index.ts'

const ntsc = rate(30000, 1001)
const ntscDouble = rate(60000, 1001)

describe('drop-frame counting (SMPTE ST 12-1)', () => {
  test.each([
    ['00:00:59;29', 1799],
    ['00:01:00;02', 1800],
    ['00:09:59;29', 17981],
    ['00:10:00;00', 17982],
    ['01:00:00;00', 107892],
    ['23:59:59;29', 2589407],
  ])('%s is frame %i at 29.97', (label, frame) => {
    expect(parseTimecode(label, ntsc)).toBe(frame)
    expect(formatTimecode(frame, ntsc, true)).toBe(label)
  })

  test('skips four labels a minute at 59.94', () => {
    expect(parseTimecode('00:01:00;04', ntscDouble)).toBe(3600)
    expect(() => parseTimecode('00:01:00;03', ntscDouble)).toThrow(TimecodeError)
  })

  test.each(['00:01:00;00', '00:01:00;01', '01:01:00;01'])('%s does not exist', (label) => {
    expect(() => parseTimecode(label, ntsc)).toThrow('skips it')
    expect(parseTimecode(label.replace(';', ':'), ntsc)).toBeGreaterThan(0)
  })

  test('every tenth minute keeps its first labels', () => {
    expect(parseTimecode('00:10:00;00', ntsc)).toBe(parseTimecode('00:09:59;29', ntsc) + 1)
  })
})

describe('non-drop counting', () => {
  test.each([
    ['10:00:00:00', rate(25), 900_000],
    ['01:00:00:00', rate(24000, 1001), 86_400],
    ['00:00:01:00', ntsc, 30],
  ])('%s', (label, at, frame) => {
    expect(parseTimecode(label, at)).toBe(frame)
    expect(formatTimecode(frame, at)).toBe(label)
  })

  test('wraps at midnight, both ways', () => {
    expect(formatTimecode(framesPerDay(rate(25), false), rate(25))).toBe('00:00:00:00')
    expect(formatTimecode(-1, rate(25))).toBe('23:59:59:24')
    expect(formatTimecode(framesPerDay(ntsc, true), ntsc, true)).toBe('00:00:00;00')
  })
})

test.each([
  ['', 'not a timecode'],
  ['01:00:00', 'not a timecode'],
  ['24:00:00:00', 'hour 24'],
  ['00:60:00:00', 'minute 60'],
  ['00:00:60:00', 'second 60'],
  ['00:00:00:25', 'the last is 24'],
  ['00:00:00;10', 'does not have'],
])('"%s" at 25 is refused and says why', (label, reason) => {
  expect(() => parseTimecode(label, rate(25))).toThrow(reason)
})

test('any frame of any day survives being written and read, at every rate', () => {
  const cases = commonRates.flatMap((at) => [{ at, drop: false }, ...(allowsDropFrame(at) ? [{ at, drop: true }] : [])])
  fc.assert(
    fc.property(fc.constantFrom(...cases), fc.nat({ max: 10_000_000 }), ({ at, drop }, number) => {
      const frame = number % framesPerDay(at, drop)
      expect(parseTimecode(formatTimecode(frame, at, drop), at, drop)).toBe(frame)
    }),
  )
})

test('labels rise with frames: no frame shares a label with its neighbour', () => {
  for (let frame = 17_000; frame < 19_000; frame++) {
    expect(formatTimecode(frame + 1, ntsc, true) > formatTimecode(frame, ntsc, true)).toBe(true)
  }
})

describe('rates', () => {
  test.each([
    ['30000/1001', '29.97'],
    ['24000/1001', '23.976'],
    ['60000/1001', '59.94'],
    ['50/2', '25'],
    ['15/2', '15/2'],
  ])('%s is called %s', (text, name) => {
    expect(formatRate(parseRate(text) ?? rate(1))).toBe(name)
  })

  test.each(['0/0', '25/0', 'abc', '', '-25', '25.0'])('"%s" is no rate', (text) => {
    expect(parseRate(text)).toBeUndefined()
  })

  test.each([
    [23.976, rate(24000, 1001)],
    [23.976023976, rate(24000, 1001)],
    [29.97, ntsc],
    [29.97002997, ntsc],
    [24, rate(24)],
    [48000, rate(48000)],
  ])('the decimal %d is exact', (decimal, exact) => {
    expect(rateFromDecimal(decimal)).toEqual(exact)
  })

  test.each([23.5, 0, -25, Number.NaN, Number.POSITIVE_INFINITY])('the decimal %d is not guessed', (decimal) => {
    expect(rateFromDecimal(decimal)).toBeUndefined()
  })
})

describe('the same label at another rate', () => {
  test.each<[string, ReturnType<typeof rate>, ReturnType<typeof rate>, boolean, string]>([
    ['10:00:00:00', rate(24000, 1001), rate(25), false, '10:00:00:00'],
    ['01:00:00;00', ntscDouble, ntsc, true, '01:00:00;00'],
    ['01:10:00;00', ntsc, ntscDouble, true, '01:10:00;00'],
    ['12:34:56;10', ntsc, rate(25), true, '12:34:56:08'],
    ['00:01:00;02', ntsc, ntscDouble, true, '00:01:00;04'],
  ])('%s', (label, from, to, drop, other) => {
    const there = sameLabel(parseTimecode(label, from, drop), from, to, drop)
    expect(formatTimecode(Number(there.numerator / there.denominator), to, drop && allowsDropFrame(to))).toBe(other)
  })

  test('is the frame itself at its own rate, every frame of a day', () => {
    const day = framesPerDay(ntsc, true)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 2 * day - 1 }), (frame) => {
        expect(sameLabel(frame, ntsc, ntsc, true)).toEqual({ numerator: BigInt(frame), denominator: 1n })
      }),
    )
  })
})
