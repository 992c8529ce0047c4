import { describe, expect, test } from '@jest/globals'
import type { SoundFacts } from '../media/index.ts'
import { pictureFacts } from '../testing/facts.ts'
import { compareTwin } from './compare.ts'
import { describeCopy, planStampedCopy, silenceIn } from './stamped-copy.ts'

const stream = (channels: number, samples: number | null = 192_000, layout: string | null = null): SoundFacts => ({
  ...{ codec: 'pcm_s16le', channels, layout, sampleRate: 48_000, bitDepth: 16, samples },
})
const withSound = (sound: readonly SoundFacts[], more: Partial<ReturnType<typeof pictureFacts>> = {}) => ({
  ...pictureFacts({ channels: 0, container: 'mov' }),
  ...{ sound, ...more },
})
/** What is planned for an item of some sound, of an original of another. */
function plan(own: readonly SoundFacts[], wanted: readonly SoundFacts[], more = {}) {
  const [original, item] = [withSound(wanted), withSound(own, more)]
  const rows = compareTwin(
    { name: 'A.mov', facts: original, reel: original.reel },
    [{ part: 'whole', name: 'A.mov', facts: item }],
    [],
    null,
  )
  return planStampedCopy(rows, original, item)
}
const soundOf = (planned: ReturnType<typeof plan>) => ('copy' in planned ? planned.copy.sound : planned.refusal)

describe('a copy that agrees with its original', () => {
  test('keeps its sound as it is where the stamp alone is wrong', () => {
    const late = plan([stream(2)], [stream(2)], { startFrame: 7 })
    expect(late).toEqual({ copy: { sound: null } })
    expect('copy' in late && describeCopy(late.copy)).toBe('with the original’s timecode and reel')
  })

  test('groups the same channels as the original does', () => {
    expect(soundOf(plan([stream(1), stream(1)], [stream(2, 192_000, 'stereo')]))).toMatchObject({
      ...{ streams: [{ channels: [0, 1], layout: 'stereo' }], silentChannels: 0, samples: 192_000, paddedSamples: 0 },
    })
    expect(soundOf(plan([stream(4)], [stream(2), stream(1), stream(1)]))).toMatchObject({
      streams: [{ channels: [0, 1] }, { channels: [2] }, { channels: [3] }],
    })
  })

  test('has silence for the channels that the item lacks, and says so', () => {
    const planned = plan([stream(2)], [stream(1), stream(1), stream(1), stream(1)])
    expect(soundOf(planned)).toMatchObject({
      streams: [{ channels: [0] }, { channels: [1] }, { channels: [null] }, { channels: [null] }],
      silentChannels: 2,
    })
    if (!('copy' in planned)) throw new Error(planned.refusal)
    expect(describeCopy(planned.copy)).toBe('with the original’s timecode, reel and channels, 2 of them silent')
    expect(silenceIn(planned.copy)).toMatchObject([
      { agrees: true, difference: 'channels 3, 4 of the copy are silent' },
    ])
    expect(soundOf(plan([], [stream(2)]))).toMatchObject({ streams: [{ channels: [null, null] }], silentChannels: 2 })
  })

  test('is filled up with silence by less than a frame of 1920 samples, and no further', () => {
    expect(soundOf(plan([stream(2, 190_081)], [stream(2)]))).toMatchObject({ samples: 192_000, paddedSamples: 1919 })
    expect(soundOf(plan([stream(2, 193_000)], [stream(2)]))).toMatchObject({ samples: 192_000, paddedSamples: -1000 })
    expect(soundOf(plan([stream(2, 190_080)], [stream(2)]))).toMatch(/a frame or more/)
  })

  test('is no cure for another length, another container, channels too many, or for nothing', () => {
    const short = { picture: { ...pictureFacts({}).picture, frames: 3 } }
    expect(plan([stream(1)], [stream(2)], short)).toEqual({ refusal: 'it differs in length too' })
    expect(plan([stream(3)], [stream(2)])).toEqual({ refusal: expect.stringContaining('does not have') })
    expect(plan([stream(1)], [stream(2)], { container: 'avi' })).toEqual({ refusal: expect.stringContaining('avi') })
    expect(plan([stream(2)], [stream(2)])).toEqual({ refusal: 'nothing about it is known to be wrong' })
  })
})
