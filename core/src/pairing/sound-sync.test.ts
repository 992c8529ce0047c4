import { expect, test } from '@jest/globals'
import { rate } from '../time/index.ts'
import { soundSyncEvidence } from './sound-sync.ts'

// A frame at 25 is 1920 samples, at 24000/1001 it is 2002.
test.each([
  [0, 25, true, '0 samples off', null],
  [-959, 25, true, '959 samples off', null],
  [960, 25, true, '0.5 frame late', 'its sound runs 0.5 frame late'],
  [-1919, 25, true, '1 frame early', 'its sound runs 1 frame early'],
  [1920, 25, false, '1 frame late', 'its sound runs 1 frame late'],
  [-5760, 25, false, '3 frames early', 'its sound runs 3 frames early'],
] as const)('%i samples at %i fps: %s, %s', (late, fps, agrees, found, difference) => {
  expect(soundSyncEvidence(late, 48_000, rate(fps))).toMatchObject({ agrees, found, difference })
})

test('a frame is one of the pictures’ own rate', () => {
  expect(soundSyncEvidence(2002, 48_000, rate(24_000, 1001))).toMatchObject({ agrees: false, found: '1 frame late' })
  expect(soundSyncEvidence(2001, 48_000, rate(24_000, 1001)).agrees).toBe(true)
})
