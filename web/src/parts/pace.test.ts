import { describe, expect, test } from '@jest/globals'
import { endedPace, pace } from './pace.ts'

const encoding = {
  done: 120,
  total: 480,
  unit: 'frames',
  unitsPerSecond: 48,
  secondsLeft: 7.5,
  realTime: 1.92,
  step: 'working',
} as const

describe('the pace of a job', () => {
  test('frames are told with frames a second and the ratio to real time', () => {
    expect(pace({ progress: encoding, isHeld: false })).toBe('120 of 480 frames · 48 fps · 1.9 × real time · 10 s left')
  })
  test('bytes are no files', () => {
    const copying = {
      ...encoding,
      unit: 'bytes',
      done: 5e6,
      total: 2e7,
      unitsPerSecond: 1e7,
      secondsLeft: 1.5,
      realTime: null,
    } as const
    expect(pace({ progress: copying, isHeld: false })).toBe('5.00 MB of 20.0 MB · 10.0 MB/s · a few seconds left')
  })
  test('what stands still has no speed, and what is checked none either', () => {
    expect(pace({ progress: encoding, isHeld: true })).toBe('120 of 480 frames · stands still')
    expect(pace({ progress: { ...encoding, done: 480, step: 'checking' }, isHeld: false })).toBe(
      '480 of 480 frames · is being checked',
    )
  })
  test('before there is anything to tell', () => {
    expect(pace({ progress: null, isHeld: false })).toBe('starting')
    expect(pace({ progress: null, isHeld: true })).toBe('stands still')
    expect(endedPace({ progress: null })).toBeNull()
    expect(endedPace({ progress: { ...encoding, unitsPerSecond: null } })).toBeNull()
    expect(endedPace({ progress: encoding })).toBe('48 fps · 1.9 × real time')
  })
})
