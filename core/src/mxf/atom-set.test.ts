import { describe, expect, test } from '@jest/globals'
import { atomStart, umid } from '../testing/mxf.ts'
import { joinAtomSet, readAtomIdentity, reserveBytes, reserveCharacters } from './atom-set.ts'
import { headerEnd, readHeader } from './header-metadata.ts'
import { MxfError } from './klv.ts'
import { byInstance, isKind, item, references, tags } from './package.ts'

const set = () => [atomStart({ file: 1 }), atomStart({ file: 2, name: 'other' }), atomStart({ file: 3 })]
const names = ['V1', 'A1', 'A2']
const join = (starts: Uint8Array[]) =>
  joinAtomSet(starts, names).map(({ offset, bytes }, index) => {
    const whole = (starts[index] as Uint8Array).slice()
    whole.set(bytes, offset)
    return whole
  })

describe('files of one essence', () => {
  test('are strangers as they come, and one clip when they are joined', () => {
    const starts = set()
    expect(new Set(starts.map((start) => readAtomIdentity(start).materialId)).size).toBe(3)
    const fileIds = [umid(1, 1), umid(2, 1), umid(3, 1)]
    expect(join(starts).map(readAtomIdentity)).toEqual(
      fileIds.map((fileId) => ({
        ...{ materialId: umid(1, 0), clipName: 'A001C001', fileId, trackFileIds: fileIds },
        ...{ reelId: umid(1, 2), reel: 'A001' },
      })),
    )
  })

  test('keep their length, what else they say, and no reference that leads nowhere', () => {
    const starts = set()
    for (const [index, whole] of join(starts).entries()) {
      expect(whole).toHaveLength(starts[index]?.length as number)
      const header = readHeader(whole)
      const instances = byInstance(header)
      expect(instances.size).toBe(header.sets.length)
      for (const tag of [tags.tracks, tags.segment, tags.components, tags.comments])
        for (const each of header.sets)
          for (const id of references(each.items.get(tag))) expect(instances.has(id)).toBe(true)
      // The comment that kept the room is gone, the other stays.
      expect(header.sets.filter((each) => isKind(each, 'comment'))).toHaveLength(1)
      const packages = header.sets.filter((each) => isKind(each, 'material') || isKind(each, 'source'))
      expect(packages.map((each) => references(item(each, tags.tracks)).length)).toEqual([4, 2, 4])
    }
  })

  test('without a reel share their clip alone', () => {
    const joined = join([atomStart({ file: 1, reel: null }), atomStart({ file: 2, reel: null })])
    expect(joined.map(readAtomIdentity)).toMatchObject([
      { materialId: umid(1, 0), reelId: null },
      { materialId: umid(1, 0), reelId: null },
    ])
  })

  test('without room are refused, and the room that is asked for is enough', () => {
    // So much is left of a header without filler: 3000 bytes hold its own sets of about 1900.
    const least = 3000 - 1200
    const tight = (room: number) => [1, 2, 3].map((file) => atomStart({ file, room: room - least }))
    expect(() => join(tight(0))).toThrow(/no room/)
    // A comment of so many characters takes 98 bytes beside them, which it gives up too.
    const smallest = 2 * reserveCharacters(3, { a: 'x'.repeat(5000) }) + 98
    expect(join(tight(smallest))).toHaveLength(3)
    expect([reserveCharacters(1), reserveBytes(1)]).toEqual([0, 0])
    // What else is said takes from it, so that headers are as long whatever that is.
    expect(reserveCharacters(3) - reserveCharacters(3, { scene: '12A' })).toBe(42 + 5 + 3)
    expect(reserveCharacters(3, { a: 'x'.repeat(5000) })).toBe(780)
  })
})

describe('what is no such file is refused', () => {
  test.each([
    ['nothing', new Uint8Array()],
    ['a text', new TextEncoder().encode('A file of another kind altogether, and long enough to be read.')],
    ['zeros', new Uint8Array(5000)],
  ])('%s', (_, bytes) => {
    expect(() => headerEnd(bytes)).toThrow(MxfError)
    expect(() => readAtomIdentity(bytes)).toThrow(MxfError)
  })

  test('cut off at any byte, or with any byte another, it is read or refused, and nothing else', () => {
    const [whole] = set() as [Uint8Array]
    const attempt = (bytes: Uint8Array): void => {
      try {
        readAtomIdentity(bytes)
        joinAtomSet([bytes, atomStart({ file: 9 })], names)
      } catch (error) {
        expect(error).toBeInstanceOf(MxfError)
      }
    }
    for (let at = 0; at < whole.length; at += 7) {
      attempt(whole.subarray(0, at))
      const harmed = whole.slice()
      harmed[at] = (harmed[at] as number) ^ 0xff
      attempt(harmed)
    }
  })
})
