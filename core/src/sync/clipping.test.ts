import { expect, test } from '@jest/globals'
import { ClippingMeter } from './clipping.ts'

const sampleRate = 48_000
const measure = (samples: Float32Array, piece = samples.length) => {
  const meter = new ClippingMeter(sampleRate)
  for (let index = 0; index < samples.length; index += piece) meter.add(samples.subarray(index, index + piece))
  return meter.finish()
}
/** A tone of 200 Hz, as loud as is said, and cut off at full scale. */
const tone = (gain: number, seconds = 1) =>
  Float32Array.from({ length: seconds * sampleRate }, (_, index) =>
    Math.max(-1, Math.min(32_767 / 32_768, gain * Math.sin((2 * Math.PI * 200 * index) / sampleRate))),
  )

test('a tone that just fits is not clipped, and one that does not is, at each of its crests', () => {
  expect(measure(tone(0.999))).toBeNull()
  // 200 crests above and 200 below, two and a half milliseconds apart: within a hundredth of a second it is one place.
  expect(measure(tone(1.5))).toMatchObject({ places: 1, sampleRate })
})

test('each burst is a place of its own, told from where the first begins, however the samples come', () => {
  const quiet = new Float32Array(sampleRate)
  const [burst] = [tone(2, 1).subarray(0, 2400)]
  const samples = Float32Array.from([...quiet, ...burst, ...quiet, ...burst])
  const first = samples.findIndex((sample) => sample >= 0.9999)
  expect(measure(samples)).toEqual({ places: 2, firstSample: first, sampleRate })
  expect(measure(samples, 7)).toEqual({ places: 2, firstSample: first, sampleRate })
})

test('a single sample at full scale is a peak; what goes beyond one has room there', () => {
  expect(measure(Float32Array.from([0, 1, 1, 0, -1, -1, 1, 0]))).toBeNull()
  expect(measure(Float32Array.from([0, 1, 1, 1, 0]))).toMatchObject({ places: 1, firstSample: 1 })
  expect(measure(Float32Array.from([0, 1.4, 1.6, 1.7, 1.2, 0]))).toBeNull()
})
