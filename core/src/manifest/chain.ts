import { childrenOf, escapeXml, parseXml, XmlError } from '../notes/index.ts'
import { HashListError } from './hash-list.ts'

/** The checksums by which a chain may name its generations; c4 is SMPTE ST 2114's form of SHA-512. */
export const chainHashKinds = ['sha1', 'md5', 'xxh64', 'c4'] as const
export type ChainHashKind = (typeof chainHashKinds)[number]

/** One generation of a history of hash lists, with the checksum of its file. */
export interface ChainEntry {
  readonly sequence: number
  /** The list's file, beside the chain. */
  readonly path: string
  /** Null when it is of a kind that is not known here. */
  readonly hash: { readonly kind: ChainHashKind; readonly value: string } | null
}

const end = '</ascmhldirectory>'

/**
 * Reads the chain of a history (ASC MHL specification 2.0, "chain file").
 * @throws HashListError for what is no such chain
 */
export function parseChain(text: string): ChainEntry[] {
  let root: ReturnType<typeof parseXml>
  try {
    root = parseXml(text.replace(/^\uFEFF/, ''))
  } catch (error) {
    if (error instanceof XmlError) throw new HashListError(`It is no chain of hash lists: ${error.message}`)
    throw error
  }
  if (root.name !== 'ascmhldirectory')
    throw new HashListError(`It is no chain of hash lists: it begins with <${root.name}>.`)
  return childrenOf(root.element, 'hashlist').map((item): ChainEntry => {
    const path = childrenOf(item, 'path')[0]?.text.trim() ?? ''
    const sequence = Number(item.attributes.sequencenr)
    if (path === '' || /[/\\]/.test(path) || !Number.isInteger(sequence) || sequence < 1)
      throw new HashListError('One of its generations has no number, or no file beside it.')
    for (const kind of chainHashKinds) {
      const value = childrenOf(item, kind)[0]?.text.trim()
      if (value) return { sequence, path, hash: { kind, value: kind === 'c4' ? value : value.toLowerCase() } }
    }
    return { sequence, path, hash: null }
  })
}

/**
 * Adds a generation to a chain; what stands in it stays as it is, letter for letter.
 * @param text null begins a chain
 */
export function extendChain(
  text: string | null,
  entry: { readonly sequence: number; readonly path: string; readonly sha1: string },
): string {
  const lines = [
    `  <hashlist sequencenr="${entry.sequence}">`,
    `    <path>${escapeXml(entry.path)}</path>`,
    `    <sha1>${entry.sha1}</sha1>`,
    '  </hashlist>',
    '',
  ].join('\n')
  const before =
    text ?? `<?xml version="1.0" encoding="UTF-8"?>\n<ascmhldirectory xmlns="urn:ASC:MHL:DIRECTORY:v2.0">\n${end}\n`
  const at = before.lastIndexOf(end)
  if (at < 0) throw new HashListError('It is no chain of hash lists: it is not closed.')
  return `${before.slice(0, at)}${lines}${before.slice(at)}`
}

const c4Letters = '123456789ABCDEFGHJKLMNPQRSTUVWXYZabcdefghijkmnopqrstuvwxyz'

/** A SHA-512 in the form of SMPTE ST 2114: "c4" and 88 letters of a number to the base 58. */
export function c4Of(sha512: string): string {
  let rest = BigInt(`0x${sha512}`)
  let letters = ''
  for (; rest > 0n; rest /= 58n) letters = (c4Letters[Number(rest % 58n)] as string) + letters
  return `c4${letters.padStart(88, '1')}`
}
