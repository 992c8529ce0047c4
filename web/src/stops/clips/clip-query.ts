import type { ClipQuery, SavedSearch, SortKey } from '@ennick/contract'
import type { Condition } from '@ennick/core'
import { useMemo } from 'react'
import { useAddressValue } from '../../data/remembered.ts'

const is = (field: string, value: string): Condition => ({ field, operator: 'is', value })

/** Searches that people ask for daily, before anybody saved one. */
export const dailySearches: Readonly<Record<string, Condition>> = {
  'no reel': { all: [is('kind', 'picture'), { field: 'reel', operator: 'empty' }] },
  'no proxy': is('proxy', 'no proxy'),
  'not here': { field: 'presence', operator: 'is not', value: 'here' },
  gone: is('presence', 'gone'),
  'only on a card': { field: 'notice', operator: 'contains', value: 'only on a card' },
  'original changed': { field: 'notice', operator: 'contains', value: 'original changed' },
  'with notices': { field: 'notice', operator: 'filled' },
  'in a cut': { field: 'uses', operator: 'more', value: '0' },
  circled: { field: 'circled', operator: 'filled' },
  sound: is('kind', 'sound'),
}

/** A shoot day, or a camera in it, or a reel of that. */
export interface ClipGroup {
  readonly day: string
  readonly camera?: string
  readonly reel?: string
}

/** "-size,name" in the address is size, largest first, then name. */
export const readSort = (text: string): SortKey[] =>
  text
    .split(',')
    .filter((part) => part !== '')
    .map((part) => ({ field: part.replace(/^-/, ''), descending: part.startsWith('-') }))

export const writeSort = (sort: readonly SortKey[]): string =>
  sort.map((key) => `${key.descending ? '-' : ''}${key.field}`).join(',')

/** What a click on a heading makes of the order: up, down, not at all; with Shift beside the others. */
export function nextSort(sort: readonly SortKey[], field: string, isAdding: boolean): SortKey[] {
  const now = sort.find((key) => key.field === field)
  const next: SortKey[] = !now ? [{ field, descending: false }] : now.descending ? [] : [{ field, descending: true }]
  if (!isAdding) return next
  const at = sort.findIndex((key) => key.field === field)
  return at === -1 ? [...sort, ...next].slice(0, 5) : [...sort.slice(0, at), ...next, ...sort.slice(at + 1)]
}

const emptyOr = (field: string, value: string): Condition =>
  value === '' ? { field, operator: 'empty' } : is(field, value)

/** The condition of a group of the tree. */
export const groupCondition = (group: ClipGroup): Condition => ({
  all: [
    emptyOr('day', group.day),
    ...(group.camera === undefined ? [] : [emptyOr('camera', group.camera)]),
    ...(group.reel === undefined ? [] : [emptyOr('reel', group.reel)]),
  ],
})

/** JSON out of the address; what somebody mistyped there counts as nothing. */
export function readJson<T>(text: string): T | null {
  try {
    return text === '' ? null : (JSON.parse(text) as T)
  } catch {
    return null
  }
}

/** The search in the address: words, a named search, one being written, a group of the tree, and the order. */
export function useClipQuery(searches: readonly SavedSearch[]) {
  const [words, setWords] = useAddressValue('q', { isTyped: true })
  const [only, setOnly] = useAddressValue('only')
  const [findText, setFind] = useAddressValue('find')
  const [groupText, setGroup] = useAddressValue('group')
  const [sortText, setSort] = useAddressValue('sort')
  const query = useMemo((): Required<ClipQuery> => {
    const named = dailySearches[only] ?? searches.find((search) => search.id === only)?.condition
    const find = readJson<Condition>(findText)
    const group = readJson<ClipGroup>(groupText)
    const all = [...(named ? [named] : []), ...(find ? [find] : []), ...(group ? [groupCondition(group)] : [])]
    return { words, condition: all.length ? { all } : null, sort: readSort(sortText) }
  }, [words, only, findText, groupText, sortText, searches])
  return {
    query,
    words,
    setWords,
    only,
    setOnly,
    find: readJson<Condition>(findText),
    setFind: (condition: Condition | null) => setFind(condition ? JSON.stringify(condition) : null),
    group: readJson<ClipGroup>(groupText),
    setGroup: (group: ClipGroup | null) => setGroup(group ? JSON.stringify(group) : null),
    setSort: (sort: readonly SortKey[]) => setSort(writeSort(sort) || null),
  }
}
