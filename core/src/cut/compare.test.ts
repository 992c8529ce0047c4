import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { anyCut } from '../testing/cuts.ts'
import { rate } from '../time/index.ts'
import { compareCuts, describeChange } from './compare.ts'
import { edl } from './formats/index.ts'
import type { Cut } from './model.ts'

const source = ({ reel, clipName }: Cut['events'][number]) => reel ?? clipName ?? ''
const compare = (before: Cut, after: Cut) => compareCuts(before, after, { before: source, after: source })

type Use = readonly [reel: string, sourceIn: number, frames: number, change?: Partial<Cut['events'][number]>]
/** Uses one behind the other on V1. */
function cutOf(...uses: readonly Use[]): Cut {
  let at = 0
  const events = uses.map(([reel, startFrame, frames, change], index) => {
    const record = { startFrame: at, endFrame: at + frames }
    at += frames
    return {
      ...{
        number: String(index + 1).padStart(3, '0'),
        track: 'V1',
        kind: 'picture' as const,
        clipName: null,
        path: null,
      },
      ...{ reel, source: { startFrame, endFrame: startFrame + frames }, sourceRate: rate(25), mediumStartFrame: null },
      ...{ record, transition: null, speed: { numerator: 1, denominator: 1 }, notes: [], location: '' },
      ...change,
    }
  })
  return { name: 'x', rate: rate(25), dropFrame: false, tracks: [{ name: 'V1', kind: 'picture' }], events }
}
const words = (before: Cut, after: Cut) =>
  compare(before, after).changes.map((change) => describeChange(change, rate(25)))
const base = cutOf(['A', 100, 50], ['B', 200, 50], ['C', 300, 50])

describe('what became of each event', () => {
  test('of an insert, that what is behind it is moved', () => {
    expect(words(base, cutOf(['A', 100, 50], ['N', 0, 25], ['B', 200, 50], ['C', 300, 50]))).toEqual([
      'same',
      'added',
      'moved 25 frames later (00:00:01:00)',
      'moved 25 frames later (00:00:01:00)',
    ])
  })

  test('of a deletion, where it stood', () => {
    const comparison = compare(base, cutOf(['A', 100, 50], ['C', 300, 50]))
    expect(comparison.changes.map(({ kinds, before, after }) => [kinds[0], before, after])).toEqual([
      ['same', 0, 0],
      ['gone', 1, null],
      ['moved', 2, 1],
    ])
    expect(comparison.counts).toMatchObject({ same: 1, gone: 1, moved: 1, added: 0 })
  })

  test.each<[Use, string]>([
    [['B', 190, 60], 'trimmed: 10 frames more at the head'],
    [['B', 210, 40], 'trimmed: 10 frames less at the head'],
    [['B', 200, 49], 'trimmed: 1 frame less at the tail'],
    [['B', 195, 60], 'trimmed: 5 frames more at the head, 5 frames more at the tail'],
    [['B', 203, 50], 'trimmed: 3 frames less at the head, 3 frames more at the tail'],
    [['B', 200, 50, { speed: { numerator: 2, denominator: 1 } }], 'retimed'],
    [['D', 900, 50], 'replaced'],
    [['B', 200, 50, { isDisabled: true }], 'switched'],
    [['B', 200, 50, { transition: { kind: 'dissolve', wipeCode: null, durationFrames: 5 } }], 'transition changed'],
  ])('%j', (use, what) => {
    const changed = cutOf(['A', 100, 50], use, ['C', 300, 50])
    // Only what is trimmed is looked at: what is behind it is moved by as much.
    const [, second] = words(base, changed)
    expect(second?.replace(/, moved.*/, '')).toBe(what)
  })

  test('an event that is replaced is known by its place, also where all was moved', () => {
    const [added, , second] = words(base, cutOf(['N', 0, 1000], ['A', 100, 50], ['D', 900, 50], ['C', 300, 50]))
    expect([added, second]).toEqual(['added', 'replaced, moved 1000 frames later (00:00:40:00)'])
  })

  test('of equal uses those at their old place stay', () => {
    const loop = cutOf(['A', 0, 10], ['A', 0, 10], ['A', 0, 10])
    expect(words(loop, cutOf(['A', 0, 10], ['N', 0, 10], ['A', 0, 10]))).toEqual(['same', 'replaced', 'same'])
  })
})

test('a cut is the same as itself; as nothing it is all added; each event is told once', () => {
  fc.assert(
    fc.property(anyCut({ otherRates: true }), anyCut({ otherRates: true }), (a, b) => {
      expect(compare(a, a).counts.same).toBe(a.events.length)
      expect(compare({ ...a, events: [] }, a).counts.added).toBe(a.events.length)
      const { changes } = compare(a, b)
      const told = (side: 'before' | 'after') => changes.flatMap((change) => change[side] ?? []).sort((x, y) => x - y)
      expect(told('before')).toEqual(a.events.map((_, index) => index))
      expect(told('after')).toEqual(b.events.map((_, index) => index))
    }),
    { numRuns: 60 },
  )
})

test('numbers of a list do not matter', () => {
  const text = edl.write(base)
  const renumbered = text.replace(/^(\d{3})/gm, (number) => String(Number(number) + 10).padStart(3, '0'))
  const read = (list: string) => edl.read(list, { rate: rate(25), fileName: 'x' })
  expect(compare(read(text), read(renumbered)).counts.same).toBe(3)
})

describe('levels of sound', () => {
  const heard = (...gains: readonly (number | null)[]) =>
    cutOf(
      ...gains.map(
        (gain, index): Use => [
          `S${index}`,
          100,
          50,
          { kind: 'sound', track: 'A1', ...(gain !== null && { level: { gain } }) },
        ],
      ),
    )

  test('are told where they changed by more than a tenth of a decibel', () => {
    expect(words(heard(0.5, 1, 0.5), heard(0.25, 0, 0.503))).toEqual([
      'level −12.0 dB instead of −6.0 dB',
      'level silent instead of 0.0 dB',
      'same',
    ])
    expect(words(heard(0.5, 0.5), heard(null, 0.5))).toEqual(['level 0.0 dB instead of −6.0 dB', 'same'])
  })

  test('of a list that says none of any sound are told once, by how many there were', () => {
    const comparison = compare(heard(0.5, 1, 2, null), heard(null, null, null, null))
    expect(comparison.levelsLost).toBe(2)
    expect(comparison.counts).toMatchObject({ same: 4, 'level changed': 0 })
    const first = compare(heard(null), heard(0.5))
    expect([first.levelsLost, first.counts.same]).toEqual([0, 1])
  })

  test('that change on the way are the same where their keyframes are', () => {
    const moving = (...frames: readonly number[]) => ({
      gain: 1,
      points: frames.map((frame) => ({ sourceFrame: { numerator: frame, denominator: 1 }, gain: 1 })),
    })
    const use = (level: Cut['events'][number]['level']): Cut =>
      cutOf(['S', 100, 50, { kind: 'sound', track: 'A1', ...(level && { level }) }])
    expect(words(use(moving(110, 120)), use(moving(110, 120)))).toEqual(['same'])
    expect(words(use(moving(110, 120)), use(moving(110, 121)))).toEqual(['level with other keyframes'])
    expect(words(use(moving(110, 120)), use({ gain: 1, points: [] }))).toEqual([
      'level 0.0 dB at first, 0 keyframes instead of 0.0 dB at first, 2 keyframes',
    ])
  })
})
