import { describe, expect, test } from '@jest/globals'
import fc from 'fast-check'
import { PatternError, patternFiller } from './fill-pattern.ts'
import { patternReader } from './read-pattern.ts'

const fields = new Set(['scene', 'take', 'camera', 'notes'])
const read = (pattern: string, name: string) => {
  const found = patternReader(pattern, fields)(name)
  return found && Object.fromEntries(found)
}

describe('a name is taken apart by a pattern', () => {
  test.each([
    ['{scene}_T{take}', '12A_T03', { scene: '12A', take: '03' }],
    ['{scene}-{take}', '12A-pickup-3', { scene: '12A', take: 'pickup-3' }],
    ['S{scene}T{take}', 's7t2', { scene: '7', take: '2' }],
    ['{skip}_{scene}_{take}', '2026-11-04_12_3', { scene: '12', take: '3' }],
    ['{scene}[_T{take}]', '12A', { scene: '12A' }],
    ['{scene}[_T{take}]', '12A_T4', { scene: '12A', take: '4' }],
    ['{scene}T{take}[_{skip}]', '9T1_boom', { scene: '9', take: '1' }],
    ['{scene} - {take}', 'MÜHLE - 2', { scene: 'MÜHLE', take: '2' }],
    ['{scene}ß{take}', 'İ12ß3', { scene: 'İ12', take: '3' }],
    ['{scene}x{take}[.{notes}]', 'axbxc.d', { scene: 'a', take: 'bxc', notes: 'd' }],
  ])('%s in %s', (pattern, name, values) => {
    expect(read(pattern, name)).toEqual(values)
  })

  test('a name that the pattern does not fit gives nothing', () => {
    expect(read('{scene}_T{take}', '12A')).toBeNull()
    expect(read('{scene}_T{take}', '_T3')).toBeNull()
    expect(read('S{scene}', '')).toBeNull()
  })

  test.each([
    ['{scene}{take}', /side by side/],
    ['{scene}_{scene}', /twice/],
    ['{reel}_x', /no field/],
    ['{scene}_{counter:3}', /counter/],
    ['{skip}', /a field in it/],
    ['{scene', /partner/],
  ])('%s is refused', (pattern, message) => {
    expect(() => patternReader(pattern, fields)).toThrow(PatternError)
    expect(() => patternReader(pattern, fields)).toThrow(message)
  })

  test('what a pattern wrote it reads again', () => {
    const word = fc.stringMatching(/^[A-Za-z0-9]{1,8}$/)
    fc.assert(
      fc.property(word, word, word, (scene, take, camera) => {
        const pattern = '{scene}-{take}_{camera}'
        const values: Record<string, string> = { scene, take, camera }
        const name = patternFiller(pattern, fields)((id) => values[id] ?? '', 0)
        expect(read(pattern, name)).toEqual(values)
      }),
    )
  })

  test('every name is read as an expression reads it that takes as little as it can, and then what may be missing', () => {
    const text = fc.stringMatching(/^[ab-]{1,2}$/)
    const middle = fc.record({ before: text, after: text, tail: fc.option(text, { nil: null }) })
    fc.assert(
      fc.property(middle, fc.stringMatching(/^[ab-]{0,12}$/), ({ before, after, tail }, name) => {
        const pattern = `{scene}${before}{take}[${after}{camera}]${tail ?? ''}`
        const expression = new RegExp(`^(?<scene>.+?)${before}(?<take>.+?)(?:${after}(?<camera>.+?))?${tail ?? ''}$`)
        const groups = expression.exec(name)?.groups
        const expected = groups && Object.entries(groups).filter(([, value]) => value !== undefined)
        expect(read(pattern, name)).toEqual(expected ? Object.fromEntries(expected) : null)
      }),
      { numRuns: 2000 },
    )
  })

  test('a long name with many ways to be cut is read at once', () => {
    expect(read('{scene}-{take}-{camera}-{notes}-x', '-'.repeat(8000))).toBeNull()
  })
})
