import {
  assertBelow,
  type HashedFile,
  type HashKind,
  HashListError,
  hashKinds,
  hashLengths,
  parseHashList,
} from './hash-list.ts'
import { hashToCheck } from './verify.ts'

/** A file that a list names, with the one checksum by which it is known. */
export interface ChecksummedFile {
  readonly path: string
  /** Null where the list does not say. */
  readonly sizeBytes: number | null
  /** ISO date and time; null where the list does not say. */
  readonly modifiedAt: string | null
  readonly kind: HashKind
  readonly hash: string
}

/**
 * Reads a list of files with their checksums: an ASC Media Hash List, or the lines that `md5sum`, `sha1sum` and
 * `xxhsum` write (GNU Coreutils manual, section “cksum output modes”: untagged, or tagged as “MD5 (name) = …”).
 * @throws HashListError for what is neither, a path that leaves its folder, a file without a checksum that is known
 *   here, or one that is listed with two
 */
export function parseChecksums(text: string): ChecksummedFile[] {
  const plain = text.replace(/^\uFEFF/, '')
  const files = plain.trimStart().startsWith('<') ? parseHashList(plain).files.map(asListed) : parseLines(plain)
  const known = new Map<string, ChecksummedFile>()
  for (const file of files) {
    const before = known.get(file.path)
    if (before && (before.kind !== file.kind || before.hash !== file.hash))
      throw new HashListError(`Its file “${file.path}” is listed twice, with two checksums.`)
    known.set(file.path, file)
  }
  if (known.size === 0) throw new HashListError('It lists no files.')
  return [...known.values()]
}

function asListed({ path, sizeBytes, modifiedAt, hashes }: HashedFile): ChecksummedFile {
  const kind = hashToCheck(hashes)
  if (kind === null)
    throw new HashListError(`It holds no checksum of “${path}” that is known here: ${hashKinds.join(', ')} are.`)
  return { path: plainPath(path), sizeBytes, modifiedAt, kind, hash: hashes[kind] as string }
}

const untagged = /^(\\?)([0-9a-f]+) [ *](.+)$/i
const tagged = /^(\\?)([a-z0-9]+) \((.+)\) = ([0-9a-f]+)$/i

function parseLines(text: string): ChecksummedFile[] {
  return text.split(/\r?\n/).flatMap((line, index) => {
    if (line.trim() === '' || line.startsWith('#')) return []
    const [, escaped, hash, name] = untagged.exec(line) ?? swapped(tagged.exec(line)) ?? []
    const kind = hashKinds.find((each) => hashLengths[each] === hash?.length)
    if (hash === undefined || name === undefined || !kind)
      throw new HashListError(
        `Line ${index + 1} is no line of a list of checksums: one has a checksum (${hashKinds.join(', ')}), a space, ` +
          'a mark and a path.',
      )
    const path = escaped ? name.replace(/\\([\\nr])/g, (_, mark: string) => escapes[mark] ?? mark) : name
    return [{ path: plainPath(path), sizeBytes: null, modifiedAt: null, kind, hash: hash.toLowerCase() }]
  })
}

/** What the tools write for what would break a line. */
const escapes: Readonly<Record<string, string>> = { n: '\n', r: '\r' }

const swapped = (found: RegExpExecArray | null): (string | undefined)[] | null =>
  found && [found[0], found[1], found[4], found[3]]

/**
 * A path below the list's folder, without steps that lead nowhere.
 * @throws HashListError when it leads out of that
 */
function plainPath(path: string): string {
  assertBelow(path)
  const plain = path
    .split('/')
    .filter((step) => step !== '' && step !== '.')
    .join('/')
  if (plain === '') throw new HashListError('One of its files has no path.')
  return plain
}
