import { describe, expect, test } from '@jest/globals'
import { blocksOf, panned, rulerStep, zoomed } from './track-scale.ts'

const whole = { from: 0, to: 1000 }

describe('the window of the track picture', () => {
  test('gets narrower around what is pointed at, which stays where it is', () => {
    expect(zoomed(whole, whole, 0.5, 250)).toEqual({ from: 125, to: 625 })
    expect(zoomed({ from: 125, to: 625 }, whole, 2, 250)).toEqual(whole)
  })

  test('never leaves the cut, and never gets narrower than can be seen', () => {
    expect(panned({ from: 0, to: 100 }, whole, -50)).toEqual({ from: 0, to: 100 })
    expect(panned({ from: 800, to: 900 }, whole, 500)).toEqual({ from: 900, to: 1000 })
    expect(zoomed({ from: 0, to: 12 }, whole, 0.01, 6)).toEqual({ from: 0, to: 12 })
  })
})

describe('what is drawn', () => {
  const events = Array.from({ length: 5000 }, (_, index) => ({
    ...{ index, from: index * 10, to: index * 10 + 10, isWell: index !== 2500 },
  }))

  test('of 5,000 events is no more than can be seen; what is not well stands alone', () => {
    const blocks = blocksOf(events, { from: 0, to: 50_000 }, 100)
    expect(blocks.length).toBeLessThan(600)
    expect(blocks.reduce((sum, { count }) => sum + count, 0)).toBe(5000)
    expect(blocks.filter(({ isWell }) => !isWell)).toEqual([
      { index: 2500, count: 1, from: 25_000, to: 25_010, isWell: false },
    ])
  })

  test('is each event, where there is room, and only what is in sight', () => {
    const blocks = blocksOf(events, { from: 105, to: 155 }, 2)
    expect(blocks.map(({ index }) => index)).toEqual([10, 11, 12, 13, 14, 15])
  })

  test('labels of the ruler stand at round times', () => {
    expect(rulerStep({ from: 0, to: 250 }, 25, 10)).toBe(25)
    expect(rulerStep({ from: 0, to: 100_000 }, 25, 10)).toBe(15_000)
    expect(rulerStep({ from: 0, to: 12 }, 25, 10)).toBe(2)
  })
})
