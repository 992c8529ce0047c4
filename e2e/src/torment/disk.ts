import { createHash } from 'node:crypto'
import { lstat, readdir, readFile, readlink } from 'node:fs/promises'
import { join, relative } from 'node:path'

/** Everything below a folder, by its path: what it is and what is in it. */
export async function contentOf(folder: string): Promise<Map<string, string>> {
  const found = new Map<string, string>()
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    const path = join(entry.parentPath, entry.name)
    if (entry.isDirectory()) continue
    found.set(relative(folder, path), await wordsFor(path))
  }
  return found
}

async function wordsFor(path: string): Promise<string> {
  const info = await lstat(path)
  if (info.isSymbolicLink()) return `link to ${await readlink(path)}`
  return `${info.size} bytes ${createHash('sha256')
    .update(await readFile(path))
    .digest('hex')}`
}

/** What differs between two such lists, in words. */
export function differences(before: ReadonlyMap<string, string>, after: ReadonlyMap<string, string>): string[] {
  const lines: string[] = []
  for (const [path, was] of before)
    if (!after.has(path)) lines.push(`${path} is gone`)
    else if (after.get(path) !== was) lines.push(`${path} was ${was} and is ${after.get(path)}`)
  for (const path of after.keys()) if (!before.has(path)) lines.push(`${path} is new`)
  return lines
}
