import { expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { fraction, rate } from '../time/index.ts'
import { samplesToPad } from './index.ts'

const wave = soundFacts(480_000, 0)
const lack = (tail: readonly [number, number], head: readonly [number, number] = [0, 1]) => ({
  headFrames: fraction(...head),
  tailFrames: fraction(...tail),
})

test.each([
  ['a quarter of a frame at 25', [1, 4], rate(25), 480],
  // 1920 samples a frame: a tenth of one is 192, and no sample is half.
  ['less than a sample', [1, 4000], rate(25), 1],
  ['nearly a frame at 29.97, of 1601.6 samples', [999, 1000], rate(30000, 1001), 1600],
  ['half a frame at 23.976, of 2002', [1, 2], rate(24000, 1001), 1001],
] as const)('%s', (_, tail, at, samples) => {
  expect(samplesToPad(wave, lack(tail), at)).toBe(samples)
})

test('a whole frame, a head, a picture and what is no wave file are not padded', () => {
  expect(samplesToPad(wave, lack([1, 1]), rate(25))).toBeNull()
  expect(samplesToPad(wave, lack([0, 1], [1, 4]), rate(25))).toBeNull()
  expect(samplesToPad(wave, lack([1, 4], [1, 4]), rate(25))).toBeNull()
  expect(samplesToPad(pictureFacts(), lack([1, 4]), rate(25))).toBeNull()
  expect(samplesToPad({ ...wave, container: 'flac' }, lack([1, 4]), rate(25))).toBeNull()
  expect(samplesToPad({ ...wave, sound: [] }, lack([1, 4]), rate(25))).toBeNull()
})
