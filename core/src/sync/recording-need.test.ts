import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { fraction, rate } from '../time/index.ts'
import { samplesNeeded } from './recording-need.ts'
import type { SoundLink } from './sound-link.ts'

/** A recording at 48 kHz whose sample 1,000 runs with the first frame of its picture. */
const link = { offsetSamples: fraction(1000), sampleRate: 48_000 } as SoundLink

describe('which samples of a recording run with a use of its picture', () => {
  test('at the rate of the picture', () => {
    const picture = pictureFacts({ rate: rate(25), start: '10:00:00:00' })
    const need = { start: fraction(900_025), end: fraction(900_050) }
    expect(samplesNeeded(link, picture, need, rate(25))).toEqual({ start: fraction(49_000), end: fraction(97_000) })
  })

  test('a list of another rate means the labels, not the seconds since midnight', () => {
    // 10:00:00:00 at 23.976 is 36 seconds later in the day than at 24.
    const picture = pictureFacts({ rate: rate(24000, 1001), start: '10:00:00:00' })
    const need = { start: fraction(864_024), end: fraction(864_048) }
    expect(samplesNeeded(link, picture, need, rate(24))).toEqual({ start: fraction(49_000), end: fraction(97_000) })
  })
})
