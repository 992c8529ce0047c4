import { describe, expect, test } from '@jest/globals'
import { builtInFields } from '../describe/index.ts'
import { type Condition, checkCondition, filterWords, numberOf, SearchError } from './index.ts'

const fields = new Map(builtInFields.map((field) => [field.id, field]))
const check = (condition: Condition): void => checkCondition(condition, fields)

describe('what may be asked', () => {
  test.each([
    { all: [] },
    { field: 'codec', operator: 'contains', value: 'ProRes' },
    { field: 'size', operator: 'more', value: '1.5 GB' },
    { field: 'rate', operator: 'is not', value: '30000/1001' },
    { field: 'frames', operator: 'between', value: '10', upTo: '20' },
    { field: 'reel', operator: 'empty' },
    {
      any: [
        { all: [{ field: 'proxy', operator: 'is', value: 'no proxy' }] },
        { field: 'day', operator: 'begins', value: 'day' },
      ],
    },
  ] as Condition[])('%j', (condition) => expect(() => check(condition)).not.toThrow())

  test.each([
    [{ field: 'mood', operator: 'is', value: 'x' }, 'no field “mood”'],
    [{ field: 'size', operator: 'contains', value: '1' }, 'cannot be asked with'],
    [{ field: 'codec', operator: 'is' }, 'Write a value'],
    [{ field: 'codec', operator: 'matches', value: '(' }, 'not a regular expression'],
    [{ field: 'frames', operator: 'less', value: 'few' }, 'is a number'],
    [{ field: 'frames', operator: 'between', value: '1' }, 'Write a value'],
    [{ all: Array.from({ length: 201 }, () => ({ field: 'reel', operator: 'empty' })) }, '200 terms'],
  ] as [Condition, string][])('%j is refused', (condition, message) => {
    expect(() => check(condition)).toThrow(SearchError)
    expect(() => check(condition)).toThrow(message)
  })

  test('groups without end are refused', () => {
    let nested: Condition = { field: 'reel', operator: 'empty' }
    for (let depth = 0; depth < 12; depth++) nested = { all: [nested] }
    expect(() => check(nested)).toThrow('nested 8 deep')
  })
})

test.each([
  ['bytes', '1.5 GB', 1.5e9],
  ['bytes', '300kb', 300_000],
  ['number', '25', 25],
  ['number', '25 GB', null],
  ['number', 'x', null],
  ['rate', '30000/1001', 30000 / 1001],
  ['rate', '25/0', null],
  ['number', '-3,5', -3.5],
] as const)('%s %s', (kind, text, value) => expect(numberOf(kind, text)).toBe(value))

test('the words of a filter', () => expect(filterWords('  Mühle A001 ')).toEqual(['mühle', 'a001']))
