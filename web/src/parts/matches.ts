/** Whether every word of a filter occurs in a text, whatever its case and Unicode form. */
export function matches(filter: string, ...texts: (string | null)[]): boolean {
  if (!filter) return true
  const all = texts.join(' ').normalize('NFC').toLowerCase()
  return filter
    .normalize('NFC')
    .toLowerCase()
    .split(/\s+/)
    .every((word) => all.includes(word))
}
