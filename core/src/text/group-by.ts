/** Groups rows by a key, keeping their order. */
export function groupBy<K, T>(rows: Iterable<T>, key: (row: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>()
  for (const row of rows) {
    const group = groups.get(key(row))
    if (group) group.push(row)
    else groups.set(key(row), [row])
  }
  return groups
}
