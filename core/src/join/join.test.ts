import { describe, expect, test } from '@jest/globals'
import { pictureFacts } from '../testing/facts.ts'
import { rate } from '../time/index.ts'
import { type JoinPart, joinedEntries, joinedList, joinedTable, joinTroubles, samplesBefore } from './index.ts'

const part = (name: string, change: Parameters<typeof pictureFacts>[0] = {}): JoinPart => ({
  ...{ name: `${name}_proxy.mov`, clipName: name, clipId: `clip ${name}`, reel: 'A001', facts: pictureFacts(change) },
})

describe('a joined file', () => {
  const parts = [
    part('A', { frames: 20 }),
    part('B', { frames: 30, start: null }),
    part('C', { frames: 25, start: '23:59:59:20' }),
  ]
  const entries = joinedEntries(parts)

  test('has its parts one behind the other', () => {
    expect(entries.map(({ startFrame, frames }) => [startFrame, frames])).toEqual([
      [0, 20],
      [20, 30],
      [50, 25],
    ])
  })

  test('says what is where, and nothing of a timecode that is not there', () => {
    expect(joinedTable(entries, rate(25)).split('\r\n').slice(1, 4)).toEqual([
      'A_proxy.mov,A,A001,10:00:00:00,10:00:00:20,01:00:00:00,01:00:00:20,20',
      'B_proxy.mov,B,A001,,,01:00:00:20,01:00:02:00,30',
      'C_proxy.mov,C,A001,23:59:59:20,00:00:00:20,01:00:02:00,01:00:03:00,25',
    ])
  })

  test('as a list has each part as an event at its place', () => {
    const list = joinedList('Day 1', entries, rate(25))
    expect(list).toContain('TITLE: Day 1')
    expect(list).toContain('10:00:00:00 10:00:00:20 01:00:00:00 01:00:00:20')
    expect(list).toContain('00:00:00:00 00:00:01:05 01:00:00:20 01:00:02:00')
    expect(list).toContain('* FROM CLIP NAME: C')
  })

  test('in a drop-frame rate keeps the labels of its sources', () => {
    const ntsc = rate(30_000, 1001)
    const list = joinedList('Day 1', joinedEntries([part('A', { rate: ntsc, drop: true, start: '12:59:58;00' })]), ntsc)
    expect(list).toContain('12:59:58;00')
  })
})

test('what is not alike is told, once for each item and by what it is', () => {
  expect(joinTroubles([part('A'), part('B')])).toEqual([])
  expect(
    joinTroubles([part('A'), part('B', { width: 1280, height: 720, rate: rate(50) }), part('C', { channels: 0 })]),
  ).toEqual([
    'B_proxy.mov is 1280 × 720 in raster, and A_proxy.mov 1920 × 1080.',
    expect.stringMatching(/^C_proxy.mov is without in sound, and A_proxy.mov 2 × mono, PCM/),
  ])
})

test('rounding of samples is never added up', () => {
  const ntsc = rate(30_000, 1001)
  // 1601.6 samples a frame: a thousand parts of one frame each end where one of a thousand frames does.
  expect(samplesBefore(1000, ntsc, 48_000)).toBe(1_601_600)
  const each = Array.from(
    { length: 1000 },
    (_, n) => samplesBefore(n + 1, ntsc, 48_000) - samplesBefore(n, ntsc, 48_000),
  )
  expect(each.reduce((sum, samples) => sum + samples, 0)).toBe(1_601_600)
  expect([...new Set(each)].sort()).toEqual([1601, 1602])
})
