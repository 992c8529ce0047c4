import { describe, expect, test } from '@jest/globals'
import { delayed, echoed, music, noise, speech, withNoise } from '../testing/sounds.ts'
import { alignSound, EnvelopeMatcher } from './correlate.ts'
import {
  EnvelopeMaker,
  envelopeRate,
  envelopeSourceRate,
  liveliness,
  packEnvelope,
  unpackEnvelope,
} from './envelope.ts'
import { Fourier, powerOfTwo, type Spectrum } from './fourier.ts'

test('a Fourier transform: one tone is one line, and values come back', () => {
  const fourier = new Fourier(64)
  const tone = Float64Array.from({ length: 64 }, (_, index) => Math.cos((2 * Math.PI * 5 * index) / 64))
  const { real } = fourier.spectrum(tone)
  const lines = Array.from(fourier.places, (place) => real[place] as number)
  expect(lines.findIndex((value) => value > 1)).toBe(5)
  expect(lines[5]).toBeCloseTo(32, 9)
  const back = fourier.values(fourier.spectrum(tone))
  for (const [index, value] of tone.entries()) expect(back[index]).toBeCloseTo(value, 9)
  expect(() => new Fourier(60)).toThrow('60 is no power of two.')
  expect([1, 2, 3, 1000, 1024].map(powerOfTwo)).toEqual([2, 2, 4, 1024, 1024])
})

/** By its definition: the first conjugated, times the second. */
const crossSpectrum = (one: Spectrum, other: Spectrum): Spectrum => {
  const cross = { real: new Float64Array(one.real.length), imaginary: new Float64Array(one.real.length) }
  for (const index of cross.real.keys()) {
    const [a, b] = [one.real[index] as number, -(one.imaginary[index] as number)]
    const [c, d] = [other.real[index] as number, other.imaginary[index] as number]
    cross.real[index] = a * c - b * d
    cross.imaginary[index] = a * d + b * c
  }
  return cross
}

test.each([2, 4, 8, 16, 32, 64, 128, 256])('a transform of %i values is what its definition says', (size) => {
  const fourier = new Fourier(size)
  const values = Float64Array.from({ length: size }, (_, index) => Math.sin(index * index + 1))
  const { real, imaginary } = fourier.spectrum(values)
  for (let line = 0; line < size; line++) {
    const turned = (part: (angle: number) => number): number =>
      values.reduce((sum, value, index) => sum + value * part((-2 * Math.PI * line * index) / size), 0)
    expect(real[fourier.places[line] as number]).toBeCloseTo(turned(Math.cos), 8)
    expect(imaginary[fourier.places[line] as number]).toBeCloseTo(turned(Math.sin), 8)
  }
  const other = fourier.spectrum(values.map((value) => value * value))
  const one = fourier.spectrum(values)
  const scratch = { real: new Float64Array(size), imaginary: new Float64Array(size) }
  const [first, second] = fourier.correlationsWithTwo(one, other, one, scratch)
  const [alone, itself] = [other, one].map((each) => fourier.values(crossSpectrum(one, each)))
  for (let index = 0; index < size; index++) {
    expect(first[index]).toBeCloseTo(alone?.[index] as number, 8)
    expect(second[index]).toBeCloseTo(itself?.[index] as number, 8)
  }
})

test('a correlation has its peak where one lies in the other', () => {
  const fourier = new Fourier(32)
  const [near, far] = [
    [1, 2, 3],
    [0, 0, 0, 0, 1, 2, 3],
  ]
  const one = fourier.crossOf(near as number[], far as number[])
  const two = crossSpectrum(fourier.spectrum(near as number[]), fourier.spectrum(far as number[]))
  one.real.forEach((real, index) => {
    expect(real).toBeCloseTo(two.real[index] as number, 9)
    expect(one.imaginary[index]).toBeCloseTo(two.imaginary[index] as number, 9)
  })
  const values = fourier.values(crossSpectrum(fourier.spectrum([1, 2, 3]), fourier.spectrum([0, 0, 0, 0, 1, 2, 3])))
  expect(values.indexOf(Math.max(...values))).toBe(4)
})

const envelopeOf = (samples: Float32Array): Float32Array => {
  const maker = new EnvelopeMaker()
  // In pieces, as a decoder gives them.
  for (let index = 0; index < samples.length; index += 1000) maker.add(samples.subarray(index, index + 1000))
  return maker.finish()
}

describe('envelopes', () => {
  const sound = speech(20, envelopeSourceRate, 1)

  test('do not change with gain and polarity, and are kept in bytes', () => {
    const [one, other] = [envelopeOf(sound), envelopeOf(sound.map((sample) => sample * -0.1))]
    expect(one).toHaveLength(20 * envelopeRate)
    for (const [index, value] of one.entries()) expect(other[index]).toBeCloseTo(value, 4)
    for (const [index, value] of unpackEnvelope(packEnvelope(one)).entries())
      expect(Math.abs(value - (one[index] as number))).toBeLessThan(0.011)
  })

  test('silence and a steady tone have none', () => {
    expect(liveliness(envelopeOf(new Float32Array(8000)))).toBe(0)
    const tone = Float32Array.from({ length: 80_000 }, (_, index) => Math.sin(index / 2))
    expect(liveliness(envelopeOf(tone))).toBeLessThan(0.02)
    expect(liveliness(envelopeOf(sound))).toBeGreaterThan(0.2)
  })
})

describe('where a scratch track lies in a recording', () => {
  const rate = envelopeSourceRate
  const take = speech(60, rate, 2)
  const matcher = new EnvelopeMatcher(60 * envelopeRate)
  const ready = (sound: Float32Array) => matcher.prepare(envelopeOf(sound))
  const find = (scratch: Float32Array, recording: Float32Array) =>
    matcher.match(ready(scratch), [ready(recording)], 2 * envelopeRate)[0]

  test.each([
    ['as it is', (scratch: Float32Array) => scratch],
    [
      'in another room, quiet, with noise at 10 dB, upside down',
      (scratch: Float32Array) => withNoise(echoed(scratch, 0.4, rate), 10, 9).map((sample) => sample * -0.05),
    ],
    ['with dropouts', (scratch: Float32Array) => scratch.map((sample, index) => (index % 24_000 < 2000 ? 0 : sample))],
  ])('%s', (_, change) => {
    const found = find(change(take.slice(21 * rate, 36 * rate)), take)
    expect(found?.lag).toBe(21 * envelopeRate)
    expect(found?.weight).toBeGreaterThan(2 * (found?.nextWeight ?? 0))
  })

  test('among several each is compared as if it were alone, however many there are', () => {
    const scratch = ready(withNoise(take.slice(21 * rate, 36 * rate), 10, 3))
    const others = [take, speech(50, rate, 21), speech(7, rate, 22), music(30, rate, 23), take.slice(10 * rate)].map(
      ready,
    )
    const alone = others.map((other) => matcher.match(scratch, [other], 2 * envelopeRate)[0])
    for (const many of [2, 3, 4, 5])
      for (const [index, match] of matcher.match(scratch, others.slice(0, many), 2 * envelopeRate).entries()) {
        expect(match?.lag).toBe(alone[index]?.lag)
        expect(match?.weight).toBeCloseTo(alone[index]?.weight ?? 0, 6)
      }
    expect(alone.map((match) => match?.lag)).toMatchObject({ 0: 21 * envelopeRate, 4: 11 * envelopeRate })
  })

  test('one that began before the recording, and one that ends after it', () => {
    const scratch = speech(80, rate, 3)
    expect(find(scratch.slice(0, 40 * rate), scratch.slice(12 * rate, 60 * rate))?.lag).toBe(-12 * envelopeRate)
    expect(find(scratch.slice(30 * rate, 80 * rate), scratch.slice(0, 50 * rate))?.lag).toBe(30 * envelopeRate)
  })

  test('music is found too, and what was recorded elsewhere stands out nowhere', () => {
    const band = music(40, rate, 4)
    const found = find(withNoise(band.slice(8 * rate, 28 * rate), 10, 5), band)
    expect(found?.lag).toBe(8 * envelopeRate)
    const other = find(speech(15, rate, 77), take)
    expect(other && other.weight / other.nextWeight).toBeLessThan(1.4)
    expect(find(noise(10, rate, 6).fill(0), take)).toBeNull()
  })
})

describe('to the sample', () => {
  const rate = 48_000
  const length = 65_536
  const sound = speech(2.5, rate, 11)
  const here = sound.slice(30_000, 30_000 + length)
  const later = (samples: number) => sound.slice(30_000 - samples, 30_000 - samples + length)

  test.each([0, 1, 17, -333, 1900])('%d samples later', (samples) => {
    const found = alignSound(here, later(samples), 2000)
    expect(found?.shiftSamples).toBeCloseTo(samples, 1)
    expect(found?.isInverted).toBe(false)
  })

  test('with noise at 10 dB, in another room, quiet and upside down', () => {
    const other = withNoise(echoed(later(250), 0.3, rate), 10, 12).map((sample) => sample * -0.1)
    const found = alignSound(here, other, 2000)
    expect(Math.round(found?.shiftSamples ?? 0)).toBe(250)
    expect(found?.isInverted).toBe(true)
  })

  test('music, and a clock that runs ten millionths faster', () => {
    const band = music(3, rate, 13)
    const faster = delayed(band, 40, 1 + 10.4e-6)
    const found = alignSound(band.slice(20_000, 20_000 + length), faster.slice(20_000, 20_000 + length), 2000)
    // The clock has run off by half a sample when the stretch is half over.
    expect(Math.abs((found?.shiftSamples ?? 0) - 40 + 0.5)).toBeLessThan(0.75)
  })

  test('silence is laid on nothing; what is something else stands out less', () => {
    expect(alignSound(new Float32Array(length), new Float32Array(length), 2000)).toBeNull()
    const [right, wrong] = [
      alignSound(here, later(5), 2000),
      alignSound(here, speech(2, rate, 99).slice(0, length), 2000),
    ]
    expect(right?.sharpness).toBeGreaterThan(3 * (wrong?.sharpness ?? 1))
  })
})

test('where one of two is silent nothing can be said', () => {
  const noise = new Float32Array(4096).map((_, index) => Math.sin(index * index))
  const silence = new Float32Array(4096)
  expect([alignSound(silence, noise, 400), alignSound(noise, silence, 400), alignSound(silence, silence, 400)]).toEqual(
    [...[null, null, null]],
  )
  expect(alignSound(noise, noise, 400)?.shiftSamples).toBeCloseTo(0)
})
