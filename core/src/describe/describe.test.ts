import { describe, expect, test } from '@jest/globals'
import { rate } from '../time/index.ts'
import {
  allFields,
  builtInFields,
  cameraOfReel,
  checkValue,
  type Field,
  groupFromFolders,
  patternFiller,
  replacer,
  ValueError,
} from './index.ts'

const field = (kind: Field['kind'], choices?: string[]): Field => ({
  id: 'x',
  title: 'Mood',
  kind,
  from: 'described',
  ...(choices ? { choices } : {}),
})

describe('values', () => {
  test.each([
    ['text', ' two\tparts ', 'two parts'],
    ['number', '1,5', '1.5'],
    ['date', '2026-11-04', '2026-11-04'],
    ['timecode', '09:14:02:10', '09:14:02:10'],
    ['flag', 'Yes', 'yes'],
    ['flag', 'no', ''],
    ['choice', 'CALM', 'calm'],
    ['number', '  ', ''],
  ] as const)('%s takes %j', (kind, text, value) =>
    expect(checkValue(field(kind, ['calm', 'storm']), text, rate(25))).toBe(value),
  )

  test.each([
    ['number', 'many', 'a number'],
    ['date', '2026-02-30', 'a date'],
    ['timecode', '09:14:02:25', 'the last is 24'],
    ['timecode', 'noon', 'not a timecode'],
    ['flag', 'perhaps', 'yes or no'],
    ['choice', 'dull', 'one of calm, storm'],
    ['text', 'x'.repeat(4001), 'up to 4000'],
  ] as const)('%s refuses %j', (kind, text, message) => {
    expect(() => checkValue(field(kind, ['calm', 'storm']), text, rate(25))).toThrow(ValueError)
    expect(() => checkValue(field(kind, ['calm', 'storm']), text, rate(25))).toThrow(message)
  })

  test('every built-in field has an id of its own, and custom ones follow', () => {
    expect(new Set(builtInFields.map(({ id }) => id)).size).toBe(builtInFields.length)
    const custom = allFields([{ key: 'x1', title: 'Mood', kind: 'choice', choices: ['calm'] }]).at(-1)
    expect(custom).toEqual({ id: 'x1', title: 'Mood', kind: 'choice', from: 'described', choices: ['calm'] })
  })
})

describe('find and replace', () => {
  const base = { isPattern: false, isCaseSensitive: false }
  test('plain text is taken as it is', () => {
    expect(replacer({ ...base, find: 'a.b', replace: '$1' })('A.B axb a.b')).toBe('$1 axb $1')
    expect(replacer({ ...base, find: 'A', replace: 'b', isCaseSensitive: true })('aA')).toBe('ab')
  })
  test('a pattern has groups', () => {
    expect(replacer({ ...base, find: '^LW_(\\w+)_T(\\d)', replace: '$1-$2', isPattern: true })('LW_12A_T1')).toBe(
      '12A-1',
    )
  })
  test('what cannot be found is told', () => {
    expect(() => replacer({ ...base, find: '', replace: '' })).toThrow('Write what')
    expect(() => replacer({ ...base, find: '(', replace: '', isPattern: true })).toThrow('not a regular expression')
  })
})

describe('name patterns', () => {
  const known = new Set(['scene', 'take', 'reel'])
  const fill = (pattern: string, values: Record<string, string>, index = 0) =>
    patternFiller(pattern, known)((id) => values[id] ?? '', index)
  test.each([
    ['{scene}-{take}', { scene: '12A', take: '1' }, '12A-1'],
    ['{scene}[-{take}]', { scene: '12A' }, '12A'],
    ['{scene}[ take {take}]', { scene: '12A', take: '2' }, '12A take 2'],
    ['{reel}_{counter:3}', { reel: 'A001' }, 'A001_001'],
    ['{reel}_{counter:3:10}', { reel: 'A001' }, 'A001_010'],
    ['plain', {}, 'plain'],
  ])('%s', (pattern, values, name) => expect(fill(pattern, values)).toBe(name))
  test('counts from clip to clip', () => expect(fill('{counter:2}', {}, 11)).toBe('12'))
  test.each([
    ['{mood}', 'no field “mood”'],
    ['{scene', 'without its partner'],
    ['[{scene}', 'never closes'],
    ['{scene}]', 'never opens'],
    [' ', 'Write a pattern'],
  ])('%s is refused', (pattern, message) => expect(() => fill(pattern, {})).toThrow(message))
})

describe('groups from folders', () => {
  test.each([
    ['day 1/B001/B001C001.mov', 'day 1', null],
    ['Shoot_Day-03/CAM_B/x.mov', 'day 3', 'B'],
    ['2026-11-04/camera a/x.mov', '2026-11-04', 'A'],
    ['20261104_sea/x.mov', '2026-11-04', null],
    ['Mayday 2/x.mov', null, null],
    ['2026-13-04/campsite/x.mov', null, null],
    ['x.mov', null, null],
  ])('%s', (path, day, camera) => expect(groupFromFolders(path)).toEqual({ day, camera }))

  test('the camera of a reel', () => {
    expect(['A001', 'B002C003', 'DR01', 'R07', 'a001', 'A0011'].map(cameraOfReel)).toEqual([
      'A',
      'B',
      null,
      null,
      null,
      null,
    ])
  })
})
