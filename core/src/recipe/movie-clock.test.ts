import { expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { movieClock } from './movie-clock.ts'

test.each([
  [rate(25), [48_000], '48000'],
  [rate(24_000, 1001), [48_000], '48000'],
  [rate(30_000, 1001), [48_000, 44_100], '35280000'],
  [rate(60_000, 1001), [], '60000'],
])('a frame and a sample are whole ticks of the clock of a MOV or MP4', (at, sampleRates, ticks) => {
  const made = { ...pictureFacts({ rate: at }), sound: sampleRates.map((sampleRate) => ({ sampleRate })) }
  for (const container of ['mov', 'mp4']) expect(movieClock(container, made)).toEqual(['-movie_timescale', ticks])
  expect([48_000, 44_100].every((each) => !sampleRates.includes(each) || Number(ticks) % each === 0)).toBe(true)
  expect(movieClock('mkv', made)).toEqual([])
})

test('a clock that nobody can write is left as it is', () => {
  const made = { ...pictureFacts({ rate: rate(999_983, 1001) }), sound: [{ sampleRate: 47_999 }] }
  expect(movieClock('mov', made)).toEqual([])
})
