import { expect, test } from '@jest/globals'
import { count } from './count.ts'

test.each([
  [0, '0 files'],
  [1, '1 file'],
  [2, '2 files'],
  [2400, '2,400 files'],
])('%i is said as %s', (number, said) => {
  expect(count(number, 'file')).toBe(said)
})

test('a word with a plural of its own', () => {
  expect([count(1, 'proxy', 'proxies'), count(3, 'proxy', 'proxies')]).toEqual(['1 proxy', '3 proxies'])
})
