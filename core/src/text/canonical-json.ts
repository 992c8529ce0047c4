/** JSON of a value with the keys of its objects in order: equal for equal values, whatever order they were kept in. */
export const canonicalJson = (value: unknown): string =>
  JSON.stringify(value, (_, part: unknown) =>
    part !== null && typeof part === 'object' && !Array.isArray(part)
      ? Object.fromEntries(Object.entries(part).sort(([a], [b]) => (a < b ? -1 : 1)))
      : part,
  )
