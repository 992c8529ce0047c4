import { describe, expect, test } from '@jest/globals'
import { HashListError, parseChecksums, writeHashList } from './index.ts'

const md5 = 'd41d8cd98f00b204e9800998ecf8427e'
const sha1 = 'da39a3ee5e6b4b0d3255bfef95601890afd80709'
const xxh64 = 'ef46db3751d8e999'
const file = (path: string, kind: string, hash: string) => ({ path, sizeBytes: null, modifiedAt: null, kind, hash })

describe('lines of the checksum tools', () => {
  test.each([
    ['md5sum, text', `${md5}  day 1/A001C001.mov`, [file('day 1/A001C001.mov', 'md5', md5)]],
    ['sha1sum, binary', `${sha1} *A001C001.mov`, [file('A001C001.mov', 'sha1', sha1)]],
    ['xxhsum', `${xxh64}  A001C001.mov`, [file('A001C001.mov', 'xxh64', xxh64)]],
    ['tagged', `MD5 (A (1).mov) = ${md5}`, [file('A (1).mov', 'md5', md5)]],
    ['a folder walked from “.”', `${md5}  ./day 1//A.mov`, [file('day 1/A.mov', 'md5', md5)]],
    ['a name with a line break', `\\${md5}  A\\nB.mov`, [file('A\nB.mov', 'md5', md5)]],
    [
      'capitals, CR LF, empty lines, a remark',
      `# day 1\r\n\r\n${md5.toUpperCase()}  A.mov\r\n`,
      [file('A.mov', 'md5', md5)],
    ],
    ['one twice, alike', `${md5}  A.mov\n${md5}  ./A.mov\n`, [file('A.mov', 'md5', md5)]],
    ['a name that begins with a space', `${md5}   A.mov`, [file(' A.mov', 'md5', md5)]],
  ])('%s', (_, text, files) => expect(parseChecksums(text)).toEqual(files))
})

test('a media hash list says sizes and times as well, and the strongest habit of its checksums is taken', () => {
  const listed = { path: 'PROXY/A001C001.mov', sizeBytes: 12, modifiedAt: '2026-11-04T09:14:00.000Z' }
  const text = writeHashList({
    ...{ createdAt: '2026-11-04T18:05:12.000Z', host: 'ferry', tool: 'Ennick' },
    files: [{ ...listed, hashes: { md5, xxh64 } }],
  })
  expect(parseChecksums(`\uFEFF${text}`)).toEqual([{ ...listed, kind: 'xxh64', hash: xxh64 }])
})

describe('what is refused', () => {
  test.each([
    ['nothing', '\n\n', 'lists no files'],
    ['a page', 'Not found', 'Line 1 is no line'],
    ['a checksum of another kind', `${md5}${md5}  A.mov`, 'Line 1 is no line'],
    ['a bad line among good ones', `${md5}  A.mov\nhello\n`, 'Line 2 is no line'],
    ['a path that leaves', `${md5}  ../A.mov`, 'outside of the folder'],
    ['a path that leaves later', `${md5}  a/../../A.mov`, 'outside of the folder'],
    ['an absolute path', `${md5}  /etc/passwd`, 'outside of the folder'],
    ['a path with backslashes', `${md5}  ..\\A.mov`, 'outside of the folder'],
    ['the folder itself', `${md5}  ./`, 'has no path'],
    ['one with two checksums', `${md5}  A.mov\n${md5.replace('d', 'e')}  A.mov`, 'listed twice'],
    ['XML that is no list', '<html></html>', 'no media hash list'],
  ])('%s', (_, text, message) => {
    expect(() => parseChecksums(text)).toThrow(HashListError)
    expect(() => parseChecksums(text)).toThrow(message)
  })
})
