import { type HashKind, type HashList, hashKinds } from './hash-list.ts'

export type ManifestState = 'matches' | 'changed' | 'missing' | 'extra' | 'not checked'

/** How one file stands against a manifest. */
export interface ManifestLine {
  readonly path: string
  readonly state: ManifestState
  /** What was expected and found, in words; null for a file that matches. */
  readonly detail: string | null
}

/** The checksum to compare by: the first that the list holds of a file. */
export const hashToCheck = (hashes: Readonly<Partial<Record<HashKind, string>>>): HashKind | null =>
  hashKinds.find((kind) => hashes[kind] !== undefined) ?? null

/**
 * Compares a folder with its manifest.
 * @param found what is there now: sizes, and the checksum of each listed file by `hashToCheck`
 */
export function verifyAgainst(
  list: HashList,
  found: ReadonlyMap<string, { readonly sizeBytes: number; readonly hash: string | null }>,
): ManifestLine[] {
  const listed = new Set(list.files.map((file) => file.path))
  const lines = list.files.map((file): ManifestLine => {
    const there = found.get(file.path)
    if (!there) return { path: file.path, state: 'missing', detail: 'It is in the manifest and not in the folder.' }
    if (there.sizeBytes !== file.sizeBytes)
      return {
        path: file.path,
        state: 'changed',
        detail: `It should have ${file.sizeBytes} bytes and has ${there.sizeBytes}.`,
      }
    const kind = hashToCheck(file.hashes)
    if (kind === null)
      return {
        path: file.path,
        state: 'not checked',
        detail: 'The manifest holds no checksum of it that is known here.',
      }
    const expected = file.hashes[kind] as string
    if (there.hash === null)
      return { path: file.path, state: 'not checked', detail: 'It is there, and cannot be read.' }
    if (there.hash !== expected)
      return { path: file.path, state: 'changed', detail: `Its ${kind} should be ${expected} and is ${there.hash}.` }
    return { path: file.path, state: 'matches', detail: null }
  })
  for (const path of found.keys())
    if (!listed.has(path)) lines.push({ path, state: 'extra', detail: 'It is in the folder and not in the manifest.' })
  return lines
}
