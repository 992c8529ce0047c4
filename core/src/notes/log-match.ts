import { baseName, normalName, possibleStems, reelKey, sameReel, stem } from '../naming/index.ts'
import { groupBy } from '../text/index.ts'
import type { LogTable } from './log-table.ts'

/** What a clip can be known by in a log. */
export interface LogClip {
  readonly id: string
  readonly name: string
  readonly reel: string | null
  /** Start timecode as a label, "09:14:02:10". */
  readonly start: string | null
  readonly fileNames: readonly string[]
}

export type MatchedBy = 'clip name' | 'reel and timecode' | 'file name'

/** Which clip a row of a log is about, or why none. */
export interface LogMatch {
  readonly line: number
  /** What the row calls its clip. */
  readonly label: string
  readonly clipId: string | null
  readonly by: MatchedBy | null
  /** Why there is no clip. */
  readonly reason: string | null
  /** Nothing that is known fits it in anything: what it is about is not here, or not yet. */
  readonly isNowhere: boolean
}

/** Titles under which logs keep what a clip is known by, normalised. */
const roles = {
  name: ['name', 'clip name', 'clip', 'clipname'],
  reel: ['tape', 'reel', 'reel name', 'tape name', 'camroll', 'reel/tape'],
  start: ['start', 'start tc', 'start timecode', 'timecode', 'tc in', 'start time'],
  file: ['source file', 'source file name', 'file name', 'filename', 'file', 'source path', 'source file path', 'path'],
} as const

export type LogRole = keyof typeof roles

/** Which column plays which part in finding the clip; -1 for none. */
export function logRoles(columns: readonly string[]): Record<LogRole, number> {
  const names = columns.map((column) => normalName(column.trim()))
  const find = (role: LogRole): number => {
    for (const title of roles[role]) {
      const at = names.indexOf(title)
      if (at !== -1) return at
    }
    return -1
  }
  return { name: find('name'), reel: find('reel'), start: find('start'), file: find('file') }
}

/**
 * Finds the clip of each row: by its clip name, then by reel and start timecode, then by its file name. A name that
 * fits several clips is settled by reel and timecode; a row whose own reel or timecode contradicts a clip is not about
 * it. Two rows about one clip are both told, as only one could be right.
 * @param suffixes endings that names of proxies may have: a log of what was cut with knows those
 */
export function matchLog(log: LogTable, clips: readonly LogClip[], suffixes: readonly string[] = []): LogMatch[] {
  return withoutDoubles(log.rows.map(rowMatcher(log.columns, clips, suffixes)))
}

/** Finds the clip of one row at a time; that another row is about the same clip is not known to it. */
export function rowMatcher(
  columns: LogTable['columns'],
  clips: readonly LogClip[],
  suffixes: readonly string[] = [],
): (row: LogTable['rows'][number]) => LogMatch {
  const at = logRoles(columns)
  const byName = index(clips, (clip) => [clip.name, stem(clip.name)])
  const byFile = index(clips, (clip) => clip.fileNames.flatMap((name) => [baseName(name), stem(name)]))
  const byPlace = index(clips, (clip) => (clip.reel && clip.start ? [placeKey(clip.reel, clip.start)] : []))
  return ({ line, cells }) => {
    const cell = (role: LogRole): string => (at[role] === -1 ? '' : (cells[at[role]] ?? '').trim())
    const row: RowIdentity = {
      name: cell('name'),
      reel: cell('reel'),
      start: cell('start'),
      file: baseName(cell('file')),
    }
    const label = row.name || row.file || [row.reel, row.start].filter(Boolean).join(' ') || `row on line ${line}`
    return { line, label, ...findClip(row, { byName, byPlace, byFile, suffixes }) }
  }
}

interface RowIdentity {
  readonly name: string
  readonly reel: string
  readonly start: string
  readonly file: string
}

type Found = Omit<LogMatch, 'line' | 'label'>

function findClip(
  row: RowIdentity,
  {
    byName,
    byPlace,
    byFile,
    suffixes,
  }: {
    readonly byName: ReadonlyMap<string, LogClip[]>
    readonly byPlace: ReadonlyMap<string, LogClip[]>
    readonly byFile: ReadonlyMap<string, LogClip[]>
    readonly suffixes: readonly string[]
  },
): Found {
  const lookUp = (map: ReadonlyMap<string, LogClip[]>, name: string): readonly LogClip[] => {
    if (name === '') return []
    for (const key of [normalName(name), ...possibleStems(name, suffixes)]) {
      const found = map.get(key)
      if (found) return found
    }
    return []
  }
  let reason: string | null = null
  const steps: [MatchedBy, readonly LogClip[]][] = [
    ['clip name', lookUp(byName, row.name)],
    ['reel and timecode', row.reel && row.start ? (byPlace.get(placeKey(row.reel, row.start)) ?? []) : []],
    ['file name', lookUp(byFile, row.file || row.name)],
  ]
  for (const [by, candidates] of steps) {
    const fitting = candidates.filter((clip) => !contradicts(row, clip))
    const only = fitting[0]
    if (only && fitting.length === 1) return { clipId: only.id, by, reason: null, isNowhere: false }
    if (fitting.length > 1)
      reason ??= `${fitting.length} clips have this ${by}, and nothing in the row tells them apart.`
    else if (candidates[0]) reason ??= explainContradiction(row, candidates[0], by)
  }
  const nowhere = 'No clip has this name, reel and timecode, or file name.'
  // A row that names nothing is about nothing that could come.
  const namesOne = row.name !== '' || row.file !== '' || (row.reel !== '' && row.start !== '')
  return { clipId: null, by: null, reason: reason ?? nowhere, isNowhere: reason === null && namesOne }
}

const contradicts = (row: RowIdentity, clip: LogClip): boolean =>
  (row.reel !== '' && clip.reel !== null && !sameReel(row.reel, clip.reel)) ||
  (row.start !== '' && clip.start !== null && plainLabel(row.start) !== plainLabel(clip.start))

function explainContradiction(row: RowIdentity, clip: LogClip, by: MatchedBy): string {
  if (row.start !== '' && clip.start !== null && plainLabel(row.start) !== plainLabel(clip.start))
    return `The ${by} fits ${clip.name}, but the row starts at ${row.start} and the clip at ${clip.start}.`
  return `The ${by} fits ${clip.name}, but the row is from reel ${row.reel} and the clip from ${clip.reel}.`
}

/** Labels are compared without their separators, which writers choose freely. */
export const plainLabel = (label: string): string => label.replace(/[:;.,]/g, ':')
const placeKey = (reel: string, start: string): string => `${reelKey(reel)}\n${plainLabel(start)}`

function index(clips: readonly LogClip[], keys: (clip: LogClip) => readonly string[]): Map<string, LogClip[]> {
  const map = new Map<string, LogClip[]>()
  for (const clip of clips) {
    for (const key of new Set(keys(clip).map((value) => (value.includes('\n') ? value : normalName(value))))) {
      const list = map.get(key)
      if (list) list.push(clip)
      else map.set(key, [clip])
    }
  }
  return map
}

/** Of lines that name one clip, so many are told. */
const mostRivals = 20

function withoutDoubles(matches: readonly LogMatch[]): LogMatch[] {
  const lines = groupBy(matches, ({ clipId }) => clipId)
  return matches.map((match) => {
    const rivals = match.clipId ? (lines.get(match.clipId) as LogMatch[]) : []
    if (rivals.length < 2) return match
    const first = rivals.slice(0, mostRivals).map(({ line }) => line)
    const more = rivals.length > mostRivals ? ` and ${rivals.length - mostRivals} more` : ''
    return {
      ...match,
      clipId: null,
      by: null,
      reason: `Lines ${first.join(', ')}${more} are all about this clip: only one can be right.`,
    }
  })
}
