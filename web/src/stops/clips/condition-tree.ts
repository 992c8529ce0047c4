import type { Condition, Term } from '@ennick/core'

export type Group = { readonly all: readonly Condition[] } | { readonly any: readonly Condition[] }

export const isGroup = (condition: Condition): condition is Group => 'all' in condition || 'any' in condition
export const childrenOf = (group: Group): readonly Condition[] => ('all' in group ? group.all : group.any)
export const emptyGroup = (): Group => ({ all: [{ field: 'name', operator: 'contains', value: '' }] })

const withChildren = (group: Group, children: readonly Condition[]): Group =>
  'all' in group ? { all: children } : { any: children }

/** The tree with another condition at a place; a place is the index at each level. */
export function replaceAt(root: Group, path: readonly number[], next: Condition): Group {
  const [at, ...rest] = path
  if (at === undefined) return next as Group
  return withChildren(
    root,
    childrenOf(root).map((child, index) =>
      index !== at ? child : rest.length ? replaceAt(child as Group, rest, next) : next,
    ),
  )
}

export function removeAt(root: Group, path: readonly number[]): Group {
  const [at, ...rest] = path
  const children = childrenOf(root)
  if (rest.length === 0)
    return withChildren(
      root,
      children.filter((_, index) => index !== at),
    )
  return withChildren(
    root,
    children.map((child, index) => (index === at ? removeAt(child as Group, rest) : child)),
  )
}

/** The tree with one condition more in the group at a place. */
export function addTo(root: Group, path: readonly number[], condition: Condition): Group {
  const [at, ...rest] = path
  const children = childrenOf(root)
  if (at === undefined) return withChildren(root, [...children, condition])
  return withChildren(
    root,
    children.map((child, index) => (index === at ? addTo(child as Group, rest, condition) : child)),
  )
}

const isBlank = (term: Term): boolean =>
  term.operator !== 'empty' && term.operator !== 'filled' && (term.value ?? '') === ''

/** The tree without terms whose value is still to be written, and without groups that hold nothing. */
export function withoutBlanks(root: Group): Group {
  const children = childrenOf(root).flatMap((child): Condition[] => {
    if (!isGroup(child)) return isBlank(child) ? [] : [child]
    const inner = withoutBlanks(child)
    return childrenOf(inner).length ? [inner] : []
  })
  return withChildren(root, children)
}
