/** A log as a table: its columns in order, and for each row the line on which it stands. */
export interface LogTable {
  readonly columns: readonly string[]
  readonly rows: readonly { readonly line: number; readonly cells: readonly string[] }[]
  /** What is odd in it, in words with the line; the rest was read. */
  readonly problems: readonly string[]
}

/** A text that is no such log; the message says why, with the line. */
export class LogError extends Error {
  override readonly name = 'LogError'
}

/** The most columns that a log may have. */
export const mostColumns = 200

/** Checks the heading of a log. @throws LogError for no columns, too many, or two of one name. */
export function checkColumns(columns: readonly string[], line: number): void {
  if (!columns.some((column) => column !== ''))
    throw new LogError(`Line ${line} should name the columns, and names none.`)
  if (columns.length > mostColumns)
    throw new LogError(`Line ${line} names ${columns.length} columns: ${mostColumns} can be read.`)
  const seen = new Set<string>()
  for (const column of columns) {
    const key = column.toLowerCase()
    if (column !== '' && seen.has(key)) throw new LogError(`Line ${line} names the column “${column}” twice.`)
    seen.add(key)
  }
}

/** Cells fitted to the columns: missing ones are empty, surplus ones are told and left out unless they are empty. */
export function fitCells(cells: readonly string[], columns: number, line: number, problems: string[]): string[] {
  const surplus = cells.slice(columns).filter((cell) => cell !== '')
  if (surplus.length)
    problems.push(
      `Line ${line} has ${cells.length} cells for ${columns} columns: “${surplus[0]}” and what follows is left out.`,
    )
  else if (cells.length < columns)
    problems.push(`Line ${line} has ${cells.length} of ${columns} cells: the missing ones are empty.`)
  return Array.from({ length: columns }, (_, index) => cells[index] ?? '')
}
