import { childrenOf, escapeXml, parseXml, textOf, XmlError } from '../notes/index.ts'

/** The checksums that a manifest may hold, strongest habit first. */
export const hashKinds = ['xxh64', 'md5', 'sha1'] as const
export type HashKind = (typeof hashKinds)[number]

/** One file of a manifest: its path below the manifest's root and the checksums that were read from it. */
export interface HashedFile {
  readonly path: string
  readonly sizeBytes: number
  /** ISO date and time. */
  readonly modifiedAt: string | null
  readonly hashes: Readonly<Partial<Record<HashKind, string>>>
}

export interface HashList {
  readonly createdAt: string
  readonly host: string
  readonly tool: string
  /** How the copies were read back, in words. */
  readonly comment?: string
  readonly files: readonly HashedFile[]
}

/** A text that is no manifest; the message says why, with the line where there is one. */
export class HashListError extends Error {
  override readonly name = 'HashListError'
}

/**
 * Writes an ASC Media Hash List (ASC MHL specification 2.0, "manifest"): one generation, made by a transfer.
 * @param listed paths that an older generation lists with the same checksum: of those this one verifies it
 */
export function writeHashList(list: HashList, listed: ReadonlySet<string> = new Set()): string {
  const lines = [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<hashlist version="2.0" xmlns="urn:ASC:MHL:v2.0">',
    '  <creatorinfo>',
    `    <creationdate>${escapeXml(list.createdAt)}</creationdate>`,
    `    <hostname>${escapeXml(list.host)}</hostname>`,
    `    <tool version="1">${escapeXml(list.tool)}</tool>`,
    ...(list.comment === undefined ? [] : [`    <comment>${escapeXml(list.comment)}</comment>`]),
    '  </creatorinfo>',
    '  <processinfo>',
    '    <process>transfer</process>',
    '  </processinfo>',
    '  <hashes>',
  ]
  for (const file of list.files) {
    const modified = file.modifiedAt === null ? '' : ` lastmodificationdate="${escapeXml(file.modifiedAt)}"`
    lines.push('    <hash>', `      <path size="${file.sizeBytes}"${modified}>${escapeXml(file.path)}</path>`)
    for (const kind of hashKinds) {
      const value = file.hashes[kind]
      const action = listed.has(file.path) ? 'verified' : 'original'
      if (value !== undefined)
        lines.push(`      <${kind} action="${action}" hashdate="${escapeXml(list.createdAt)}">${value}</${kind}>`)
    }
    lines.push('    </hash>')
  }
  lines.push('  </hashes>', '</hashlist>', '')
  return lines.join('\n')
}

/** Digits of each, in hexadecimal. */
export const hashLengths: Readonly<Record<HashKind, number>> = { xxh64: 16, md5: 32, sha1: 40 }

/**
 * Reads an ASC Media Hash List.
 * @throws HashListError for what is no such list, a path that leaves its root, or a checksum that cannot be one
 */
export function parseHashList(text: string): HashList {
  let root: ReturnType<typeof parseXml>
  try {
    root = parseXml(text.replace(/^\uFEFF/, ''))
  } catch (error) {
    if (error instanceof XmlError) throw new HashListError(`It is no media hash list: ${error.message}`)
    throw error
  }
  if (root.name !== 'hashlist') throw new HashListError(`It is no media hash list: it begins with <${root.name}>.`)
  const creator = childrenOf(root.element, 'creatorinfo')[0]
  const hashes = childrenOf(root.element, 'hashes')[0]
  if (!hashes) throw new HashListError('It lists no files: it has no <hashes>.')
  const files = childrenOf(hashes, 'hash').map((hash): HashedFile => {
    const path = childrenOf(hash, 'path')[0]
    const name = path?.text.trim() ?? ''
    if (!path || name === '') throw new HashListError('One of its files has no path.')
    assertBelow(name)
    const size = path.attributes.size
    if (size === undefined || !/^\d{1,15}$/.test(size)) throw new HashListError(`Its file “${name}” has no size.`)
    const read: Partial<Record<HashKind, string>> = {}
    for (const kind of hashKinds) {
      const value = textOf(hash, kind)?.toLowerCase()
      if (value === undefined) continue
      if (value.length !== hashLengths[kind] || !/^[0-9a-f]+$/.test(value))
        throw new HashListError(`Its ${kind} of “${name}” reads “${value}”, which is no ${kind}.`)
      read[kind] = value
    }
    return {
      path: name,
      sizeBytes: Number(size),
      modifiedAt: path.attributes.lastmodificationdate ?? null,
      hashes: read,
    }
  })
  const comment = creator && textOf(creator, 'comment')
  return {
    ...(comment ? { comment } : {}),
    createdAt: (creator && textOf(creator, 'creationdate')) ?? '',
    host: (creator && textOf(creator, 'hostname')) ?? '',
    tool: (creator && textOf(creator, 'tool')) ?? '',
    files,
  }
}

/** @throws HashListError for a path that leads out of the folder which a list is about */
export function assertBelow(path: string): void {
  if (path.startsWith('/') || path.includes('\\') || path.includes('\0') || path.split('/').includes('..'))
    throw new HashListError(`Its file “${path}” lies outside of the folder that the list is about.`)
}

/** The file name of a generation as the standard has it: "0001_A001_2026-11-04_180512Z.mhl" (section 5). */
export function hashListName(generation: number, folder: string, at: Date): string {
  const iso = at.toISOString()
  return `${String(generation).padStart(4, '0')}_${folder}_${iso.slice(0, 10)}_${iso.slice(11, 19).replaceAll(':', '')}Z.mhl`
}
