import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { assign, type Choice } from './index.ts'

const choice = fc.record({
  row: fc.nat(3),
  column: fc.nat(3),
  bits: fc.integer({ min: 1, max: 30 }),
})
const choices = fc.uniqueArray(choice, { selector: ({ row, column }) => `${row} ${column}`, maxLength: 12 })
const contents = fc.array(fc.constantFrom('p', 'q', 'r', 's'), { minLength: 4, maxLength: 4 })

/** Every way of giving each of four rows a column or none, with its sum. */
function all(list: readonly Choice[]): { columns: (number | null)[]; sum: number }[] {
  let ways: { columns: (number | null)[]; sum: number }[] = [{ columns: [], sum: 0 }]
  for (let row = 0; row < 4; row++)
    ways = ways.flatMap((way) => [
      { columns: [...way.columns, null], sum: way.sum },
      ...list
        .filter((item) => item.row === row && !way.columns.includes(item.column))
        .map(({ column, bits }) => ({ columns: [...way.columns, column], sum: way.sum + bits })),
    ])
  return ways
}

describe('assignment', () => {
  test('the batch is solved as a whole: the second best for one lets both have something', () => {
    const list = [
      { row: 0, column: 0, bits: 10 },
      { row: 0, column: 1, bits: 9 },
      { row: 1, column: 0, bits: 8 },
    ]
    expect(assign(2, 2, list, String, 3)).toEqual([
      { column: 1, lead: 3 },
      { column: 0, lead: 3 },
    ])
  })

  test('no column is given twice, and sum and lead are what trying everything finds', () => {
    fc.assert(
      fc.property(choices, contents, fc.integer({ min: 1, max: 40 }), (list, content, margin) => {
        const contentOf = (column: number): string => content[column] as string
        const given = assign(4, 4, list, contentOf, margin)
        const taken = given.flatMap(({ column }) => (column === null ? [] : [column]))
        expect(new Set(taken).size).toBe(taken.length)
        const bitsOf = (row: number, column: number | null): number =>
          column === null ? 0 : (list.find((item) => item.row === row && item.column === column)?.bits ?? Number.NaN)
        const ways = all(list)
        const best = Math.max(...ways.map(({ sum }) => sum))
        expect(given.reduce((sum, { column }, row) => sum + bitsOf(row, column), 0)).toBe(best)
        const seen = (column: number | null | undefined): string | null => (column == null ? null : contentOf(column))
        given.forEach(({ column, lead }, row) => {
          const others = ways
            .filter(({ columns }) => seen(columns[row]) !== seen(column))
            // Going without counts only when another row gets what this one had.
            .filter(({ columns }) => columns[row] !== null || columns.includes(column))
            .map(({ sum }) => sum)
          expect(lead).toBe(Math.min(margin, best - Math.max(...others, Number.NEGATIVE_INFINITY)))
        })
      }),
      { numRuns: 400 },
    )
  })

  test('a thousand equal ones are solved, and none of them is clear', () => {
    const size = 150
    const list = Array.from({ length: size * size }, (_, index) => ({
      row: index % size,
      column: Math.floor(index / size),
      bits: 12,
    }))
    const given = assign(size, size, list, String, 7)
    expect(new Set(given.map(({ column }) => column)).size).toBe(size)
    expect(given.every(({ lead }) => lead === 0)).toBe(true)
  })
})
