import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { MediaFacts } from '../media/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { fraction, parseTimecode, type Rate, rate } from '../time/index.ts'
import { hasWholeSound, type SyncMedium, syncByTimecode } from './by-timecode.ts'
import { describeClock, describeDrift, describeOffset, soundLabelAt } from './sound-words.ts'

const film = rate(24_000, 1001)
const ntsc = rate(30_000, 1001)
const counting = { rate: rate(25), dropFrame: false }
const picture = (id: string, start: string | null, frames: number, at: Rate = rate(25), drop = false): SyncMedium => ({
  id,
  name: `${id}.mov`,
  facts: pictureFacts({ start, rate: at, drop, frames }),
  day: null,
})
/** A recording from a label of its recorder's on. */
function sound(id: string, start: string, seconds: number, at: Rate | null = null, drop = false): SyncMedium {
  const own = at ?? rate(25)
  const samples = (parseTimecode(start, own, drop) * 48_000 * own.denominator) / own.numerator
  const facts = soundFacts(Math.round(seconds * 48_000), Math.round(samples))
  return { id, name: `${id}.wav`, facts: at ? withNotes(facts, at, drop) : facts, day: null }
}
const withNotes = (facts: MediaFacts, timecodeRate: Rate, dropFrame: boolean): MediaFacts => ({
  ...facts,
  soundNotes: { timecodeRate, dropFrame, tape: null } as MediaFacts['soundNotes'] & object,
})
const sync = (pictures: SyncMedium[], sounds: SyncMedium[], choices?: ReadonlyMap<string, string>) =>
  syncByTimecode(pictures, sounds, counting, choices)
const offsetOf = (pictures: SyncMedium[], sounds: SyncMedium[]) => sync(pictures, sounds).synced[0]?.offsetSamples

describe('where a picture lies in its recording', () => {
  test('at 25 frames a second: two seconds and five frames in', () => {
    expect(offsetOf([picture('p', '10:00:02:05', 100)], [sound('s', '10:00:00:00', 60)])).toEqual(
      fraction(2 * 48_000 + 5 * 1920),
    )
  })
  test('at 23.976 the labels run slower than the clock: an hour of labels is 3603.6 s, and an equal label is sample 0', () => {
    const late = sound('s', '10:00:00:00', 60, film)
    expect(late.facts.timeReferenceSamples).toBe(10 * 3600 * 48_048)
    expect(offsetOf([picture('p', '10:00:00:00', 100, film)], [late])).toEqual(fraction(0))
    expect(offsetOf([picture('p', '10:00:01:00', 100, film)], [late])).toEqual(fraction(48_048))
  })
  test('finer than a sample where a frame is: one frame at 29.97 is 1601.6 samples', () => {
    const clip = picture('p', '10:00:00;01', 100, ntsc, true)
    const match = offsetOf([clip], [sound('s', '10:00:00;00', 60, ntsc, true)])
    // The recorder's own reference is a whole sample: the nearest to 10:00:00;00, which is 1078920 frames.
    const reference = Math.round((1_078_920 * 48_000 * 1001) / 30_000)
    expect(match).toEqual(fraction((1_078_921n * 48_000n * 1001n - BigInt(reference) * 30_000n) * 1n, 30_000n))
  })
  test('a recorder that says no rate counts as the production does', () => {
    expect(offsetOf([picture('p', '10:00:01:00', 10)], [sound('s', '10:00:00:00', 9)])).toEqual(fraction(48_000))
  })
  test('across midnight', () => {
    expect(offsetOf([picture('p', '00:00:01:00', 50)], [sound('s', '23:59:59:00', 60)])).toEqual(fraction(96_000))
    expect(offsetOf([picture('p', '23:59:59:00', 100)], [sound('s', '00:00:00:00', 60)])).toEqual(fraction(-48_000))
  })
})

describe('what lacks', () => {
  const one = (start: string, frames: number) =>
    sync([picture('p', start, frames)], [sound('s', '10:00:00:00', 10)]).synced[0]
  test('nothing of a picture within the recording', () => {
    const match = one('10:00:01:00', 100)
    expect(match && hasWholeSound(match)).toBe(true)
  })
  test('the head of one that began before, and the tail of one that ran on', () => {
    expect(one('09:59:59:00', 100)).toMatchObject({ lacksHeadSeconds: fraction(1), lacksTailSeconds: fraction(0) })
    expect(one('10:00:09:00', 50)).toMatchObject({ lacksHeadSeconds: fraction(0), lacksTailSeconds: fraction(1) })
  })
  test('one that only touches it is not synced', () => {
    expect(one('10:00:10:00', 50)).toBeUndefined()
    expect(one('09:59:58:00', 50)).toBeUndefined()
  })
})

describe('what is left to a person, or said', () => {
  const clip = picture('p', '10:00:02:00', 50)
  const near = (id: string, day: string | null = null) => ({ ...sound(id, '10:00:00:00', 60), day })
  test('of two recordings that cover it neither is taken, until one is chosen', () => {
    const sounds = [sound('one', '10:00:00:00', 60), sound('two', '10:00:01:00', 60)]
    expect(sync([clip], sounds).unsynced).toMatchObject([{ kind: 'several', candidates: [{}, {}] }])
    expect(sync([clip], sounds, new Map([['p', 'two']])).synced).toMatchObject([{ soundIds: ['two'] }])
  })
  test('one that covers it goes before one that does not', () => {
    const sounds = [sound('part', '10:00:03:00', 60), sound('whole', '10:00:00:00', 60)]
    expect(sync([clip], sounds).synced).toMatchObject([{ soundIds: ['whole'] }])
  })
  test('tracks that a recorder wrote as files of their own are one recording', () => {
    const sounds = ['T04_1', 'T04_2'].map((id) => sound(id, '10:00:00:00', 60))
    expect(sync([clip], sounds)).toMatchObject({ synced: [{ soundIds: ['T04_1', 'T04_2'] }], unusedSoundIds: [] })
  })
  test('a recording of another day is not taken, and is named', () => {
    const { synced, unsynced } = sync([{ ...clip, day: 'day 1' }], [near('s', 'day 2')])
    expect(synced).toEqual([])
    expect(unsynced).toEqual([{ kind: 'no sound', id: 'p', ofOtherDays: ['s'] }])
    expect(sync([{ ...clip, day: 'day 1' }], [near('s', 'day 1')]).synced).toHaveLength(1)
    expect(sync([{ ...clip, day: 'day 1' }], [near('s')]).synced).toHaveLength(1)
    // A date and a number say nothing of each other.
    expect(sync([{ ...clip, day: 'day 1' }], [near('s', '2026-11-04')]).synced).toHaveLength(1)
    expect(sync([{ ...clip, day: '2026-11-05' }], [near('s', '2026-11-04')]).synced).toHaveLength(0)
  })
  test('timecodes that run at another pace are told, and not compared', () => {
    const slow = picture('p', '10:00:02:00', 48, film)
    expect(sync([slow], [sound('s', '10:00:00:00', 60, rate(25))]).unsynced).toEqual([
      { kind: 'other pace', id: 'p', soundId: 's', countings: ['23.976', '25'] },
    ])
  })
  test('a picture without timecode, and a recording that nothing was taken during', () => {
    expect(sync([picture('p', null, 50)], [near('s')])).toMatchObject({
      unsynced: [{ kind: 'no timecode', id: 'p' }],
      unusedSoundIds: ['s'],
    })
  })
})

test('clocks in words', () => {
  expect(describeDrift(10.4, 60)).toBe('the recorder runs 10.4 millionths fast: 0.6 ms at the end')
  expect(describeDrift(-3, 3600)).toBe('the recorder runs 3.0 millionths slow: 10.8 ms at the end')
  expect(describeDrift(0.5, 60)).toBeNull()
  expect(describeClock(90_006, rate(25))).toBe('its timecode is 01:00:00:06 behind the recorder’s')
  expect(describeClock(-24, film)).toBe('its timecode is 00:00:01:00 ahead of the recorder’s')
})

describe('in words', () => {
  test('the recording’s own label at the picture’s first frame', () => {
    const at = (clip: SyncMedium, take: SyncMedium) => {
      const [match] = sync([clip], [take]).synced
      return match ? soundLabelAt(match, take.facts, counting) : null
    }
    expect(at(picture('p', '10:00:02:05', 9), sound('s', '10:00:00:00', 60))).toBe('10:00:02:05')
    expect(at(picture('p', '10:00:02:12', 9, rate(24)), sound('s', '10:00:00:00', 60, rate(30)))).toBe('10:00:02:15')
    expect(at(picture('p', '10:00:00;02', 9, ntsc, true), sound('s', '10:00:00;00', 60, ntsc, true))).toBe(
      '10:00:00;02',
    )
    expect(at(picture('p', null, 9), sound('s', '10:00:00:00', 60))).toBeNull()
  })
  test.each([
    [fraction(96_000), '96000 samples at 48 kHz'],
    [fraction(8008, 5), '1601 3/5 samples at 48 kHz'],
    [fraction(-48_000), '-48000 samples at 48 kHz'],
    [fraction(-1, 2), '-1/2 samples at 48 kHz'],
    [fraction(-3, 2), '-1 1/2 samples at 48 kHz'],
    [fraction(0), '0 samples at 48 kHz'],
  ])('%j samples: %s', (samples, words) => expect(describeOffset(samples, 48_000)).toBe(words))
})

test('whatever the rate, moving both by the same labels changes nothing, and every picture has one outcome', () => {
  const rates = fc.constantFrom(rate(24), rate(25), film, rate(30), ntsc)
  fc.assert(
    fc.property(
      rates,
      fc.nat(20 * 3600),
      fc.nat(3000),
      fc.integer({ min: 1, max: 400 }),
      (at, second, into, frames) => {
        const nominal = Math.round(at.numerator / at.denominator)
        const place = (moved: number) => {
          const label = (second + moved) * nominal
          const clip = pictureFacts({ start: null, rate: at, frames })
          const start = Math.round((label * 48_000 * at.denominator) / at.numerator)
          return sync(
            [{ id: 'p', name: 'p', facts: { ...clip, startFrame: label + into }, day: null }],
            [{ id: 's', name: 's', facts: withNotes(soundFacts(48_000 * 300, start), at, false), day: null }],
          )
        }
        const [here, there] = [place(0), place(1000)]
        expect(here.synced.length + here.unsynced.length).toBe(1)
        const [a, b] = [here.synced[0]?.offsetSamples, there.synced[0]?.offsetSamples]
        if (a && b)
          expect(
            Math.abs(Number(a.numerator) / Number(a.denominator) - Number(b.numerator) / Number(b.denominator)),
          ).toBeLessThan(1)
      },
    ),
  )
})
