import { normalName, sameReel } from '../naming/index.ts'
import { formatTimecode, type Rate } from '../time/index.ts'
import { type LogClip, type LogMatch, logRoles, plainLabel, rowMatcher } from './log-match.ts'
import type { LogTable } from './log-table.ts'

/** Something that was made, as a receiving room would list it. */
export interface PlacedItem extends LogClip {
  readonly rate: Rate
  readonly frames: number
  readonly dropFrame: boolean
  /** All of its channels of sound, over all of its files. */
  readonly channels: number
}

/** What a list of what a receiving room has says of what was made for it. */
export interface TakenIn {
  /** Named, and in nothing that the list says another. */
  readonly seen: readonly string[]
  /** Named, and another in something, which is told. */
  readonly differing: readonly { readonly id: string; readonly line: number; readonly why: string }[]
  /** What the list does not name. */
  readonly missing: readonly string[]
  /** Rows that may be about one of the items, and do not say which. */
  readonly unclear: readonly { readonly line: number; readonly label: string; readonly reason: string }[]
  /** Rows that are about something else. */
  readonly others: number
}

/**
 * Which of some made items a receiving room names in a list of what it has. An item that is there with another start,
 * reel, length or other tracks was taken in otherwise than it was made, or is not it: either is told.
 * @param suffixes endings that names of proxies may have, which a room may leave off
 */
export function readTakenIn(log: LogTable, items: readonly PlacedItem[], suffixes: readonly string[] = []): TakenIn {
  const match = rowMatcher(log.columns, items, suffixes)
  // What is named with another start or reel is found by its name alone.
  const byName = rowMatcher(
    log.columns,
    items.map((item) => ({ ...item, reel: null, start: null })),
    suffixes,
  )
  const rows = log.rows.map((row) => ({ row, found: decided(match(row)) ?? byName(row) }))
  const ofItem = new Map<string, typeof rows>()
  for (const each of rows) {
    const { clipId } = each.found
    if (clipId !== null) ofItem.set(clipId, [...(ofItem.get(clipId) ?? []), each])
  }
  const compare = rowComparer(log.columns)
  const seen: string[] = []
  const differing: TakenIn['differing'][number][] = []
  for (const item of items) {
    const [first, ...more] = ofItem.get(item.id) ?? []
    if (!first) continue
    const lines = more.map(({ row }) => row.line)
    const why = [...compare(first.row, item), ...(lines.length ? [`named again on line ${lines.join(', ')}`] : [])]
    if (why.length) differing.push({ id: item.id, line: first.row.line, why: why.join('; ') })
    else seen.push(item.id)
  }
  const open = rows.flatMap(({ found }) => (found.clipId === null ? [found] : []))
  return {
    ...{ seen, differing, missing: items.flatMap(({ id }) => (ofItem.has(id) ? [] : [id])) },
    unclear: open.flatMap(({ line, label, reason, isNowhere }) =>
      isNowhere || reason === null ? [] : [{ line, label, reason }],
    ),
    others: open.filter(({ isNowhere }) => isNowhere).length,
  }
}

const decided = (match: LogMatch): LogMatch | null => (match.clipId === null ? null : match)

/** Titles under which lists keep what an item is besides its names. */
const titles: Record<'duration' | 'tracks', readonly string[]> = {
  duration: ['duration', 'length', 'dur'],
  tracks: ['tracks', 'track'],
}

function rowComparer(columns: LogTable['columns']): (row: LogTable['rows'][number], item: PlacedItem) => string[] {
  const at = logRoles(columns)
  const names = columns.map((column) => normalName(column.trim()))
  const columnOf = (role: keyof typeof titles): number => names.findIndex((name) => titles[role].includes(name))
  const [duration, tracks] = [columnOf('duration'), columnOf('tracks')]
  return ({ cells }, item) => {
    const cell = (column: number): string => (cells[column] ?? '').trim()
    const why: string[] = []
    const tell = (what: string, found: string, expected: string): number =>
      why.push(`${what} ${found} instead of ${expected}`)
    const [start, reel] = [cell(at.start), cell(at.reel)]
    if (start && item.start && plainLabel(start) !== plainLabel(item.start)) tell('starts at', start, item.start)
    if (reel && item.reel && !sameReel(reel, item.reel)) tell('is reel', reel, item.reel)
    const length = cell(duration)
    const lengths = [true, false].map((drop) => formatTimecode(item.frames, item.rate, drop && item.dropFrame))
    if (/\d/.test(length) && !lengths.some((each) => withoutZeros(each) === withoutZeros(length)))
      tell('is', length, `${lengths[0]} long`)
    const heard = channelsOf(cell(tracks))
    if (heard !== null && heard !== item.channels) tell('has', tracksWord(heard), tracksWord(item.channels))
    return why
  }
}

const tracksWord = (channels: number): string => `${channels} ${channels === 1 ? 'track' : 'tracks'} of sound`

/** "4:00" and "00:00:04:00" are one length. */
const withoutZeros = (label: string): string => plainLabel(label).replace(/^[0:]+(?=.)/, '')

/** How many tracks of sound "VA1A2", "V1A1-4" or "A1,A2" names; null for what is no such list, or names none. */
function channelsOf(text: string): number | null {
  if (!/^(?:[VA]\d*(?:-\d+)?[\s,]*)+$/i.test(text)) return null
  let count = 0
  for (const [, from, to] of text.matchAll(/A(\d+)(?:-(\d+))?/gi)) {
    const more = to === undefined ? 0 : Number(to) - Number(from)
    if (more < 0 || more > mostTracks) return null
    count += 1 + more
  }
  return /a/i.test(text) && count === 0 ? null : count
}

/** A list that names more has something else there. */
const mostTracks = 128
