import type { Clip } from '@ennick/contract'
import type { Condition } from '@ennick/core'
import { describe, expect, test } from '@jest/globals'
import { dailySearches, groupCondition, nextSort, readJson, readSort, writeSort } from './clip-query.ts'
import { addTo, emptyGroup, type Group, removeAt, replaceAt, withoutBlanks } from './condition-tree.ts'
import { placeOfEdited } from './edited-row.ts'

describe('the order in the address', () => {
  test('goes there and back', () => {
    const sort = [
      { field: 'size', descending: true },
      { field: 'name', descending: false },
    ]
    expect(writeSort(sort)).toBe('-size,name')
    expect(readSort('-size,name')).toEqual(sort)
    expect(readSort('')).toEqual([])
  })
  test('a click goes up, down, away', () => {
    let sort = nextSort([], 'reel', false)
    expect(writeSort(sort)).toBe('reel')
    sort = nextSort(sort, 'reel', false)
    expect(writeSort(sort)).toBe('-reel')
    expect(nextSort(sort, 'reel', false)).toEqual([])
  })
  test('with Shift it joins the others and keeps its place', () => {
    const two = nextSort(readSort('reel'), 'take', true)
    expect(writeSort(two)).toBe('reel,take')
    expect(writeSort(nextSort(two, 'reel', true))).toBe('-reel,take')
    expect(writeSort(nextSort(readSort('-reel,take'), 'reel', true))).toBe('take')
    expect(writeSort(nextSort(two, 'size', false))).toBe('size')
  })
})

test('what is mistyped in the address counts as nothing', () => {
  expect(readJson('{"day":')).toBeNull()
  expect(readJson('')).toBeNull()
  expect(readJson('{"day":"day 1"}')).toEqual({ day: 'day 1' })
})

test('a group of the tree is a condition, and what is missing is asked for as missing', () => {
  expect(groupCondition({ day: 'day 1', camera: '' })).toEqual({
    all: [
      { field: 'day', operator: 'is', value: 'day 1' },
      { field: 'camera', operator: 'empty' },
    ],
  })
})

test('every daily search has a name and asks something', () => {
  for (const condition of Object.values(dailySearches)) expect(JSON.stringify(condition)).toContain('operator')
})

describe('a tree of conditions', () => {
  const term = (value: string): Condition => ({ field: 'reel', operator: 'is', value })
  const root: Group = { all: [term('A'), { any: [term('B'), term('C')] }] }
  test('is changed at any place and nowhere else', () => {
    expect(replaceAt(root, [1, 0], term('X'))).toEqual({ all: [term('A'), { any: [term('X'), term('C')] }] })
    expect(replaceAt(root, [], { any: [] })).toEqual({ any: [] })
    expect(removeAt(root, [1, 1])).toEqual({ all: [term('A'), { any: [term('B')] }] })
    expect(removeAt(root, [0])).toEqual({ all: [{ any: [term('B'), term('C')] }] })
    expect(addTo(root, [1], term('D'))).toEqual({ all: [term('A'), { any: [term('B'), term('C'), term('D')] }] })
    expect(root).toEqual({ all: [term('A'), { any: [term('B'), term('C')] }] })
  })
  test('terms without a value and empty groups do not count', () => {
    expect(withoutBlanks(emptyGroup())).toEqual({ all: [] })
    expect(withoutBlanks({ all: [{ any: [term('')] }, { field: 'reel', operator: 'empty' }] })).toEqual({
      all: [{ field: 'reel', operator: 'empty' }],
    })
  })
})

describe('the row that is being edited', () => {
  const edited = { clip: { id: 'b' } as Clip, field: 'scene', index: 7 }
  const listOf =
    (...ids: string[]) =>
    (id: string): number | undefined =>
      ids.includes(id) ? ids.indexOf(id) : undefined
  test('goes where its clip goes when the list is sorted or filtered', () => {
    expect(placeOfEdited(edited, 3, listOf('a', 'b', 'c'), () => true)).toEqual({ at: 1, isBeside: false })
  })
  test('stays as near as can be while the list does not have it, beside what the list has', () => {
    expect(placeOfEdited(edited, 24, listOf('a', 'c'), () => true)).toEqual({ at: 7, isBeside: true })
    expect(placeOfEdited(edited, 3, listOf('a', 'c'), () => true)).toEqual({ at: 3, isBeside: true })
    expect(placeOfEdited(edited, 0, listOf(), () => false)).toEqual({ at: 0, isBeside: true })
  })
  test('has the place of a row that is on its way, which may be its own', () => {
    expect(placeOfEdited(edited, 24, listOf('a', 'c'), () => false)).toEqual({ at: 7, isBeside: false })
    expect(placeOfEdited(edited, 3, listOf(), () => false)).toEqual({ at: 2, isBeside: false })
  })
})
