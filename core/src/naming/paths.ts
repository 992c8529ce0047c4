import { groupBy } from '../text/index.ts'
import { normalName } from './names.ts'

/**
 * A path of any system in one form: file URLs decoded, backslashes turned, doubled separators and "." removed.
 * A drive letter stays as "P:"; a server name from "\\server\share" or "file://server/share" stays as "//server/share".
 */
export function normalPath(text: string): string {
  let path = text.trim()
  // Most are in that form already, and there are very many of them.
  if (!/^file:|\\|\/[/.]|^\.|\/$/i.test(path)) return path
  if (/^file:/i.test(path)) {
    path = path.replace(/^file:(\/\/localhost(?=\/))?/i, '')
    path = decodeEscapes(path)
    if (path.startsWith('///')) path = path.slice(2)
    if (/^\/[a-z]:/i.test(path)) path = path.slice(1)
  }
  path = path.replaceAll('\\', '/')
  const server = path.startsWith('//')
  const parts = path.split('/').filter((part, index) => part !== '.' && (part !== '' || index === 0))
  path = parts.join('/')
  return server ? `/${path.startsWith('/') ? path : `/${path}`}` : path
}

/** The form in which paths are compared, whatever case, Unicode form and system a list writes them in. */
export const comparablePath = (path: string): string => normalName(normalPath(path))

function decodeEscapes(text: string): string {
  try {
    return decodeURIComponent(text)
  } catch {
    return text
  }
}

/**
 * What a URL of a list names: of a relative reference (RFC 3986, section 4.2) the path, its escapes read. All others
 * are left as they are written, and read by `normalPath`.
 */
export const pathOfReference = (url: string): string =>
  /^([a-z][a-z0-9+.-]*:|[/\\])/i.test(url) ? url : decodeEscapes(url)

/** One line of a path map: what another system's paths begin with, and what stands there on this one. */
export interface PathMapping {
  readonly from: string
  readonly to: string
}

/**
 * Applies the longest mapping whose `from` is a whole-folder prefix of the path, ignoring case and Unicode form.
 * @returns the path on this system, or undefined when no mapping fits.
 */
export function mapPath(path: string, mappings: readonly PathMapping[]): string | undefined {
  const normal = normalPath(path)
  let best: { mapping: PathMapping; rest: string } | undefined
  for (const mapping of mappings) {
    const from = normalPath(mapping.from).replace(/\/$/, '')
    if (from === '') continue
    const rest = restBelow(normal, from)
    if (rest !== undefined && (!best || from.length > normalPath(best.mapping.from).length)) best = { mapping, rest }
  }
  if (!best) return undefined
  return `${best.mapping.to.replace(/\/$/, '')}${best.rest}`
}

/** What follows a folder in a path, with its leading "/"; undefined when the path is not below the folder. */
export function restBelow(path: string, folder: string): string | undefined {
  const pathParts = path.split('/')
  const folderParts = folder.split('/')
  if (pathParts.length < folderParts.length) return undefined
  for (let index = 0; index < folderParts.length; index++) {
    if (normalName(pathParts[index] as string) !== normalName(folderParts[index] as string)) return undefined
  }
  const rest = pathParts.slice(folderParts.length)
  return rest.length ? `/${rest.join('/')}` : ''
}

/** The innermost volume that a path of this system lies on, and its path there; null when it lies on none of these. */
export function onVolume<Volume extends { readonly rootPath: string; readonly isHere?: boolean }>(
  volumes: readonly Volume[],
  path: string,
): { readonly volume: Volume; readonly path: string } | null {
  let innermost = null as { readonly volume: Volume; readonly root: string } | null
  for (const volume of volumes) {
    const root = volume.rootPath.endsWith('/') ? volume.rootPath : `${volume.rootPath}/`
    if (!path.startsWith(root)) continue
    // Of several at one place the one that is in.
    const isIn = innermost !== null && root === innermost.root && volume.isHere === true && !innermost.volume.isHere
    if (isIn || root.length > (innermost?.root.length ?? 0)) innermost = { volume, root }
  }
  return innermost && { volume: innermost.volume, path: path.slice(innermost.root.length) }
}

/** How many trailing parts (file name first) two paths share, ignoring case and Unicode form. */
export function sharedTail(a: string, b: string): number {
  const left = normalName(normalPath(a)).split('/').reverse()
  const right = normalName(normalPath(b)).split('/').reverse()
  let shared = 0
  while (shared < left.length && shared < right.length && left[shared] === right[shared] && left[shared] !== '')
    shared++
  return shared
}

export interface SuggestedMapping extends PathMapping {
  /** How many of the listed paths this mapping brings to a file that is known. */
  readonly matches: number
}

/**
 * Works out path mappings from the paths a list names and the files that are known here.
 * A mapping needs a file name in common, and is offered once per pair of roots, best first;
 * the roots are what is left after the longest common tail is taken off both.
 */
export function suggestMappings(listed: readonly string[], known: readonly string[]): SuggestedMapping[] {
  const byName = groupBy(known, (path) => normalName(normalPath(path)).split('/').at(-1) as string)
  const counts = new Map<string, SuggestedMapping>()
  for (const path of new Set(listed)) {
    const normal = normalPath(path)
    const candidates = byName.get(normalName(normal).split('/').at(-1) as string) ?? []
    const best = Math.max(0, ...candidates.map((candidate) => sharedTail(normal, candidate)))
    const roots = new Set<string>()
    for (const candidate of candidates) {
      if (sharedTail(normal, candidate) !== best) continue
      const from = normal.split('/').slice(0, -best).join('/')
      const to = candidate.split('/').slice(0, -best).join('/')
      if (from && to && from !== to) roots.add(JSON.stringify([from, to]))
    }
    for (const root of roots) {
      const [from, to] = JSON.parse(root) as [string, string]
      counts.set(root, { from, to, matches: (counts.get(root)?.matches ?? 0) + 1 })
    }
  }
  return [...counts.values()].sort((a, b) => b.matches - a.matches || b.from.length - a.from.length)
}

/**
 * A path as a URL (RFC 8089): what is already one stays as it is, "P:/media" and "//server/share" become what file URLs
 * have for them, and everything that a URL cannot hold is escaped. A relative path becomes a relative reference. Half
 * of a character pair, which is no text, becomes U+FFFD.
 */
export function fileUrl(path: string): string {
  if (/^[a-z][a-z0-9+.-]+:\/\//i.test(path) || /^file:/i.test(path)) return path
  const normal = normalPath(path).toWellFormed()
  const escaped = normal
    .split('/')
    .map((part, index) => (index === 0 && /^[a-z]:$/i.test(part) ? part : encodeURIComponent(part)))
    .join('/')
  if (normal.startsWith('//')) return `file:${escaped}`
  if (normal.startsWith('/')) return `file://${escaped}`
  return /^[a-z]:/i.test(normal) ? `file:///${escaped}` : escaped
}
