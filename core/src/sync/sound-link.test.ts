import { describe, expect, test } from '@jest/globals'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { fraction, parseTimecode, rate } from '../time/index.ts'
import { laidBeside, type SyncMedium } from './by-timecode.ts'
import { clockDifferences, withClock } from './clock-difference.ts'
import { readSoundLink, type SoundLink, writeSoundLink } from './sound-link.ts'

describe('a link', () => {
  const link: SoundLink = {
    soundIds: ['one', 'two'],
    offsetSamples: fraction(-8008, 5),
    sampleRate: 48_000,
    method: 'waveform',
    tracks: [0, 2],
    cameraSound: 'muted',
  }

  test('comes back from its text to the fraction of a sample', () => {
    expect(readSoundLink(writeSoundLink(link))).toEqual(link)
    expect(readSoundLink(writeSoundLink({ ...link, tracks: null }))).toEqual({ ...link, tracks: null })
    const contents = { picture: 'p', recordings: ['r'] }
    expect(readSoundLink(writeSoundLink({ ...link, contents }))).toEqual({ ...link, contents })
  })

  test.each([undefined, '', '{}', 'null', '[1]', writeSoundLink(link).replace('waveform', 'luck'), '{"offset":"1/0"}'])(
    '%j is none',
    (text) => expect(readSoundLink(text)).toBeNull(),
  )
})

describe('a clock that was wrong', () => {
  const counting = { rate: rate(25), dropFrame: false }
  const sound: SyncMedium = {
    id: 's',
    name: 's.wav',
    facts: soundFacts(48_000 * 600, parseTimecode('10:00:00:00', rate(25)) * 1920),
    day: null,
  }
  const picture = (id: string, start: string | null): SyncMedium => ({
    id,
    name: id,
    facts: pictureFacts({ start }),
    day: null,
  })
  /** Pictures with what their timecode says, and the second of the recording at which they really began. */
  const differences = (...pictures: [id: string, start: string | null, second: number][]) => {
    const media = new Map(pictures.map(([id, start]) => [id, picture(id, start)]))
    const synced = pictures.flatMap(([id, , second]) => {
      const recording = { soundIds: ['s'], seconds: fraction(600), sampleRate: 48_000 }
      return laidBeside(media.get(id) as SyncMedium, recording, fraction(second * 48_000), 'waveform') ?? []
    })
    return clockDifferences(
      synced,
      (id) => media.get(id) ?? sound,
      (id) => id[0] ?? null,
      counting,
    )
  }

  test('is told where all pictures of a card say the same, an hour and six frames', () => {
    expect(differences(['A1', '09:00:09:19', 10], ['A2', '09:01:09:19', 70], ['B1', '10:00:05:00', 5])).toEqual([
      { group: 'A', behindFrames: 25 * 3600 + 6, pictureIds: ['A1', 'A2'] },
    ])
  })

  test('is not told by one picture alone, by one that contradicts, or where clocks are a frame apart', () => {
    expect(differences(['A1', '09:00:10:00', 10])).toEqual([])
    expect(differences(['A1', '09:00:10:00', 10], ['A2', '09:01:10:00', 70], ['A3', '10:02:10:00', 130])).toEqual([])
    expect(differences(['A1', '10:00:10:01', 10], ['A2', '10:01:10:01', 70])).toEqual([])
    expect(differences(['A1', null, 10], ['A2', null, 70])).toEqual([])
  })

  test('across midnight the shorter way is meant', () => {
    const [found] = differences(['A1', '22:00:00:00', 10], ['A2', '22:01:00:00', 70])
    expect(found?.behindFrames).toBe(-(11 * 3600 + 59 * 60 + 50) * 25)
  })

  test('put right, a picture lies where its sound does', () => {
    expect(withClock(picture('A1', '09:00:09:19'), 25 * 3600 + 6).facts.startFrame).toBe(
      parseTimecode('10:00:10:00', rate(25)),
    )
    expect(withClock(picture('A1', null), 5).facts.startFrame).toBeNull()
  })
})
