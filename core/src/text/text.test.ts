import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { cleanText, cleanTexts, groupBy, isWellFormed, RegularExpressionError, readRegularExpression } from './index.ts'

describe('text from outside', () => {
  test.each([
    ['a\0b', 'ab'],
    ['half \ud800 pair', 'half \ufffd pair'],
    ['half \udc00', 'half \ufffd'],
    ['whole 😀 pair', 'whole 😀 pair'],
    ['tab\tline\nline\r\n', 'tab\tline\nline\r\n'],
    ['bell\u0007 escape\u001b[0m', 'bell escape[0m'],
  ])('%j is kept as %j', (text, clean) => expect(cleanText(text)).toBe(clean))
  test('is cut where it is longer than anybody reads, and never within a pair', () => {
    expect(cleanText('x'.repeat(20), 10)).toBe(`${'x'.repeat(9)}…`)
    expect(cleanText(`${'x'.repeat(8)}😀😀`, 10)).toBe(`${'x'.repeat(8)}…`)
  })
  test('comes back from UTF-8 as it was kept, whatever came in', () => {
    fc.assert(
      fc.property(
        fc.string({ unit: fc.integer({ min: 0, max: 0xffff }).map((code) => String.fromCharCode(code)) }),
        (text) => {
          const clean = cleanText(text)
          expect(isWellFormed(clean)).toBe(true)
          expect(clean).not.toContain('\0')
          expect(cleanText(clean)).toBe(clean)
          expect(new TextDecoder().decode(new TextEncoder().encode(clean))).toBe(clean.replace(/^\ufeff/, ''))
        },
      ),
      { seed: 4600 },
    )
  })
  test('is cleaned wherever it stands in plain data', () => {
    expect(cleanTexts({ 'a\0': ['b\0', { c: 'd\0' }], e: 1, f: null, g: true })).toEqual({
      a: ['b', { c: 'd' }],
      e: 1,
      f: null,
      g: true,
    })
  })
})

describe('patterns of people', () => {
  test('give every place where they fit, with groups', () => {
    const pattern = readRegularExpression('([A-Z])(\\d+)?')
    expect(pattern.groups).toBe(2)
    expect(pattern.matches('A12 B')).toEqual([
      { start: 0, end: 3, groups: ['A', '12'] },
      { start: 4, end: 5, groups: ['B', null] },
    ])
    expect(readRegularExpression('é', { isCaseSensitive: false }).matches('É')).toHaveLength(1)
  })
  test.each(['^(a+)+$', '(a|aa)+$', '(.*a){20}$', '([a-z]+)*!'])(
    '%s takes no longer than its text is long',
    (source) => {
      // By steps it would be two to the power of this.
      expect(readRegularExpression(source).matches(`${'a'.repeat(5000)}b`).length).toBeLessThan(5000)
    },
  )
  test.each([
    ['(', 'missing closing'],
    ['(?=a)', 'look ahead'],
    ['(a)\\1', 'refer back'],
    ['x'.repeat(501), '500 characters'],
    ['(a{1000}){1000}', 'not a regular expression that can be used'],
  ])('%s is refused', (source, reason) => {
    expect(() => readRegularExpression(source)).toThrow(RegularExpressionError)
    expect(() => readRegularExpression(source)).toThrow(reason)
  })
})

test('rows are grouped in their order', () => {
  expect([...groupBy([3, 1, 4, 1, 5], (number) => number % 2)]).toEqual([
    [1, [3, 1, 1, 5]],
    [0, [4]],
  ])
})
