import { describe, expect, test } from '@jest/globals'
import { type CollectedFile, compareCollection, type NeededFile } from './index.ts'

const needed = (id: string, fingerprint: string, name = `${id}.mov`): NeededFile => ({
  id,
  name,
  fingerprint,
  sizeBytes: 10,
})
const found = (path: string, fingerprint: string, sizeBytes = 10): CollectedFile => ({ path, fingerprint, sizeBytes })

describe('a folder that claims to hold everything', () => {
  test('holds what has the content, wherever it lies and whatever it is called', () => {
    const { needed: rows, extra } = compareCollection(
      [needed('a', '1'), needed('b', '2'), needed('c', '3')],
      [found('day 1/A.MOV', '1'), found('renamed.mov', '2'), found('c.mov', '9'), found('x.mov', '8')],
    )
    expect(rows).toEqual([
      { id: 'a', outcome: 'there', path: 'day 1/A.MOV' },
      { id: 'b', outcome: 'there', path: 'renamed.mov' },
      { id: 'c', outcome: 'another', path: 'c.mov' },
    ])
    expect(extra).toEqual([found('x.mov', '8')])
  })
  test('the same content of another size is another; what is there twice is extra once', () => {
    const { needed: rows, extra } = compareCollection(
      [needed('a', '1')],
      [found('copy/b.mov', '1'), found('a.mov', '1'), found('c.mov', '1', 11)],
    )
    expect(rows).toEqual([{ id: 'a', outcome: 'there', path: 'a.mov' }])
    expect(extra.map(({ path }) => path)).toEqual(['copy/b.mov', 'c.mov'])
  })
  test('of content whose size nobody knows any more the content alone tells', () => {
    const [row] = compareCollection([{ ...needed('a', '1'), sizeBytes: null }], [found('b.mov', '1', 99)]).needed
    expect(row?.outcome).toBe('there')
  })
  test('an empty folder misses all, and nothing needed makes all of it extra', () => {
    expect(compareCollection([needed('a', '1')], []).needed[0]?.outcome).toBe('missing')
    expect(compareCollection([], [found('a.mov', '1')]).extra).toHaveLength(1)
  })
})
