import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import {
  add,
  ceiling,
  compare,
  divide,
  exactRange,
  floor,
  formatFrames,
  fraction,
  isCovered,
  mergeRanges,
  multiply,
  rate,
  round,
  samplesAsFrames,
  shortfall,
  subtract,
  toDecimal,
} from './index.ts'

describe('samples in frames', () => {
  test('a frame at 29.97 and 48 kHz is 1601.6 samples', () => {
    const { end } = samplesAsFrames(0, 8008, 48_000, rate(30000, 1001))
    expect(end).toEqual(fraction(5))
  })

  test('a file 768 samples short of its last frame at 25 lacks four tenths of it', () => {
    const file = samplesAsFrames(0, 8 * 48_000 - 768, 48_000, rate(25))
    const lack = shortfall(exactRange({ startFrame: 0, endFrame: 200 }), file)
    expect(lack.tailFrames).toEqual(fraction(2, 5))
    expect(formatFrames(lack.tailFrames)).toBe('0.4 frame')
    expect(isCovered(lack)).toBe(false)
  })

  test('a time reference beyond 2^32 samples stays exact', () => {
    const reference = 24 * 3600 * 192_000 - 1
    expect(samplesAsFrames(reference, 1, 192_000, rate(25)).end).toEqual(fraction(24 * 3600 * 25))
  })
})

describe('coverage', () => {
  const medium = exactRange({ startFrame: 100, endFrame: 200 })
  test.each([
    [100, 200, 0, 0],
    [98, 200, 2, 0],
    [100, 212, 0, 12],
    [90, 210, 10, 10],
    [300, 310, 0, 110],
  ])('a use from %i to %i lacks %i at the head and %i at the tail', (startFrame, endFrame, head, tail) => {
    const lack = shortfall(exactRange({ startFrame, endFrame }), medium)
    expect([lack.headFrames, lack.tailFrames]).toEqual([fraction(head), fraction(tail)])
  })

  test('what is covered stays covered when the medium grows', () => {
    fc.assert(
      fc.property(fc.nat(1000), fc.nat(1000), fc.nat(50), fc.nat(50), (start, length, head, tail) => {
        const use = exactRange({ startFrame: start, endFrame: start + length })
        expect(
          isCovered(shortfall(use, exactRange({ startFrame: start - head, endFrame: start + length + tail }))),
        ).toBe(true)
      }),
    )
  })
})

test('touching and overlapping ranges become one', () => {
  const merged = mergeRanges([
    { startFrame: 50, endFrame: 60 },
    { startFrame: 0, endFrame: 10 },
    { startFrame: 10, endFrame: 20 },
    { startFrame: 15, endFrame: 18 },
  ])
  expect(merged).toEqual([
    { startFrame: 0, endFrame: 20 },
    { startFrame: 50, endFrame: 60 },
  ])
})

describe('fractions', () => {
  const any = fc.tuple(fc.integer(), fc.integer({ min: 1 })).map(([n, d]) => fraction(n, d))
  test('sums and products go back the way they came', () => {
    fc.assert(
      fc.property(any, any, (a, b) => {
        expect(compare(subtract(add(a, b), b), a)).toBe(0)
        if (b.numerator !== 0n) expect(compare(divide(multiply(a, b), b), a)).toBe(0)
      }),
    )
  })
  test('floor, ceiling and round stand where they should', () => {
    expect([floor(fraction(-1, 2)), ceiling(fraction(-1, 2)), round(fraction(-1, 2)), round(fraction(1, 2))]).toEqual([
      -1n,
      0n,
      0n,
      1n,
    ])
  })
  test.each([
    [fraction(8, 3), '2.67'],
    [fraction(-1, 8), '-0.12'],
    [fraction(5), '5'],
    [fraction(1, 1000), '0'],
  ])('%p as a decimal', (value, text) => {
    expect(toDecimal(value)).toBe(text)
  })
  test('an amount too small to show is still told', () => {
    expect(formatFrames(fraction(1, 1920))).toBe('less than 0.01 frame')
  })
  test('a zero denominator is refused', () => {
    expect(() => fraction(1, 0)).toThrow(RangeError)
  })
})
