import { describe, expect, test } from '@jest/globals'
import {
  type HashList,
  HashListError,
  hashListName,
  hashToCheck,
  parseHashList,
  verifyAgainst,
  writeHashList,
} from './index.ts'

const list: HashList = {
  createdAt: '2026-11-04T18:05:12.000Z',
  host: 'ferry',
  tool: 'Ennick',
  files: [
    {
      path: 'CLIPS/A001C001 & <b>.mov',
      sizeBytes: 12,
      modifiedAt: '2026-11-04T09:14:00.000Z',
      hashes: { xxh64: '0123456789abcdef' },
    },
    {
      path: 'notes “day 1”.txt',
      sizeBytes: 0,
      modifiedAt: null,
      hashes: { md5: 'd41d8cd98f00b204e9800998ecf8427e', xxh64: 'ef46db3751d8e999' },
    },
  ],
}

test('what is written reads back, whatever the names hold', () =>
  expect(parseHashList(writeHashList(list))).toEqual(list))

test('a generation is named by number, folder and time', () => {
  expect(hashListName(1, 'A001', new Date('2026-11-04T18:05:12.345Z'))).toBe('0001_A001_2026-11-04_180512Z.mhl')
})

describe('what is refused', () => {
  const text = writeHashList(list)
  test.each([
    ['no XML', 'hello', 'no media hash list'],
    ['cut off', text.slice(0, 400), 'no media hash list'],
    ['entities', `<!DOCTYPE x [<!ENTITY e SYSTEM "file:///etc/passwd">]>${text}`, 'document type'],
    ['another document', '<list/>', 'begins with <list>'],
    ['no hashes', '<hashlist version="2.0"></hashlist>', 'no <hashes>'],
    ['a path that leaves', text.replace('CLIPS/A001C001', '../A001C001'), 'outside of the folder'],
    ['an absolute path', text.replace('CLIPS/A001C001', '/A001C001'), 'outside of the folder'],
    ['a checksum that is none', text.replace('0123456789abcdef', 'xyz'), 'is no xxh64'],
    ['no size', text.replace('size="12"', ''), 'has no size'],
  ])('%s', (_, bad, message) => {
    expect(() => parseHashList(bad)).toThrow(HashListError)
    expect(() => parseHashList(bad)).toThrow(message)
  })
})

describe('a folder against its manifest', () => {
  const state = (found: [string, { sizeBytes: number; hash: string | null }][]) =>
    verifyAgainst(list, new Map(found)).map((line) => [line.path.slice(0, 5), line.state])
  const first = list.files[0]?.path as string
  const second = list.files[1]?.path as string

  test('all well', () => {
    expect(
      state([
        [first, { sizeBytes: 12, hash: '0123456789abcdef' }],
        [second, { sizeBytes: 0, hash: 'ef46db3751d8e999' }],
      ]),
    ).toEqual([
      ['CLIPS', 'matches'],
      ['notes', 'matches'],
    ])
  })
  test('missing, changed and extra are told apart', () => {
    expect(
      state([
        [first, { sizeBytes: 12, hash: 'fedcba9876543210' }],
        ['new.mov', { sizeBytes: 1, hash: null }],
      ]),
    ).toEqual([
      ['CLIPS', 'changed'],
      ['notes', 'missing'],
      ['new.m', 'extra'],
    ])
  })
  test('another size says so without a checksum', () => {
    const [line] = verifyAgainst(list, new Map([[first, { sizeBytes: 11, hash: null }]]))
    expect(line).toMatchObject({ state: 'changed', detail: 'It should have 12 bytes and has 11.' })
  })
  test('what is there and cannot be read is not said to be changed', () => {
    expect(verifyAgainst(list, new Map([[first, { sizeBytes: 12, hash: null }]]))[0]).toMatchObject({
      state: 'not checked',
    })
  })
  test('a checksum of a kind that is not known here is not taken for a match', () => {
    const unknown = { ...list, files: [{ path: 'a', sizeBytes: 1, modifiedAt: null, hashes: {} }] }
    expect(verifyAgainst(unknown, new Map([['a', { sizeBytes: 1, hash: null }]]))[0]?.state).toBe('not checked')
    expect(hashToCheck({ sha1: 'x', md5: 'y' })).toBe('md5')
  })
})
