import { describe, expect, test } from '@jest/globals'
import { copyName, copyTime, spareCopies } from './copy-format.ts'

describe('names of copies of the ledger', () => {
  test('say when each was made, to the second', () => {
    const madeAt = new Date('2026-11-04T05:06:07.890Z')
    expect(copyName(madeAt)).toBe('ennick-ledger-20261104-050607.zip')
    expect(copyTime(copyName(madeAt))?.toISOString()).toBe('2026-11-04T05:06:07.000Z')
    for (const name of [
      'ennick-ledger-20261304-050607.zip',
      'ennick-ledger-20261104-050607.zip.part',
      '../ennick-ledger-20261104-050607.zip',
      'A001.zip',
    ])
      expect(copyTime(name)).toBeNull()
  })

  test('the newest fourteen stay, and the newest of each month; what is called otherwise is not spoken of', () => {
    const days = Array.from({ length: 40 }, (_, day) => copyName(new Date(Date.UTC(2026, 9, 1 + day, 3))))
    const spare = spareCopies([...days, 'notes.txt', copyName(new Date('2025-01-05T03:00:00Z'))].reverse())
    // Of 40 days from 1 October: 14 are the newest, from 27 October on; 31 October is among them.
    expect([...spare].sort()).toEqual(days.slice(0, 26))
    expect(spareCopies(days.slice(0, 14))).toEqual([])
  })
})
