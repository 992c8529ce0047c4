import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import {
  baseName,
  compareNames,
  fileUrl,
  mapPath,
  normalPath,
  onVolume,
  pathOfReference,
  possibleStems,
  reelReader,
  sharedTail,
  stem,
  suggestMappings,
} from './index.ts'

test('an extension is one short word with a letter in it: what else stands behind a dot is of the name', () => {
  const stems = [
    '12.3 WIDE',
    'take 1.2',
    'A001C001.mov',
    'A001.C001.MXF',
    '.hidden',
    'x.tar.gz',
    'Scene 4.',
    'r.264.mp4',
  ]
  expect(stems.map(stem)).toEqual([
    ...['12.3 WIDE', 'take 1.2', 'A001C001', 'A001.C001', '.hidden', 'x.tar', 'Scene 4.', 'r.264'],
  ])
})

describe('names', () => {
  test.each([
    ['B001C001.mov', 'B001C001_proxy.mov', 'same-after-suffix'],
    ['B001C001.mov', 'b001c001.MXF', 'same'],
    ['Mühle.mov', 'Mu\u0308hle.mov', 'same'],
    ['A001C001.mov', 'A001C0010.mov', 'different'],
    ['clip1.mov', 'clip10_proxy.mov', 'different'],
    ['.hidden', '.hidden', 'same'],
  ])('%s against %s: %s', (original, other, kind) => {
    expect(compareNames(original, other).kind).toBe(kind)
  })

  test('a proper prefix is never a match, whatever the suffix list', () => {
    fc.assert(
      fc.property(fc.stringMatching(/^[a-z0-9]{1,12}$/), fc.stringMatching(/^[0-9]{1,4}$/), (name, more) => {
        expect(compareNames(`${name}.mov`, `${name}${more}.mov`).kind).toBe('different')
      }),
    )
  })

  test('a stem is what stands before the last dot; “\\” parts paths of another system, and is a letter on this one', () => {
    expect([stem('a.b.mov'), stem(baseName('C:\\x\\clip.mov')), stem('/x/clip'), stem('.env')]).toEqual([
      'a.b',
      'clip',
      'clip',
      '.env',
    ])
    expect(stem('/x/back\\slash.mov')).toBe('back\\slash')
    expect(compareNames('back\\slash.mov', 'back\\slash_proxy.mov').kind).toBe('same-after-suffix')
    expect(compareNames('back\\slash.mov', 'slash_proxy.mov').kind).toBe('different')
  })

  test('a suffix alone is a name, not nothing', () => {
    expect(possibleStems('_proxy.mov')).toEqual(['_proxy'])
  })
})

describe('paths of other systems', () => {
  test.each([
    ['file:///P:/LowWater/Media/A%20B.mov', 'P:/LowWater/Media/A B.mov'],
    ['file://localhost/Volumes/TIDE-1/x.mov', '/Volumes/TIDE-1/x.mov'],
    ['file:///Volumes/TIDE-1/x.mov', '/Volumes/TIDE-1/x.mov'],
    ['P:\\LowWater\\x.mov', 'P:/LowWater/x.mov'],
    ['\\\\store\\low water\\x.mov', '//store/low water/x.mov'],
    ['/a//b/./c.mov', '/a/b/c.mov'],
    ['file:///bad%escape.mov', '/bad%escape.mov'],
  ])('%s', (listed, normal) => {
    expect(normalPath(listed)).toBe(normal)
  })

  test('the longest mapping wins, and only whole folders count', () => {
    const mappings = [
      { from: 'P:/LowWater', to: '/media/a' },
      { from: 'P:/LowWater/Proxies', to: '/media/b' },
    ]
    expect(mapPath('file:///P:/lowwater/Proxies/x.mov', mappings)).toBe('/media/b/x.mov')
    expect(mapPath('P:\\LowWater\\y.mov', mappings)).toBe('/media/a/y.mov')
    expect(mapPath('P:/LowWaterOther/y.mov', mappings)).toBeUndefined()
  })

  test('mappings are suggested from what both sides have in common, best first', () => {
    const listed = ['file:///P:/LW/Media/A001/c1.mov', 'P:/LW/Media/A001/c2.mov', 'P:/LW/Proxies/c1_p.mov']
    const known = ['/here/bay/A001/c1.mov', '/here/bay/A001/c2.mov', '/made/c1_p.mov', '/elsewhere/z.mov']
    expect(suggestMappings(listed, known)).toEqual([
      { from: 'P:/LW/Media', to: '/here/bay', matches: 2 },
      { from: 'P:/LW/Proxies', to: '/made', matches: 1 },
    ])
  })

  test('a suggested mapping brings the listed path to a known file', () => {
    fc.assert(
      fc.property(fc.array(fc.stringMatching(/^[a-z]{1,6}$/), { minLength: 2, maxLength: 5 }), (parts) => {
        const known = `/here/${parts.join('/')}.mov`
        const listed = `X:/there/${parts.join('/')}.mov`
        const [suggestion] = suggestMappings([listed], [known])
        expect(suggestion && mapPath(listed, [suggestion])).toBe(known)
      }),
    )
  })

  test('case and Unicode form do not hide a common tail', () => {
    expect(sharedTail('P:/X/Mu\u0308hle/A.mov', '/y/mühle/a.MOV')).toBe(2)
  })
})

describe('reel rules', () => {
  test.each([
    [{ kind: 'stem' } as const, 'A001C001_1104.mov', 'A001C001_1104'],
    [{ kind: 'first-characters', count: 4 } as const, 'A001C001.mov', 'A001'],
    [{ kind: 'pattern', pattern: '^([A-Z]\\d{3})C' } as const, 'A001C001.mov', 'A001'],
    [{ kind: 'pattern', pattern: '^([A-Z]\\d{3})C' } as const, 'tide.mov', undefined],
    [{ kind: 'pattern', pattern: '_(?<reel>R\\d+)_' } as const, 'x_R07_y.mov', 'R07'],
  ])('%p on %s', (rule, name, reel) => {
    expect(reelReader(rule)(name)).toBe(reel)
  })

  test('a pattern without a group, or that is none, says so', () => {
    expect(() => reelReader({ kind: 'pattern', pattern: 'A\\d' })).toThrow('has no group')
    expect(() => reelReader({ kind: 'pattern', pattern: '(A' })).toThrow('not a regular expression')
  })
})

test('a path lies on the innermost volume that holds it', () => {
  const volumes = ['/bay', '/bay/A001', '/bay/A0'].map((rootPath) => ({ rootPath }))
  const on = (path: string) => onVolume(volumes, path)
  expect(on('/bay/A001/x/1.mov')).toEqual({ volume: volumes[1], path: 'x/1.mov' })
  expect(on('/bay/A002/1.mov')).toEqual({ volume: volumes[0], path: 'A002/1.mov' })
  expect(on('/elsewhere/1.mov')).toBeNull()
  expect(onVolume([{ rootPath: '/' }], '/1.mov')).toEqual({ volume: { rootPath: '/' }, path: '1.mov' })
})

test('relative references are read as URLs, and what is none stays as it is written', () => {
  expect(pathOfReference('../Box_%202/a%231.mov')).toBe('../Box_ 2/a#1.mov')
  expect(fileUrl(pathOfReference('../Box_%202/a%231.mov'))).toBe('../Box_%202/a%231.mov')
  for (const written of ['100% done.mov', '/a%20b.mov', 'P:/a%20b.mov', '\\\\server\\a%20b', 'file:///a%20b.mov'])
    expect(pathOfReference(written)).toBe(written)
})
