import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { rate } from '../time/index.ts'
import {
  compareColour,
  comparePictures,
  hashBytes,
  hashWidth,
  type PictureHash,
  rowsOfBurnIn,
  sampleFrames,
  splitHashes,
} from './index.ts'

/** A bright bar that moves on by one column a frame. */
const moving = (frame: number): PictureHash =>
  Uint8Array.from({ length: hashBytes }, (_, index) => (index % hashWidth === frame % hashWidth ? 200 : 60))
const source = Array.from({ length: 9 }, (_, frame) => moving(frame))
const made = (pictures: Record<number, PictureHash>) =>
  new Map(Object.entries(pictures).map(([frame, hash]) => [Number(frame), hash]))
const noisy = (hash: PictureHash, by: number): PictureHash => hash.map((level, index) => level + (index % 2 ? by : -by))

test('pictures that a codec has changed a little are alike', () => {
  expect(comparePictures(source, made({ 0: noisy(moving(0), 2), 4: moving(4), 8: noisy(moving(8), 3) }), 0)).toEqual({
    aspect: 'pictures',
    expected: '3 pictures alike',
    found: '3 pictures alike',
    agrees: true,
    difference: null,
  })
})

describe('what is wrong is told with its frame', () => {
  test.each<[string, Record<number, PictureHash>, string]>([
    ['black', { 4: new Uint8Array(hashBytes) }, 'frame 4 is black'],
    ['shifted', { 4: moving(5) }, 'frame 4 shows frame 5'],
    ['frozen', { 0: moving(0), 4: moving(0), 8: moving(0) }, 'frame 4 shows frame 0; frame 8 shows frame 0'],
    ['another', { 4: new Uint8Array(hashBytes).fill(255) }, 'frame 4 shows another picture (179 of 255 levels away)'],
    ['too long', { 9: moving(9) }, 'frame 9 is not in the original'],
  ])('%s', (_, pictures, difference) => {
    expect(comparePictures(source, made(pictures), 0)).toMatchObject({ agrees: false, difference })
  })
})

test('a shift is seen also where frames are nearly alike, and a still picture is none', () => {
  const fading = Array.from({ length: 20 }, (_, frame) => new Uint8Array(hashBytes).fill(100 + 2 * frame))
  expect(comparePictures(fading, made({ 10: fading[11] as PictureHash }), 0).difference).toBe('frame 10 shows frame 11')
  const still = Array.from({ length: 20 }, () => moving(1))
  expect(comparePictures(still, made({ 10: moving(1) }), 0).agrees).toBe(true)
})

test('rows under a burn-in are not compared', () => {
  const written = moving(4).map((level, index) => (index < hashWidth ? 255 : level))
  expect(comparePictures(source, made({ 4: written }), 0).agrees).toBe(false)
  expect(comparePictures(source, made({ 4: written }), rowsOfBurnIn(4)).agrees).toBe(true)
  expect([rowsOfBurnIn(null), rowsOfBurnIn(4), rowsOfBurnIn(12)]).toEqual([0, 1, 2])
})

test('the first, the last, the quarters, and one every ten seconds', () => {
  expect(sampleFrames(101, rate(25))).toEqual([0, 25, 50, 75, 100])
  expect(sampleFrames(1, rate(25))).toEqual([0])
  expect(sampleFrames(2, rate(25))).toEqual([0, 1])
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 1_000_000 }), (frames) => {
      const list = sampleFrames(frames, rate(30000, 1001))
      expect(list[0]).toBe(0)
      expect(list.at(-1)).toBe(frames - 1)
      expect(list.length).toBeLessThanOrEqual(12)
      expect([...new Set(list)].sort((a, b) => a - b)).toEqual(list)
    }),
  )
})

test('a rest that is no whole hash is left out', () => {
  expect(splitHashes(new Uint8Array(hashBytes * 2 + 5))).toHaveLength(2)
})

describe('colour tags', () => {
  const hd = { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' }
  test('equal ones agree, and what a container does not say is no difference', () => {
    expect(compareColour(hd, hd).agrees).toBe(true)
    expect(compareColour(hd, { ...hd, transfer: null })).toMatchObject({
      agrees: true,
      found: 'bt709 / not said / bt709',
    })
    expect(compareColour({ primaries: null, transfer: null, matrix: null }, hd).agrees).toBe(true)
  })
  test('two names for the same coefficients are one', () => {
    expect(compareColour({ ...hd, matrix: 'bt470bg' }, { ...hd, matrix: 'smpte170m' }).agrees).toBe(true)
  })
  test('a tag that says something else is told', () => {
    expect(compareColour(hd, { ...hd, transfer: 'log100', matrix: 'bt2020nc' })).toMatchObject({
      agrees: false,
      difference: 'the transfer and matrix would be read wrongly',
    })
  })
})
