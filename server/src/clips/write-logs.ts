import {
  aleTracks,
  type Field,
  formatRate,
  formatTimecode,
  isDropLabel,
  normalName,
  parseTimecode,
  type Rate,
  sameRate,
  writeAle,
  writeDelimited,
} from '@ennick/core'
import { PlainError } from '../errors.ts'
import type { Database } from '../store/database.ts'
import { type ProductionRow, productionRate, readProduction } from '../store/production-row.ts'
import { fieldText, readFields } from './fields.ts'
import type { IndexRow } from './index-row.ts'
import { rowsOf } from './search.ts'

export interface WrittenLog {
  readonly fileName: string
  readonly text: string
}

/**
 * Writes a log of some clips. An ALE has one rate in its heading, so that clips of several rates make an ALE for each;
 * sound alone goes with the production's.
 */
export async function exportLog(
  database: Database,
  productionId: string,
  input: { clipIds: readonly string[]; fields: readonly string[]; format: 'ale' | 'csv' | 'tsv' },
): Promise<WrittenLog[]> {
  const production = await readProduction(database, productionId)
  const known = await readFields(database, productionId)
  const fields = input.fields.flatMap((id) => known.get(id) ?? [])
  const rows = await rowsOf(database, productionId, input.clipIds)
  if (fields.length === 0 || rows.length === 0)
    throw new PlainError('nothing-to-write', 'There is nothing to write: no such clips or columns.')
  if (input.format !== 'ale') {
    const titles = fields.map((field) => field.title)
    const cells = rows.map((row) => fields.map((field) => fieldText(row, field)))
    const text = writeDelimited(input.format === 'csv' ? ',' : '\t', titles, cells)
    return [{ fileName: `${production.name}.${input.format}`, text }]
  }
  const groups = byRate(rows, productionRate(production))
  return groups.map((group) => ({
    fileName: `${production.name}${groups.length > 1 ? ` ${formatRate(group.rate)} fps` : ''}.ale`,
    text: aleOf(group, production, fields, known),
  }))
}

interface RateGroup {
  readonly rate: Rate
  readonly rows: IndexRow[]
}

function byRate(rows: readonly IndexRow[], ofProduction: Rate): RateGroup[] {
  const groups: RateGroup[] = []
  for (const row of rows) {
    const rate =
      row.rateNumerator !== null && row.rateDenominator !== null
        ? { numerator: row.rateNumerator, denominator: row.rateDenominator }
        : ofProduction
    const group = groups.find((each) => sameRate(each.rate, rate))
    if (group) group.rows.push(row)
    else groups.push({ rate, rows: [row] })
  }
  return groups
}

/** Titles that an ALE's readers expect for what they know. */
const aleTitles: Readonly<Record<string, string>> = {
  name: 'Name',
  reel: 'Tape',
  start: 'Start',
  fileName: 'Source File',
  rate: 'FPS',
  soundRoll: 'Soundroll',
  soundTimecode: 'Sound TC',
}

function aleOf(
  { rate, rows }: RateGroup,
  production: ProductionRow,
  asked: readonly Field[],
  known: ReadonlyMap<string, Field>,
): string {
  // Its readers find clips by these; they are there whether asked for or not.
  const usual = ['name', 'reel', 'start'].map((id) => known.get(id) as Field)
  const said = new Set([...usual.map(({ id }) => id), 'duration', 'channels'])
  const own = asked.filter(({ id }) => !said.has(id))
  const titleOf = (field: Field): string => aleTitles[field.id] ?? field.title
  const titles = [...usual.map(titleOf), 'End', 'Duration', 'Tracks']
  const taken = new Set(titles.map(normalName))
  const twice = own.find((field) => taken.has(normalName(titleOf(field))))
  if (twice)
    throw new PlainError(
      'column-twice',
      `An ALE has a column “${titleOf(twice)}” of its own: leave yours out, or give it another title.`,
    )
  return writeAle(
    aleFormat(rows, rate, production),
    [...titles, ...own.map(titleOf)],
    rows.map((row) => [
      ...usual.map((field) => fieldText(row, field)),
      ...spanOf(row, rate),
      aleTracks(row.kind !== 'sound', row.channels),
      ...own.map((field) => fieldText(row, field)),
    ]),
  )
}

/** End and length in labels; empty where the clip has no timecode, or no length. */
function spanOf(row: IndexRow, rate: Rate): [end: string, duration: string] {
  if (row.start === '' || row.frames === null) return ['', '']
  const isDrop = isDropLabel(row.start)
  return [
    formatTimecode(parseTimecode(row.start, rate) + row.frames, rate, isDrop),
    formatTimecode(row.frames, rate, isDrop),
  ]
}

function aleFormat(
  rows: readonly IndexRow[],
  rate: Rate,
  production: ProductionRow,
): { rate: Rate; width: number; height: number; sampleRate: number } {
  const moving = rows.filter((row) => row.rateNumerator !== null)
  const first = moving[0]
  const sameRaster = moving.every((row) => row.width === first?.width && row.height === first?.height)
  return {
    rate,
    width: sameRaster && first?.width ? first.width : production.width,
    height: sameRaster && first?.height ? first.height : production.height,
    sampleRate: rows.find((row) => row.sampleRate !== null)?.sampleRate ?? 48_000,
  }
}
