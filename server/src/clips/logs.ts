import type { LogPreview } from '@ennick/contract'
import {
  allFields,
  checkValue,
  count,
  type Field,
  type LogMatch,
  type LogTable,
  logRoles,
  type Rate,
  ValueError,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { Database } from '../store/database.ts'
import { type ProductionRow, productionRate, readProduction } from '../store/production-row.ts'
import { productions } from '../store/schema.ts'
import { newColumnKey } from './columns.ts'
import { fieldText } from './fields.ts'
import { readIndex } from './index-refresh.ts'
import type { IndexRow } from './index-row.ts'
import { matchRows, readLogFile } from './read-log.ts'
import { type CellChange, readCells, writeEdit } from './write-values.ts'

const shownAtMost = 1000

type Mapping = Readonly<Record<string, string | null>>

/** The word for "a column of its own, of the same title": columns that nobody knows are kept. */
export const ownColumn = 'new'

interface LogChange {
  readonly line: number
  readonly row: IndexRow
  readonly by: string
  readonly target: string
  readonly title: string
  readonly before: string
  readonly after: string
}

/** Shows what a log would change cell by cell, or merges it as one edit. Nothing is written before that. */
export async function importLog(
  database: Database,
  productionId: string,
  input: { fileName: string; content: string; mapping: Mapping | null; apply: boolean },
): Promise<LogPreview> {
  const production = await readProduction(database, productionId)
  const { decoded, log } = await readLogFile(input)
  const rows = await readIndex(database, productionId)
  const byId = new Map(rows.map((row) => [row.clipId, row]))
  const matches = matchRows(log.table, rows, production)
  const fields = new Map(allFields(production.customColumns).map((field) => [field.id, field]))
  const mapping = mappingFor(log.table, input.mapping, production, fields)
  const problems = [...log.table.problems]
  const changes = findChanges(log.table, matches, byId, mapping, fields, productionRate(production), problems)
  if (input.apply) await merge(database, production, input.fileName, mapping, changes)
  const matched = new Set(matches.flatMap(({ clipId }) => clipId ?? []))
  const unmatched = matches.filter((match) => match.clipId === null)
  const roles = new Set(Object.values(logRoles(log.table.columns)))
  return {
    applied: input.apply,
    format: log.format,
    encoding: decoded.encoding,
    rows: log.table.rows.length,
    matched: matched.size,
    columns: log.table.columns.map((title, index) => ({
      title,
      target: mapping[title] ?? null,
      isIdentity: roles.has(index),
      sample: log.table.rows.find((row) => row.cells[index] !== '')?.cells[index]?.slice(0, 80) ?? '',
    })),
    changes: changes.slice(0, shownAtMost).map(({ line, row, by, title, before, after }) => ({
      line,
      clipId: row.clipId,
      name: row.fileName,
      by,
      field: title,
      before,
      after,
    })),
    changesTotal: changes.length,
    unmatched: unmatched
      .slice(0, shownAtMost)
      .map(({ line, label, reason }) => ({ line, label, reason: reason ?? '' })),
    unmatchedTotal: unmatched.length,
    nowhereTotal: matches.filter(({ isNowhere }) => isNowhere).length,
    clipsWithoutRow: rows.length - matched.size,
    problems: problems.slice(0, 200),
  }
}

/** Titles that logs use for fields that Ennick has, besides the fields' own. */
const wellKnown: Readonly<Record<string, string>> = {
  'shoot date': 'day',
  'shoot day': 'day',
  day: 'day',
  comments: 'notes',
  comment: 'notes',
  note: 'notes',
  description: 'notes',
  cam: 'camera',
  circle: 'circled',
  'circle take': 'circled',
}

/**
 * Where each column goes: as asked, else as it went last time, else into the field of its title. What says which clip a
 * row is about, and what the file itself says better, goes nowhere; any other column is kept as a column of its own.
 */
function mappingFor(
  log: LogTable,
  asked: Mapping | null,
  production: ProductionRow,
  fields: ReadonlyMap<string, Field>,
): Record<string, string | null> {
  const roles = new Set(Object.values(logRoles(log.columns)))
  const byTitle = new Map([...fields.values()].map((field) => [field.title.toLowerCase(), field]))
  const mapping: Record<string, string | null> = {}
  log.columns.forEach((title, index) => {
    if (title === '') return
    const remembered =
      asked && title in asked ? asked[title] : title in production.logMapping ? production.logMapping[title] : undefined
    if (
      remembered !== undefined &&
      (remembered === null || remembered === ownColumn || fields.get(remembered)?.from === 'described')
    ) {
      mapping[title] = remembered
      return
    }
    const field = fields.get(wellKnown[title.toLowerCase()] ?? '') ?? byTitle.get(title.toLowerCase())
    mapping[title] =
      field?.from === 'described' && !roles.has(index)
        ? field.id
        : field || roles.has(index) || isOfFile(title)
          ? null
          : ownColumn
  })
  return mapping
}

/** Titles of what a file says better itself. */
const isOfFile = (title: string): boolean =>
  /^(end|duration|tracks|fps|original_video|audio format|audio sr|video|frame ?rate|image size|creation date|drive|color:?space|mark in|mark out)$/i.test(
    title,
  )

function findChanges(
  log: LogTable,
  matches: readonly LogMatch[],
  byId: ReadonlyMap<string, IndexRow>,
  mapping: Mapping,
  fields: ReadonlyMap<string, Field>,
  fallback: Rate,
  problems: string[],
): LogChange[] {
  const changes: LogChange[] = []
  matches.forEach((match, at) => {
    const row = match.clipId === null ? undefined : byId.get(match.clipId)
    if (!row) return
    log.columns.forEach((title, index) => {
      const target = mapping[title]
      const cell = log.rows[at]?.cells[index] ?? ''
      // An empty cell of a log says nothing; it does not wipe what somebody wrote.
      if (target === null || target === undefined || cell === '') return
      const field = target === ownColumn ? null : (fields.get(target) as Field)
      try {
        const rate =
          row.rateNumerator && row.rateDenominator
            ? { numerator: row.rateNumerator, denominator: row.rateDenominator }
            : fallback
        const after = field ? checkValue(field, cell, rate) : cell
        const before = field ? fieldText(row, field) : ''
        if (after !== before)
          changes.push({
            line: match.line,
            row,
            by: match.by ?? '',
            target: field ? target : title,
            title,
            before,
            after,
          })
      } catch (error) {
        if (!(error instanceof ValueError)) throw error
        problems.push(`Line ${match.line}, column “${title}”: ${error.message}`)
      }
    })
  })
  return changes
}

async function merge(
  database: Database,
  production: ProductionRow,
  fileName: string,
  mapping: Mapping,
  changes: readonly LogChange[],
): Promise<void> {
  await database.transaction(async (transaction) => {
    const columns = [...production.customColumns]
    const keys = new Map<string, string>()
    for (const [title, target] of Object.entries(mapping)) {
      if (target !== ownColumn) continue
      const key = newColumnKey(columns)
      columns.push({ key, title, kind: 'text', choices: [] })
      keys.set(title, key)
    }
    const remembered = Object.fromEntries(
      Object.entries(mapping).map(([title, target]) => [title, keys.get(title) ?? target]),
    )
    await transaction
      .update(productions)
      .set({ customColumns: columns, logMapping: { ...production.logMapping, ...remembered } })
      .where(eq(productions.id, production.id))
    const cells = changes.map(({ row, target, title, after }) => ({
      clipId: row.clipId,
      field: keys.get(title) ?? target,
      after,
    }))
    const now = await readCells(transaction, cells)
    await writeEdit(
      transaction,
      production.id,
      `${fileName} merged into ${count(new Set(cells.map((cell) => cell.clipId)).size, 'clip')}`,
      cells.map(
        (cell): CellChange => ({
          ...cell,
          before: now(cell),
          after: cell.after === '' ? null : { value: cell.after, from: 'sidecar' },
        }),
      ),
    )
  })
}
