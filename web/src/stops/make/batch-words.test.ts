import type { MakeBatch } from '@ennick/contract'
import { expect, test } from '@jest/globals'
import { batchCounts, batchFile, batchRest, batchSize, batchWord, needsMoreRoom, takenInCounts } from './batch-words.ts'

const batch = (counts: Partial<MakeBatch['counts']>, change: Partial<MakeBatch> = {}): MakeBatch => ({
  ...{ id: 'b', createdAt: '2026-05-04T22:10:00.000Z', recipes: ['Half size'], clips: 14, seconds: null, size: null },
  ...{ failed: [], waiting: [], stopped: [], skipped: [], joined: [], takenIn: null },
  leftOut: { days: [], total: 0, names: [] },
  counts: { asked: 14, made: 0, failed: 0, stopped: 0, skipped: 0, toCome: 0, waits: 0, ...counts },
  ...change,
})

test('is not over while anything is to come; then its worst part says how it stands', () => {
  expect(batchWord(batch({ failed: 1, toCome: 1 }))).toBe('running')
  expect(batchWord(batch({ failed: 1, waits: 3 }))).toBe('waits')
  expect(batchWord(batch({ failed: 1, stopped: 2 }))).toBe('failed')
  expect(batchWord(batch({ stopped: 2, made: 12 }))).toBe('cancelled')
  expect(batchWord(batch({ made: 12, skipped: 2 }))).toBe('done')
})

test('says every part of what was asked for, and leaves out those that are none', () => {
  expect(batchCounts(batch({ made: 14 }))).toBe('14 of 14 made')
  expect(batchCounts(batch({ made: 10, failed: 1, waits: 3 }))).toBe('10 of 14 made, 1 failed, 3 waiting for a volume')
  expect(batchCounts(batch({ made: 11, failed: 1, skipped: 2 }, { seconds: 90 }))).toMatch(
    /^11 of 14 made, 1 failed, 2 skipped, in /,
  )
})

test('what it weighs is told once something is made, with the plan beside it where that did not hold', () => {
  const size = { madeBytes: 2e9, plannedBytes: 10e9, expectedBytes: 20e9, isOff: true }
  expect(batchSize(batch({ toCome: 9 }))).toBe('')
  expect(batchSize(batch({ toCome: 9 }, { size }))).toBe(
    '2.00 GB made, 20.0 GB expected in all (the plan said 10.0 GB)',
  )
  expect(batchSize(batch({ toCome: 9 }, { size: { ...size, isOff: false } }))).toBe(
    '2.00 GB made, 20.0 GB expected in all',
  )
  expect(batchSize(batch({ made: 11, waits: 3 }, { size: { ...size, isOff: false } }))).toMatch(/expected in all$/)
  expect(batchSize(batch({ made: 14 }, { size: { ...size, isOff: false } }))).toBe('2.00 GB made')
})

test('room is asked for while more is to come than was planned, and not for less', () => {
  const size = { madeBytes: 2e9, plannedBytes: 10e9, expectedBytes: 20e9, isOff: true }
  expect(needsMoreRoom(batch({ toCome: 9 }, { size }))).toBe(true)
  expect(needsMoreRoom(batch({ waits: 9 }, { size }))).toBe(true)
  expect(needsMoreRoom(batch({ toCome: 9 }, { size: { ...size, expectedBytes: 3e9 } }))).toBe(false)
  expect(needsMoreRoom(batch({ made: 14 }, { size }))).toBe(false)
  expect(needsMoreRoom(batch({ toCome: 9 }))).toBe(false)
})

test('what the receiving room has is told in numbers, and what it lacks is in the list', () => {
  const takenIn = {
    ...{ fileName: 'room.ale', readAt: '2026-05-05T08:00:00.000Z', of: 3, seen: 1, others: 0, unclear: [] },
    ...{ differing: [{ name: 'A1', line: 4, why: 'starts at 1 instead of 2' }], differingTotal: 1 },
    ...{ missing: ['A2'], missingTotal: 1 },
  }
  expect(takenInCounts(takenIn)).toBe('1 of 3 taken in, 1 differs, 1 not named')
  expect(takenInCounts({ ...takenIn, seen: 3, differingTotal: 0, missingTotal: 0 })).toBe('3 of 3 taken in')
  expect(
    batchFile(batch({ made: 3 }, { takenIn }))
      .split('\r\n')
      .slice(2, 4),
  ).toEqual([
    'A1,"taken in, and differs",line 4: starts at 1 instead of 2',
    'A2,not taken in,room.ale does not name it',
  ])
})

test('its list names all that was not made, with the reason, and quotes what needs it', () => {
  const file = batchFile(
    batch(
      { made: 11, failed: 1, skipped: 1 },
      {
        failed: [{ jobId: 'j', title: 'A001C004 → Half size', reason: 'frames 12, 13 are damaged' }],
        skipped: [{ name: 'T1', recipe: 'Half size', reason: 'it is sound alone' }],
        leftOut: { days: ['2026-05-04'], total: 301, names: ['A001C009'] },
      },
    ),
  )
  expect(file).toContain('A001C004 → Half size,failed,"frames 12, 13 are damaged"')
  expect(file).toContain('T1 → Half size,skipped,it is sound alone')
  expect(file).toContain('A001C009,not asked for,of 2026-05-04')
  // Names of what was not asked for may be too many to be told: how many are not is.
  expect(file).toContain('and 300 more,not asked for,of 2026-05-04')
})

test('nothing is said of a day that nobody knows', () => {
  expect(batchRest(batch({}))).toBe('Nothing failed, and nothing was skipped. No shoot day is known of its clips.')
  const leftOut = { days: ['2026-05-04'], total: 0, names: [] }
  const rest = batchRest(batch({}, { leftOut, stopped: ['A → Half'] }))
  expect(rest).toBe('Of 2026-05-04 no picture is without a proxy.')
  expect(batchRest(batch({}, { leftOut: { ...leftOut, total: 2 }, stopped: ['A → Half'] }))).toBe('')
})
