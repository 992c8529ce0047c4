import { expect, test } from '@jest/globals'
import { noise, speech } from '../testing/sounds.ts'
import { envelopeSourceRate as rate } from './envelope.ts'
import { describeLevel, TrackMeter } from './track-level.ts'

const measure = (samples: Float32Array) => {
  const meter = new TrackMeter(rate)
  for (let index = 0; index < samples.length; index += 777) meter.add(samples.subarray(index, index + 777))
  return meter.finish()
}

test.each([
  ['nothing at all', new Float32Array(5 * rate), 'silence', 'silence'],
  ['less than an open input', noise(5, rate, 1).map((sample) => sample * 0.0005), 'silence', 'silence'],
  [
    'hiss',
    noise(5, rate, 2).map((sample) => sample * 0.1),
    'a steady sound',
    'a steady sound, a tone or hiss, at −24.7 dBFS',
  ],
  ['speech', speech(5, rate, 3), 'sound', /^−\d+\.\d dBFS on the mean, −\d+\.\d at most$/],
])('%s', (_, samples, holds, words) => {
  const level = measure(samples)
  expect(level.holds).toBe(holds)
  if (typeof words === 'string') expect(describeLevel(level)).toBe(words)
  else expect(describeLevel(level)).toMatch(words)
})

test('what is clipped says so, how often and where first', () => {
  const level = { peakDecibels: 0, meanDecibels: -12.3, holds: 'sound' as const }
  const clipping = { places: 3, firstSample: 595_200, sampleRate: 48_000 }
  expect(describeLevel({ ...level, clipping })).toBe(
    '−12.3 dBFS on the mean, 0.0 at most, clipped 3 times, first 12.4 s after its start',
  )
  expect(describeLevel({ ...level, clipping: null })).toBe('−12.3 dBFS on the mean, 0.0 at most')
})

test('a tone at full scale: 0 dBFS at most, three decibels less on the mean', () => {
  const tone = Float32Array.from({ length: 4 * rate }, (_, index) => Math.sin((2 * Math.PI * index) / 16))
  expect(measure(tone)).toEqual({ peakDecibels: 0, meanDecibels: -3, holds: 'a steady sound', clipping: null })
})

test.each([8000, 11_025, 22_050, 44_100, 48_000, 96_000, 192_000])(
  'what is made of %i samples a second is eight thousand, each the mean of its own, however they come',
  (sampleRate) => {
    const ramp = Float32Array.from({ length: sampleRate }, (_, index) => index / sampleRate)
    const [whole, pieces] = [new TrackMeter(sampleRate), new TrackMeter(sampleRate)]
    const lowered = whole.add(ramp)
    expect(lowered).toHaveLength(rate)
    for (const [index, value] of lowered.entries())
      expect(Math.abs(value - index / rate)).toBeLessThan(1 / rate + 1 / sampleRate)
    const inPieces = Array.from({ length: Math.ceil(sampleRate / 1001) }, (_, piece) => [
      ...pieces.add(ramp.subarray(piece * 1001, (piece + 1) * 1001)),
    ]).flat()
    expect(inPieces).toEqual([...lowered])
    expect(pieces.finish()).toEqual(whole.finish())
  },
)
