import { expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { fraction, rate } from '../time/index.ts'
import type { SoundLink } from './sound-link.ts'
import { withRecording } from './with-recording.ts'

const link: SoundLink = {
  ...{ soundIds: ['T1'], offsetSamples: fraction(96_000), sampleRate: 48_000, method: 'timecode' },
  ...{ tracks: [0, 2], cameraSound: 'dropped' },
}
const picture = pictureFacts({ frames: 101, rate: rate(24_000, 1001), channels: 2 })
const recording = soundFacts(48_000 * 60, 0)

test('the used tracks of the recording, each on its own and just as long as the picture', () => {
  const laid = withRecording(picture, link, [recording])
  // 101 frames at 23.976 take 101 × 2002 samples.
  expect(laid?.facts.sound.map(({ channels, samples, bitDepth }) => [channels, samples, bitDepth])).toEqual([
    [1, 202_202, 24],
    [1, 202_202, 24],
  ])
  expect(laid?.tracks).toEqual([
    { file: 0, stream: 0, channel: 0 },
    { file: 0, stream: 0, channel: 2 },
  ])
  expect(laid?.facts.picture).toBe(picture.picture)
})

test('the camera’s own streams come first where they are kept, or silent', () => {
  for (const cameraSound of ['kept', 'muted'] as const) {
    const laid = withRecording(picture, { ...link, tracks: null, cameraSound }, [recording])
    expect(laid?.facts.sound).toHaveLength(2 + 4)
    expect(laid?.facts.sound.slice(0, 2)).toEqual(picture.sound)
  }
})

test('tracks that are files of their own are counted through; what is not there is left out', () => {
  const mono = { ...recording, sound: recording.sound.map((stream) => ({ ...stream, channels: 1 })) }
  expect(withRecording(picture, { ...link, tracks: [1, 7] }, [mono, mono])?.tracks).toEqual([
    { file: 1, stream: 0, channel: 0 },
  ])
  expect(withRecording(picture, { ...link, tracks: [9] }, [mono])).toBeNull()
  expect(withRecording(recording, link, [mono])).toBeNull()
})
