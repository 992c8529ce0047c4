import { checkColumns, fitCells, LogError, type LogTable } from './log-table.ts'

export type Delimiter = ',' | ';' | '\t'

/**
 * Reads a table of comma, semicolon or tab separated values (RFC 4180), its first line naming the columns.
 * @param text with "\n" line endings
 * @throws LogError for a quote that is never closed, or a heading that cannot be read
 */
export function parseDelimited(text: string): LogTable & { readonly delimiter: Delimiter } {
  const delimiter = guessDelimiter(text)
  const [head, ...body] = readRecords(text, delimiter)
  if (!head) throw new LogError('It is empty.')
  const columns = head.cells.map((cell) => asWritten(cell.trim()))
  while (columns.at(-1) === '') columns.pop()
  checkColumns(columns, head.line)
  const problems: string[] = []
  const rows = body.map(({ line, cells }) => ({
    line,
    cells: fitCells(
      cells.map((cell) => asWritten(cell.trim())),
      columns.length,
      line,
      problems,
    ),
  }))
  return { delimiter, columns, rows, problems }
}

/** The delimiter that the first line holds most of, outside of quotes. */
function guessDelimiter(text: string): Delimiter {
  const counts: Record<Delimiter, number> = { '\t': 0, ';': 0, ',': 0 }
  let isQuoted = false
  for (const character of text) {
    if (character === '"') isQuoted = !isQuoted
    else if (character === '\n' && !isQuoted) break
    else if (!isQuoted && character in counts) counts[character as Delimiter]++
  }
  return (Object.entries(counts) as [Delimiter, number][]).reduce(
    (best, entry) => (entry[1] > best[1] ? entry : best),
    [',', 0],
  )[0]
}

interface LogRecord {
  readonly line: number
  readonly cells: string[]
}

function readRecords(text: string, delimiter: Delimiter): LogRecord[] {
  const records: LogRecord[] = []
  let line = 1
  let at = 0
  while (at < text.length) {
    const start = line
    const cells: string[] = []
    for (;;) {
      let cell = ''
      if (text[at] === '"') {
        for (at++; ; at++) {
          const close = text.indexOf('"', at)
          if (close === -1) throw new LogError(`Line ${line} opens a quote that is never closed.`)
          cell += text.slice(at, close)
          at = close + 1
          if (text[at] !== '"') break
          cell += '"'
        }
        line += cell.split('\n').length - 1
      }
      // What follows a closing quote up to the next delimiter belongs to the cell, as spreadsheets read it.
      let end = at
      while (end < text.length && text[end] !== delimiter && text[end] !== '\n') end++
      cell += text.slice(at, end)
      at = end
      cells.push(cell)
      if (text[at] === delimiter) at++
      else break
    }
    at++
    line++
    if (cells.some((cell) => cell.trim() !== '')) records.push({ line: start, cells })
  }
  return records
}

/**
 * What a spreadsheet takes for an order instead of a text, also behind marks that say it is none; a plain number is a
 * number.
 */
const isRun = (cell: string): boolean => /^'*[=+\-@]/.test(cell.trim()) && !/^[+-]?\d+([.,]\d+)?$/.test(cell.trim())

/**
 * A cell that a spreadsheet would run begins with a mark that makes it a text there, and that reading takes off again.
 */
const asText = (cell: string): string => (isRun(cell) ? `'${cell}` : cell)
const asWritten = (cell: string): string => (cell.startsWith("'") && isRun(cell) ? cell.slice(1) : cell)

/**
 * Writes such a table; cells that hold the delimiter, a quote or a line break are quoted, and those that a spreadsheet
 * would run are marked as text. Reading gives every cell back as it was.
 */
export function writeDelimited(
  delimiter: Delimiter,
  columns: readonly string[],
  rows: readonly (readonly string[])[],
): string {
  const quote = (given: string): string => {
    const cell = asText(given)
    return cell.includes(delimiter) || /["\r\n]|^\s|\s$/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell
  }
  return [columns, ...rows].map((row) => `${row.map(quote).join(delimiter)}\r\n`).join('')
}
