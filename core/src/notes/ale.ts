import { formatRate, type Rate, rateFromDecimal } from '../time/index.ts'
import { checkColumns, fitCells, LogError, type LogTable } from './log-table.ts'

/** An ALE: tab-delimited text of three sections, Heading, Column and Data. */
export interface Ale extends LogTable {
  /** The lines of the heading, "FPS" → "25". */
  readonly heading: ReadonlyMap<string, string>
  /** The rate that the heading states. */
  readonly rate: Rate | null
}

/**
 * Reads an ALE.
 * @param text with "\n" line endings
 * @throws LogError for a missing section or a heading that cannot be read, with the line
 */
export function parseAle(text: string): Ale {
  const lines = text.split('\n')
  const find = (title: string, from: number): number =>
    lines.findIndex((line, index) => index >= from && line.trim().toLowerCase() === title)
  const headingAt = find('heading', 0)
  if (headingAt === -1) throw new LogError('It is no ALE: it has no line “Heading”.')
  const columnAt = find('column', headingAt)
  if (columnAt === -1) throw new LogError(`It has no section “Column” after “Heading” on line ${headingAt + 1}.`)
  const dataAt = find('data', columnAt)
  if (dataAt === -1)
    throw new LogError(`It has no section “Data” after “Column” on line ${columnAt + 1}: was it cut off?`)
  const heading = readHeading(lines, headingAt + 1, columnAt)
  const delimiter = heading.get('FIELD_DELIM') ?? 'TABS'
  if (delimiter.toUpperCase() !== 'TABS') throw new LogError(`Its FIELD_DELIM is “${delimiter}”: only TABS is read.`)
  const namesAt = lines.findIndex((line, index) => index > columnAt && index < dataAt && line.trim() !== '')
  if (namesAt === -1) throw new LogError(`Its section “Column” on line ${columnAt + 1} names no columns.`)
  const columns = trimEnd((lines[namesAt] as string).split('\t').map((name) => name.trim()))
  checkColumns(columns, namesAt + 1)
  const problems: string[] = []
  const rows: { line: number; cells: string[] }[] = []
  for (let index = dataAt + 1; index < lines.length; index++) {
    const line = lines[index] as string
    if (line.trim() === '') continue
    rows.push({
      line: index + 1,
      cells: fitCells(
        line.split('\t').map((cell) => cell.trim()),
        columns.length,
        index + 1,
        problems,
      ),
    })
  }
  const fps = heading.get('FPS')
  const rate = fps === undefined ? undefined : rateFromDecimal(Number(fps.replace(',', '.')))
  if (fps !== undefined && !rate) problems.push(`Its heading says FPS “${fps}”, which is no rate.`)
  return { heading, rate: rate ?? null, columns, rows, problems }
}

function readHeading(lines: readonly string[], from: number, to: number): Map<string, string> {
  const heading = new Map<string, string>()
  for (const line of lines.slice(from, to)) {
    const [key = '', ...rest] = line.split('\t')
    if (key.trim() !== '') heading.set(key.trim().toUpperCase(), rest.join('\t').trim())
  }
  return heading
}

/** Writers end the line of names with a tab. */
function trimEnd(cells: readonly string[]): string[] {
  let end = cells.length
  while (end > 0 && cells[end - 1] === '') end--
  return cells.slice(0, end)
}

/** The tracks of a clip as an ALE names them: V, then every channel of its sound, "VA1A2". */
export const aleTracks = (hasPicture: boolean, channels: number): string =>
  `${hasPicture ? 'V' : ''}${Array.from({ length: channels }, (_, index) => `A${index + 1}`).join('')}`

/** What the heading of an ALE says of all its clips. */
export interface AleFormat {
  readonly rate: Rate
  readonly width: number
  readonly height: number
  readonly sampleRate: number
}

/** The name of a raster in an ALE's heading; rasters without one are CUSTOM. */
export function aleVideoFormat(width: number, height: number, rate: Rate): string {
  if (width === 1920 && height === 1080) return '1080'
  if (width === 1280 && height === 720) return '720'
  if (width === 720 && (height === 576 || height === 592) && formatRate(rate) === '25') return 'PAL'
  if (width === 720 && (height === 480 || height === 486) && formatRate(rate) === '29.97') return 'NTSC'
  return 'CUSTOM'
}

/**
 * Writes an ALE.
 * @throws LogError when a column is named twice; tabs and line breaks inside a cell become spaces, as the format has no
 * way to hold them
 */
export function writeAle(format: AleFormat, columns: readonly string[], rows: readonly (readonly string[])[]): string {
  checkColumns(columns, 1)
  const clean = (cell: string): string => cell.replace(/[\t\r\n]+/g, ' ')
  return [
    'Heading',
    'FIELD_DELIM\tTABS',
    `VIDEO_FORMAT\t${aleVideoFormat(format.width, format.height, format.rate)}`,
    `AUDIO_FORMAT\t${format.sampleRate % 1000 === 0 ? format.sampleRate / 1000 : (format.sampleRate / 1000).toFixed(1)}khz`,
    `FPS\t${formatRate(format.rate)}`,
    '',
    'Column',
    columns.map(clean).join('\t'),
    '',
    'Data',
    ...rows.map((row) => row.map(clean).join('\t')),
    '',
  ].join('\n')
}
