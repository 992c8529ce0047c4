import { expect, test } from '@jest/globals'
import { nameSome } from './name-some.ts'

const numbered = (many: number): string[] => Array.from({ length: many }, (_, index) => `A${index + 1}`)

test.each([
  [[], ''],
  [numbered(1), 'A1'],
  [numbered(4), 'A1, A2, A3, A4'],
  [numbered(5), 'A1, A2, A3, A4, A5'],
  [numbered(6), 'A1, A2, A3, A4 and 2 more'],
  [numbered(1204), 'A1, A2, A3, A4 and 1,200 more'],
])('%j are named %s', (names, said) => {
  expect(nameSome(names)).toBe(said)
})

test('as many as are asked for', () => {
  expect(nameSome(numbered(9), 2)).toBe('A1, A2 and 7 more')
})
