import { baseName } from '../naming/index.ts'
import type { LogTable } from '../notes/index.ts'
import type { Cut, CutEvent } from './model.ts'

const columns = ['Name', 'Tape', 'Source File']

/**
 * What a cut list names, as a log: a row for each source, at the line of the first event that has it. A list of events
 * says of no source where it begins or how long it is, so the rows do not either.
 */
export function logOfCut({ events }: Pick<Cut, 'events'>): LogTable {
  const rows = new Map<string, LogTable['rows'][number]>()
  events.forEach((event, index) => {
    const { clipName, reel, path } = event
    const cells = [clipName ?? '', reel ?? '', baseName(path ?? clipName ?? '')]
    const key = JSON.stringify(cells)
    if (cells.some(Boolean) && !rows.has(key)) rows.set(key, { line: lineOf(event) ?? index + 1, cells })
  })
  return { columns, rows: [...rows.values()], problems: [] }
}

/** The line of a list of lines; null in formats that have none. */
function lineOf({ location }: CutEvent): number | null {
  const line = /^line (\d+)/.exec(location)?.[1]
  return line === undefined ? null : Number(line)
}
