import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import type { Finding, FindingKind, OfferedMend, Severity } from '../findings/index.ts'
import { orderOfWork } from './index.ts'

const finding = (key: string, kind: FindingKind, change: Partial<Finding> = {}): Finding => ({
  ...{ key, kind, severity: 'blocks handoff', message: key, clipId: null, pairIds: [], events: [0], evidence: [] },
  ...{ mends: [], ...change },
})

describe('the order of work', () => {
  test('goes from what is put in to what is decided, with what is left after each step', () => {
    const steps = orderOfWork(
      [
        finding('a', 'too short', { mends: ['repoint', 'trim'] }),
        finding('b', 'moved', { mends: ['repoint'] }),
        finding('c', 'volume away', { mends: ['repoint'], volumeLabel: 'A002' }),
        finding('d', 'volume away', { mends: ['repoint'], volumeLabel: 'A002' }),
        finding('e', 'volume away', { mends: ['repoint'], volumeLabel: 'B001' }),
        finding('f', 'length mismatch', { mends: ['make again'], pairIds: ['p', 'q'] }),
        finding('g', 'stale proxy', { mends: ['make again'], pairIds: ['q'], severity: 'needs a look' }),
        finding('h', 'only on a card', { mends: ['offload'], volumeLabel: 'A003', severity: 'needs a look' }),
        finding('i', 'ambiguous', { mends: ['repoint'] }),
        finding('j', 'other rate', { severity: 'note' }),
        finding('k', 'rate mismatch'),
        finding('l', 'too short', { mends: ['repoint'] }),
        finding('m', 'moved', { mends: ['repoint', 'offload'], volumeLabel: 'A003' }),
      ],
      new Set(['l']),
    )
    expect(
      steps.map(({ kind, volumeLabel, keys, blockingAfter }) => [kind, volumeLabel, keys.join(''), blockingAfter]),
    ).toEqual([
      ['put in', 'A002', 'cd', 7],
      ['put in', 'B001', 'e', 6],
      ['choose', null, 'i', 5],
      ['from the card', 'A003', 'm', 4],
      ['search', null, 'b', 3],
      ['make again', null, 'fg', 2],
      ['trim', null, 'a', 1],
      ['offload', 'A003', 'h', 1],
      ['decide', null, 'k', 0],
      ['look at', null, 'j', 0],
    ])
    expect(steps.find(({ kind }) => kind === 'make again')?.pairIds).toEqual(['p', 'q'])
  })

  test('every finding that is not decided is in exactly one step, and nothing that blocks is left at the end', () => {
    const any = fc.record({
      kind: fc.constantFrom<FindingKind>('volume away', 'moved', 'ambiguous', 'too short', 'other rate', 'stale proxy'),
      severity: fc.constantFrom<Severity>('blocks handoff', 'needs a look', 'note'),
      mends: fc.subarray<OfferedMend>(['repoint', 'make again', 'offload', 'trim']),
      isDecided: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(any, { maxLength: 40 }), (list) => {
        const findings = list.map(({ isDecided: _, ...change }, index) => finding(String(index), change.kind, change))
        const decided = new Set(list.flatMap(({ isDecided }, index) => (isDecided ? [String(index)] : [])))
        const steps = orderOfWork(findings, decided)
        const keys = steps.flatMap((step) => step.keys)
        expect(keys.toSorted()).toEqual(
          findings
            .map(({ key }) => key)
            .filter((key) => !decided.has(key))
            .toSorted(),
        )
        expect(steps.at(-1)?.blockingAfter ?? 0).toBe(0)
      }),
      { seed: 12 },
    )
  })
})
