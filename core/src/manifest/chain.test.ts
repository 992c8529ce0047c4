import { describe, expect, test } from '@jest/globals'
import { c4Of, extendChain, HashListError, parseChain } from './index.ts'

const sha1 = 'da39a3ee5e6b4b0d3255bfef95601890afd80709'
describe('the chain of generations', () => {
  test('grows by one entry, and what stands in it stays letter for letter', () => {
    const one = extendChain(null, { sequence: 1, path: '0001_A & B.mhl', sha1 })
    expect(parseChain(one)).toEqual([{ sequence: 1, path: '0001_A & B.mhl', hash: { kind: 'sha1', value: sha1 } }])
    const theirs = one
      .replace('<ascmhldirectory', '<!-- theirs -->\n<ascmhldirectory')
      .replace('sha1', 'unknown')
      .replace('/sha1', '/unknown')
    const two = extendChain(theirs, { sequence: 2, path: '0002.mhl', sha1 })
    expect(two.startsWith(theirs.slice(0, theirs.indexOf('</ascmhldirectory>')))).toBe(true)
    expect(parseChain(two).map(({ sequence, hash }) => [sequence, hash?.kind ?? 'not known here'])).toEqual([
      [1, 'not known here'],
      [2, 'sha1'],
    ])
  })
  test.each([
    ['hello', 'no chain'],
    ['<hashlist/>', 'begins with <hashlist>'],
    ['<ascmhldirectory><hashlist sequencenr="x"><path>a.mhl</path></hashlist></ascmhldirectory>', 'no number'],
    [
      '<ascmhldirectory><hashlist sequencenr="1"><path>../a.mhl</path></hashlist></ascmhldirectory>',
      'no file beside it',
    ],
  ])('%s is refused', (text, reason) => {
    expect(() => parseChain(text)).toThrow(HashListError)
    expect(() => parseChain(text)).toThrow(reason)
  })
  test('names SHA-512 as SMPTE ST 2114 does', () => {
    // The identifier of no bytes at all, as the standard gives it.
    expect(
      c4Of(
        'cf83e1357eefb8bdf1542850d66d8007d620e4050b5715dc83f4a921d36ce9ce47d0d13c5d85f2b0ff8318d2877eec2f63b931bd47417a81a538327af927da3e',
      ),
    ).toBe('c459dsjfscH38cYeXXYogktxf4Cd9ibshE3BHUo6a58hBXmRQdZrAkZzsWcbWtDg5oQstpDuni4Hirj75GEmTc1sFT')
  })
})
