import type { Job } from '@ennick/contract'
import { describe, expect, test } from '@jest/globals'
import { doneMeanwhile, queueSeconds } from './queue-time.ts'

const job = (change: Partial<Job>): Job => ({
  ...{
    id: '1',
    title: 'x',
    kind: 'make',
    state: 'waiting',
    progress: null,
    files: null,
    codecs: [],
    summary: null,
    checks: [],
  },
  ...{
    error: null,
    log: null,
    hasDetails: false,
    attempts: 1,
    cancelRequested: false,
    isHeld: false,
    goesOnByItself: false,
    hasNewerRecipe: false,
  },
  ...{ createdAt: '2026-11-25T10:00:00Z', startedAt: null, endedAt: null },
  ...change,
})
const done = (seconds: number): Job =>
  job({
    state: 'done',
    startedAt: '2026-11-25T10:00:00Z',
    endedAt: new Date(Date.parse('2026-11-25T10:00:00Z') + seconds * 1000).toISOString(),
  })
const progress = { done: 1, total: 2, unit: 'frames', unitsPerSecond: 1, realTime: 1, step: 'working' } as const

describe('the time of the whole queue', () => {
  test('goes by how long the last ones took, shared by what is made at once', () => {
    const jobs = [
      job({ state: 'running', progress: { ...progress, secondsLeft: 4 } }),
      job({}),
      job({}),
      job({}),
      done(10),
      done(20),
    ]
    expect(queueSeconds(jobs, 1)).toBe(4 + 3 * 15)
    expect(queueSeconds(jobs, 2)).toBe((4 + 3 * 15) / 2)
  })
  test('more hands than jobs make the last one no quicker', () => {
    expect(queueSeconds([job({}), done(10)], 8)).toBe(10)
  })
  test('what is held, what is no making, and a queue without a worker or a past', () => {
    expect(queueSeconds([job({ isHeld: true }), job({ kind: 'scan' }), done(10)], 2)).toBeNull()
    expect(queueSeconds([job({}), done(10)], 0)).toBeNull()
    expect(queueSeconds([job({})], 2)).toBeNull()
  })
})

describe('what is done meanwhile', () => {
  const at = (time: string, state: Job['state']) => job({ createdAt: `2026-11-25T${time}Z`, state })
  test('counts from the oldest job that is not over, in whatever order they are listed', () => {
    const jobs = [
      at('10:05:00', 'waiting'),
      at('09:00:00', 'done'),
      at('10:00:00', 'running'),
      at('10:00:00', 'done'),
      at('10:01:00', 'done'),
    ]
    expect(doneMeanwhile(jobs)).toBe(2)
  })
  test('leaves out what failed or was stopped, and an old order', () => {
    expect(
      doneMeanwhile([
        at('10:00:00', 'waiting'),
        at('10:00:00', 'failed'),
        at('10:00:00', 'cancelled'),
        at('09:59:59', 'done'),
      ]),
    ).toBe(0)
  })
  test('is nothing when nothing is under way', () => {
    expect(doneMeanwhile([at('10:00:00', 'done')])).toBe(0)
  })
})
