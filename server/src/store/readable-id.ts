/** An id that people can read: a name that a folder can have, with an ending that no other has. */
export function readableId(name: string, otherwise: string): string {
  const words = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '')
    .slice(0, 40)
  return `${words || otherwise}-${Math.random().toString(36).slice(2, 8)}`
}
