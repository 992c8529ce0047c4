import { expect, test } from '@jest/globals'
import { echoed, music, noise, speech, withNoise } from '../testing/sounds.ts'
import { envelopeSourceRate as rate } from './envelope.ts'
import { NoteMeter, soundsLikeMusic } from './notes-held.ts'
import { TrackMeter } from './track-level.ts'

const look = (samples: Float32Array) => {
  const meter = new NoteMeter()
  for (let index = 0; index < samples.length; index += 777) meter.add(samples.subarray(index, index + 777))
  return meter.finish()
}
const made = (seconds: number, at: (second: number) => number): Float32Array =>
  Float32Array.from({ length: seconds * rate }, (_, index) => at(index / rate))
/** The sum of two, the other so much quieter. */
const over = (one: Float32Array, other: Float32Array, gain: number): Float32Array =>
  one.map((sample, index) => sample + gain * (other[index] ?? 0))
/** A voice whose pitch goes up and down as in a sentence, with its overtones and its pauses. */
const voice = (seconds: number, low: number): Float32Array => {
  let turns = 0
  return made(seconds, (second) => {
    turns += (low * (1.3 + 0.3 * Math.sin(second * 5.1) * Math.sin(second * 1.7))) / rate
    const isOn = Math.sin(second * 2 * Math.PI * 3.7) > -0.6
    return isOn ? 0.3 * ((turns % 1) - 0.5) : 0
  })
}

test.each([
  ['music', music(30, rate, 1)],
  ['slower music', music(60, rate, 2)],
  ['music in a room, with noise at 10 dB', withNoise(echoed(music(30, rate, 3), 0.4, rate), 10, 4)],
  ['music out of tune with the world', music(30, rate * 1.0173, 5)],
  ['music over speech', over(music(30, rate, 6), speech(30, rate, 7), 0.3)],
  ['very quiet music', music(30, rate, 8).map((sample) => sample * 0.01)],
])('%s is told', (_, samples) => {
  expect(soundsLikeMusic(look(samples))).toBe(true)
})

test.each([
  ['speech', speech(60, rate, 11)],
  ['other speech', speech(60, rate, 12)],
  ['a low voice', voice(60, 95)],
  ['a high voice', voice(60, 210)],
  ['speech over music', over(speech(60, rate, 13), music(60, rate, 14), 0.05)],
  ['noise', noise(30, rate, 15)],
  ['silence', new Float32Array(30 * rate)],
  ['hum', made(30, (t) => 0.1 * [50, 100, 150, 250, 350].reduce((sum, f) => sum + Math.sin(2 * Math.PI * f * t), 0))],
  ['a tone', made(30, (t) => Math.sin(2 * Math.PI * 1000 * t))],
  ['beeps', made(30, (t) => (t % 1 < 0.4 ? Math.sin(2 * Math.PI * 1250 * t) : 0))],
  ['a horn of two tones', made(30, (t) => Math.sin(2 * Math.PI * (t % 1.3 < 0.65 ? 435 : 580) * t))],
  ['an engine', made(60, (t) => 0.3 * (((80 * t + 20 * Math.sin(t / 3)) % 1) - 0.5))],
  ['a moment of music', music(2, rate, 16)],
])('%s is not told as music', (_, samples) => {
  expect(soundsLikeMusic(look(samples))).toBe(false)
})

test('a track with music says so, and how much of it; where it begins late a later part is listened to', () => {
  const meter = new TrackMeter(48_000)
  meter.add(music(20, 48_000, 21))
  const level = meter.finish()
  expect(level.holds).toBe('music')
  expect(level.notesPercent).toBeGreaterThan(80)
  const late = Float32Array.from([...speech(20, rate, 22), ...new Float32Array(40 * rate), ...music(150, rate, 23)])
  expect(look(late).notes).toBeGreaterThan(look(speech(20, rate, 22)).notes + 24)
})
