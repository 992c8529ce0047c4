import { expect, test } from '@jest/globals'
import type { CutEvent } from '../cut/index.ts'
import { type DecisionOnUses, decidedUses, earlierWords, standingDecisions } from './decision.ts'
import { type Finding, type FindingKind, keyedOn } from './finding.ts'

/** An event of a clip that shows some of its frames. */
const uses = (clipName: string, startFrame: number, endFrame: number): CutEvent =>
  ({ kind: 'picture', reel: 'A001', clipName, path: null, source: { startFrame, endFrame } }) as CutEvent

const finding = (kind: FindingKind, ...events: number[]): Finding => ({ key: kind, kind, events }) as unknown as Finding

/** A decision that was made on a finding of the first events of a cut. */
const decided = (kind: FindingKind, cut: readonly CutEvent[], ...events: number[]): DecisionOnUses => ({
  ...{ findingKey: kind, reason: 'as agreed', decidedAt: '2026-11-30T04:00:00Z' },
  uses: decidedUses(cut, { events }),
})

const holds = (kind: FindingKind, before: readonly CutEvent[], after: readonly CutEvent[]): boolean => {
  const { held, lapsed } = standingDecisions(
    after,
    [finding(kind, ...after.keys())],
    [decided(kind, before, ...before.keys())],
  )
  expect(held.length + lapsed.length).toBe(1)
  return held.length === 1
}

const wheel = uses('wheel', 100, 150)

test('what is left open of a source that is not found are uses: the same, trimmed or moved, and no others', () => {
  for (const kind of ['unresolved', 'ambiguous', 'file gone', 'volume away', 'guide sound'] as const) {
    expect(holds(kind, [wheel], [wheel])).toBe(true)
    expect(holds(kind, [wheel], [uses('wheel', 90, 120)])).toBe(true)
    expect(holds(kind, [wheel], [wheel, uses('wheel', 140, 160)])).toBe(true)
    expect(holds(kind, [wheel], [wheel, uses('wheel', 150, 200)])).toBe(false)
    expect(holds(kind, [wheel, uses('wheel', 300, 320)], [uses('wheel', 310, 330)])).toBe(true)
  }
})

test('damage was judged by the frames that were used: one more is another matter, one less is not', () => {
  for (const kind of ['original damaged', 'gap in stills'] as const) {
    expect(holds(kind, [wheel], [uses('wheel', 101, 150)])).toBe(true)
    expect(holds(kind, [wheel], [uses('wheel', 100, 151)])).toBe(false)
    expect(holds(kind, [wheel], [uses('wheel', 99, 150)])).toBe(false)
    expect(holds(kind, [wheel, uses('wheel', 10, 20)], [uses('wheel', 12, 18), wheel])).toBe(true)
  }
})

test('of clips that are only on a card those are left there of which it was said, whatever is used of them', () => {
  expect(holds('only on a card', [wheel], [uses('wheel', 900, 950)])).toBe(true)
  expect(holds('only on a card', [wheel, uses('sluice', 0, 10)], [wheel])).toBe(true)
  expect(holds('only on a card', [wheel], [wheel, uses('sluice', 100, 150)])).toBe(false)
})

test('what is said of a clip holds however it is used, and so does what was said before uses were kept', () => {
  expect(holds('original is a proxy', [wheel], [uses('wheel', 900, 950)])).toBe(true)
  expect(holds('variable rate', [wheel], [wheel, uses('wheel', 0, 10)])).toBe(true)
  const old: DecisionOnUses = { ...decided('unresolved', [wheel], 0), uses: null }
  expect(standingDecisions([uses('wheel', 900, 950)], [finding('unresolved', 0)], [old]).held).toEqual([old])
})

test('a decision on what is no longer found has not lapsed: it stands again when that comes back as it was', () => {
  const decision = decided('unresolved', [wheel], 0)
  expect(standingDecisions([wheel], [], [decision])).toEqual({ held: [decision], lapsed: [] })
})

test('what was said of a matter when it stood otherwise is told beside it, the last word of several', () => {
  const at = (subject: string, now: string) => ({ ...finding('too short', 0), ...keyedOn(subject, now) }) as Finding
  const word = (findingKey: string, decidedAt: string): DecisionOnUses => ({
    ...{ findingKey, reason: `of ${findingKey}`, decidedAt, uses: null },
  })
  const told = (now: readonly Finding[], ...words: DecisionOnUses[]) =>
    [...earlierWords(now, words)].map(([key, { reason }]) => [key, reason])
  const [half, one] = ['0.4 frame missing', '1 frame missing'].map((now) =>
    word(`too short:1:wheel:${now}`, '2026-11-29'),
  )
  const now = at('too short:1:wheel', '3 frames missing')
  expect(told([now], half as DecisionOnUses)).toEqual([[now.key, half?.reason]])
  const later = { ...(one as DecisionOnUses), decidedAt: '2026-11-30' }
  expect(told([now], later, half as DecisionOnUses)).toEqual([[now.key, one?.reason]])
  // Before, keys said no more than what they are about; what another use or clip lacks is another matter.
  expect(told([now], word('too short:1:wheel', '2026-11-01'))).toHaveLength(1)
  expect(told([now], word('too short:1:wheelhouse:1 frame missing', '2026-11-29'))).toEqual([])
  // One on what is found as it was is no word on anything else.
  expect(told([now, at('too short:1:wheel', '0.4 frame missing')], half as DecisionOnUses)).toEqual([])
})
