import { describe, expect, test } from '@jest/globals'
import type { SoundNotes } from '../notes/index.ts'
import { pictureFacts, soundFacts } from '../testing/facts.ts'
import { type Rate, rate } from '../time/index.ts'
import { dataRate, durationLabel, lengthFrames, startLabel, suggest } from './index.ts'

const noted = (samples: number, timecodeRate: Rate | null, dropFrame: boolean) => ({
  ...soundFacts(480_000, samples),
  soundNotes: { timecodeRate, dropFrame } as SoundNotes,
})

describe('where a medium starts', () => {
  test('a picture by its own label', () => {
    expect(startLabel(pictureFacts({ start: '12:59:58;00', rate: rate(30000, 1001), drop: true }), rate(25))).toBe(
      '12:59:58;00',
    )
    expect(startLabel(pictureFacts({ start: null }), rate(25))).toBeNull()
  })
  test('sound at the rate that its recorder stated, else at the production’s', () => {
    expect(startLabel(soundFacts(1, 9 * 3600 * 48_000), rate(25))).toBe('09:00:00:00')
    expect(startLabel(noted(48_048, rate(30000, 1001), false), rate(25))).toBe('00:00:01:00')
    // Ten minutes of drop-frame labels are 17982 frames: 600.6 s of 1.001 of a second each.
    expect(startLabel(noted(Math.ceil(17_982 * 1601.6), rate(30000, 1001), true), rate(25))).toBe('00:10:00;00')
  })
  test('a start between two frames has the earlier label, exactly', () => {
    expect(startLabel(noted(1601, rate(30000, 1001), false), rate(25))).toBe('00:00:00:00')
    expect(startLabel(noted(1602, rate(30000, 1001), false), rate(25))).toBe('00:00:00:01')
  })
})

test('length in whole frames', () => {
  expect(lengthFrames(pictureFacts({ frames: 77 }), rate(25))).toBe(77)
  expect(lengthFrames(soundFacts(8 * 48_000 - 768, 0), rate(25))).toBe(199)
  expect(lengthFrames({ ...pictureFacts(), kind: 'still' }, rate(25))).toBeNull()
})

test('a length as a label counts from nought, at the rate and flag of the start', () => {
  expect(durationLabel(pictureFacts({ frames: 77 }), rate(25))).toBe('00:00:03:02')
  const ntsc = { start: '12:59:58;00', rate: rate(30000, 1001), drop: true, frames: 1800 }
  expect(durationLabel(pictureFacts(ntsc), rate(25))).toBe('00:01:00;02')
  expect(durationLabel(soundFacts(8 * 48_000 - 768, 0), rate(25))).toBe('00:00:07:24')
  expect(durationLabel({ ...pictureFacts(), kind: 'still' }, rate(25))).toBeNull()
})

test('data rate is bits over the whole length', () => {
  expect(dataRate(pictureFacts({ frames: 100 }), 1_000_000)).toBe(2_000_000)
  expect(dataRate(soundFacts(96_000, 0), 576_000)).toBe(2_304_000)
  expect(dataRate({ ...pictureFacts(), kind: 'still' }, 1)).toBeNull()
})

describe('does it need a proxy?', () => {
  const of = (codec: string, plays: number | null, width = 1920) =>
    suggest(pictureFacts({ codec, width }), { plays, reads: null }, 1920).suggestion
  test.each([
    ['prores', 5, 1920, 'cut as it is'],
    ['h264', 3, 1920, 'cut as it is'],
    ['h264', 2, 1920, 'transcode'],
    ['h264', 2, 3840, 'proxy'],
    ['prores', 1, 1920, 'proxy'],
    ['h264', 0, 3840, 'proxy'],
    ['h264', null, 1920, 'not measured'],
  ])('%s that plays %s at once at %d: %s', (codec, plays, width, suggestion) =>
    expect(of(codec, plays, width)).toBe(suggestion),
  )
  test('an all-intra H.264 is not called long GOP, and one whose frames nothing says is called neither', () => {
    const stored = (isIntra: boolean) => ({ isIntra, leastBytes: 1, mostBytes: 1 })
    const reason = (change: object) => suggest(pictureFacts(change), { plays: 2, reads: null }, 1920).reason
    expect(suggest(pictureFacts({ stored: stored(true) }), { plays: 2, reads: null }, 1920).suggestion).toBe('proxy')
    expect(reason({ stored: stored(true) })).not.toContain('long GOP')
    expect(reason({ stored: stored(false) })).toContain('it is long GOP')
    expect(reason({})).not.toMatch(/long GOP|all-intra/)
    expect(suggest(pictureFacts({ stored: stored(true) }), { plays: 3, reads: null }, 1920).reason).toContain(
      'all-intra',
    )
  })
  test('sound needs none', () =>
    expect(suggest(soundFacts(1, 1), { plays: null, reads: null }, 1920).suggestion).toBe('cut as it is'))
  test('what was measured apart tells which of the two is the trouble', () => {
    const of = (plays: number, reads: number, codec = 'prores') =>
      suggest(pictureFacts({ codec }), { plays, reads }, 1920)
    expect(of(9, 2)).toEqual({ suggestion: 'proxy', reason: expect.stringContaining('reading is the trouble') })
    expect(of(9, 0).reason).toContain('its volume delivers not even one')
    expect(of(9, 3)).toEqual({ suggestion: 'cut as it is', reason: expect.not.stringContaining('trouble') })
    expect(of(1, 9, 'h264')).toMatchObject({ suggestion: 'transcode', reason: expect.stringContaining('decoding is') })
    // An easier codec of the same size is larger still: it does not help where reading is slow.
    expect(of(1, 1, 'h264')).toMatchObject({
      suggestion: 'proxy',
      reason: expect.stringContaining('both decoding and'),
    })
  })
  test('the reason is a sentence with the count', () => {
    expect(suggest(pictureFacts(), { plays: 2, reads: null }, 1920).reason).toContain('plays 2 at once here')
    expect(suggest(pictureFacts(), { plays: 0, reads: null }, 1920).reason).toContain('does not play in real time here')
  })
})
