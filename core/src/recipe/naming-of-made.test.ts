import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { PatternError } from '../describe/index.ts'
import { findCollisions } from './collisions.ts'
import { folderTrouble, mirroredFolders, numberedFolder } from './made-folder.ts'
import { isTooLong, madeBase, nameTrouble } from './made-name.ts'

const values = {
  source: 'A001C002_1104',
  reel: 'A001',
  scene: '12A',
  take: '3',
  day: 'day 1',
  camera: 'A',
  production: 'Low Water',
}

describe('the name pattern', () => {
  test.each([
    ['{source}', 'A001C002_1104'],
    ['{scene}-{take}_{source}', '12A-3_A001C002_1104'],
    ['{reel}_{counter:4}', 'A001_0007'],
    ['{reel}_{counter:2:40}', 'A001_46'],
    ['{production} {day} {camera}', 'Low Water day 1 A'],
  ])('%s gives %s', (pattern, name) => expect(madeBase(pattern, values, 6)).toBe(name))

  test('an optional part goes when its field is empty; a name of nothing is refused', () => {
    expect(madeBase('{source}[ {scene}]', { ...values, scene: '' }, 0)).toBe('A001C002_1104')
    expect(() => madeBase('{scene}', { ...values, scene: ' ' }, 0)).toThrow(PatternError)
    expect(() => madeBase('{colour}', values, 0)).toThrow('There is no field “colour”')
    expect(() => madeBase('{scene', values, 0)).toThrow(PatternError)
  })

  test('what a person wrote cannot leave the folder; the original’s own name is kept as it is', () => {
    expect(madeBase('{scene}', { ...values, scene: '../12:A' }, 0)).toBe('.._12_A')
    expect(madeBase('{source}_x', { ...values, source: 'ten: 00' }, 0)).toBe('ten: 00_x')
  })

  test('whatever people wrote into fields, no name leads out of its folder or holds what a system cannot', () => {
    const written = fc.oneof(
      fc.string({ maxLength: 20 }),
      fc.constantFrom('../..', '/etc/x', 'a\\b', 'C:', 'x\0y', '\n', '<take>', 'what?'),
    )
    fc.assert(
      fc.property(written, written, written, fc.nat(999), (scene, take, production, index) => {
        const base = madeBase(
          '{source}_{scene}-{take}[ {production}]_{counter:2}',
          { ...values, scene, take, production },
          index,
        )
        const trouble = nameTrouble(`${base}_proxy.mov`)
        expect([null, 'it is too long']).toContain(trouble)
      }),
    )
  })

  test.each([
    ['A001C002.mov', null],
    ['12:A.mov', 'it has “:”'],
    ['a*b?.mov', 'it has “*”, “?”'],
    ['tab\there', 'it has a control character'],
    ['take 1.', 'it ends in a point or a blank'],
    ['con.mov', 'some system keeps this name for itself'],
    ['COM1', 'some system keeps this name for itself'],
    ['console.mov', null],
    ['ä'.repeat(128), 'it is too long'],
    ['ä'.repeat(127), null],
    ['🌊'.repeat(64), 'it is too long'],
  ])('a file called %s: %s', (name, trouble) => {
    expect(nameTrouble(name)).toBe(trouble)
    expect(isTooLong(name)).toBe(trouble === 'it is too long')
  })
})

describe('folders', () => {
  test.each([
    ['CLIPS/A001/day 1', null, 'CLIPS/A001/day 1'],
    ['CLIPS/A001/day 1', 2, 'A001/day 1'],
    ['CLIPS/A001/day 1', 9, 'CLIPS/A001/day 1'],
    ['CLIPS/A001/day 1', 0, ''],
    ['.', null, ''],
  ])('%s by the last %s is %s', (folder, levels, mirrored) => expect(mirroredFolders(folder, levels)).toBe(mirrored))

  test('however items follow each other, no numbered folder holds more than it may, and none below the last is filled', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 17 }), { maxLength: 80 }),
        fc.integer({ min: 17, max: 60 }),
        (items, most) => {
          const counts = new Map<number, number>()
          let last = 1
          for (const files of items) {
            const folder = numberedFolder(counts, files, most)
            expect([last, last + 1]).toContain(folder)
            last = folder
            counts.set(folder, (counts.get(folder) ?? 0) + files)
            expect(counts.get(folder)).toBeLessThanOrEqual(most)
          }
          expect([...counts.keys()]).toEqual(Array.from({ length: counts.size }, (_, index) => index + 1))
        },
      ),
    )
  })

  test('numbered ones are filled one after another, and an item is never parted', () => {
    expect(numberedFolder(new Map(), 5, 100)).toBe(1)
    expect(numberedFolder(new Map([[1, 95]]), 5, 100)).toBe(1)
    expect(numberedFolder(new Map([[1, 96]]), 5, 100)).toBe(2)
    // Room in an earlier one is left: what lies there was taken in already.
    expect(
      numberedFolder(
        new Map([
          [1, 3],
          [4, 98],
        ]),
        5,
        100,
      ),
    ).toBe(5)
  })

  test.each([
    ['Room media/MXF', null],
    ['', /Give the folder/],
    ['../out', /from the production’s own place/],
    ['/etc', /from the production’s own place/],
    ['a//b', /from the production’s own place/],
    ['.hidden', /hidden/],
    ['a:b', /“:”/],
  ])('a root called “%s”', (root, trouble) => {
    const found = folderTrouble({ kind: 'numbered', root, filesPerFolder: 100 })
    if (trouble === null) expect(found).toBeNull()
    else expect(found).toMatch(trouble)
  })
})

describe('collisions', () => {
  const item = (clipId: string, ...outputs: string[]) => ({ clipId, name: `clip ${clipId}`, outputs })

  test('two items of one name: the first keeps it', () => {
    const found = findCollisions([item('a', 'x/1.mov'), item('b', 'x/1.mov'), item('c', 'y/1.mov')], new Map())
    expect([...found]).toEqual([['b', 'it would be called 1.mov like clip a: change the name pattern or the folders']])
  })

  test.each([
    ['case', 'x/Take.mov', 'x/take.MOV'],
    ['Unicode forms', 'x/Gru\u0308n.mov', 'x/Gr\u00fcn.mov'],
  ])('names that differ in %s alone are one where systems do not tell them apart', (_, a, b) => {
    expect(findCollisions([item('a', a), item('b', b)], new Map()).get('b')).toContain('not told apart')
  })

  test('what is there already counts, unless it is the clip’s own', () => {
    const taken = new Map([['x/1.mov', { clipId: 'a', name: 'clip a' }]])
    expect(findCollisions([item('a', 'x/1.mov')], taken).size).toBe(0)
    expect(findCollisions([item('b', 'x/1_V1.mxf', 'x/1.mov')], taken).get('b')).toContain('like clip a')
  })

  test('an item that collides takes no name from those after it', () => {
    const found = findCollisions([item('a', '1'), item('b', '1', '2'), item('c', '2')], new Map())
    expect([...found.keys()]).toEqual(['b'])
  })

  test('what is left never holds two files of one name, however many clips and whatever their names', () => {
    const letters = fc.constantFrom('a', 'A', 'b', '\u00e9', 'e\u0301', 'E\u0301')
    const path = fc.array(letters, { minLength: 1, maxLength: 3 }).map((parts) => `x/${parts.join('')}.mov`)
    const outputs = fc.uniqueArray(path, {
      minLength: 1,
      maxLength: 3,
      selector: (each) => each.normalize('NFC').toLowerCase(),
    })
    fc.assert(
      fc.property(fc.array(outputs, { maxLength: 12 }), path, (lists, old) => {
        const taken = new Map([[old, { clipId: 'old', name: 'the old one' }]])
        const items = lists.map((list, index) => item(String(index), ...list))
        const found = findCollisions(items, taken)
        const kept = [old, ...items.filter(({ clipId }) => !found.has(clipId)).flatMap((each) => each.outputs)]
        expect(new Set(kept.map((each) => each.normalize('NFC').toLowerCase())).size).toBe(kept.length)
        for (const reason of found.values())
          expect(reason).toMatch(/^it would be called .*\.mov like (clip \d+|the old one)/)
      }),
    )
  })
})
