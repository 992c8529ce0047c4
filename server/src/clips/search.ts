import type { ClipOutline, SortKey } from '@ennick/contract'
import { type Field, hasPattern, isNumeric, isWellFormed } from '@ennick/core'
import { getTableColumns, type SQL, sql } from 'drizzle-orm'
import { z } from 'zod'
import { PlainError } from '../errors.ts'
import { clipIndex } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { type ClipFilter, expressionOf, filterClause } from './conditions.ts'
import { readFields } from './fields.ts'
import { refreshIndex } from './index-refresh.ts'
import type { IndexRow } from './index-row.ts'

export interface ClipSearch extends ClipFilter {
  readonly sort: readonly SortKey[]
}

/** What the rows are ordered by: the asked fields, then the name, then the id, so that no two rows are equal. */
interface OrderKey {
  readonly expression: SQL
  readonly isText: boolean
  readonly descending: boolean
}

/** A page of rows after a cursor, by keyset: its cost does not grow with how far down it is. */
export async function searchPage(
  database: Database,
  productionId: string,
  search: ClipSearch,
  after: string | null,
  limit: number,
): Promise<{ rows: IndexRow[]; next: string | null }> {
  const { where, keys } = await prepare(database, productionId, search)
  const start = after === null ? sql`` : sql` and ${afterClause(keys, readCursor(after, keys))}`
  // The cursor is worked out for the page's rows alone.
  const found = await ask(
    database,
    sql`select ${clipIndex}.*, ${cursorOf(keys)} as cursor from (select * from ${clipIndex} where ${where}${start}
      order by ${orderBy(keys)} limit ${limit + 1}) ${clipIndex}`,
    search,
  )
  const rows = found.slice(0, limit).map(readRow)
  const last = found.length > limit ? found[limit - 1] : undefined
  return { rows, next: last ? encode(last.cursor) : null }
}

/** How many rows there are and where every page begins, so that a table can jump anywhere and still read by keyset. */
export async function outline(
  database: Database,
  productionId: string,
  search: ClipSearch,
  every: number,
): Promise<ClipOutline> {
  const { where, keys } = await prepare(database, productionId, search)
  const [sum] = await ask(
    database,
    sql`select count(*)::int as total, coalesce(sum(${clipIndex.size}), 0)::bigint as bytes from ${clipIndex}
      where ${where}`,
    search,
  )
  const all = await database.$count(clipIndex, sql`${clipIndex.productionId} = ${productionId}`)
  const total = Number(sum?.total ?? 0)
  const marks =
    total <= every
      ? []
      : await ask(
          database,
          sql`select cursor
            from (select ${cursorOf(keys)} as cursor, row_number() over (order by ${orderBy(keys)}) as place
            from ${clipIndex} where ${where}) ordered where place % ${every} = 0 and place < ${total} order by place`,
          search,
        )
  return { total, all, bytes: Number(sum?.bytes ?? 0), every, cursors: marks.map((row) => encode(row.cursor)) }
}

/** The ids of all rows in order. */
export async function searchIds(database: Database, productionId: string, search: ClipSearch): Promise<string[]> {
  const { where, keys } = await prepare(database, productionId, search)
  const rows = await ask(
    database,
    sql`select clip_id from ${clipIndex} where ${where} order by ${orderBy(keys)}`,
    search,
  )
  return rows.map((row) => String(row.clip_id))
}

/** How many clips hold to a condition. */
export async function countClips(
  database: Database,
  productionId: string,
  filter: ClipFilter,
  fields: ReadonlyMap<string, Field>,
): Promise<number> {
  const [row] = await ask(
    database,
    sql`select count(*)::int as total from ${clipIndex} where ${filterClause(productionId, filter, fields)}`,
    filter,
  )
  return Number(row?.total ?? 0)
}

/** Rows of some clips in the order asked for; ids of no clip of the production are left out. */
export async function rowsOf(
  database: Database,
  productionId: string,
  clipIds: readonly string[],
): Promise<IndexRow[]> {
  await refreshIndex(database, productionId)
  const found = await ask(
    database,
    sql`select clip_index.* from ${clipIndex} join jsonb_array_elements_text(${JSON.stringify(clipIds)}::jsonb)
      with ordinality as wanted(id, place) on wanted.id::uuid = ${clipIndex.clipId}
      where ${clipIndex.productionId} = ${productionId} order by place`,
  )
  return found.map(readRow)
}

async function prepare(
  database: Database,
  productionId: string,
  search: ClipSearch,
): Promise<{ where: SQL; keys: OrderKey[] }> {
  await refreshIndex(database, productionId)
  const fields = await readFields(database, productionId)
  return { where: filterClause(productionId, search, fields), keys: orderKeys(search.sort, fields) }
}

function orderKeys(sort: readonly SortKey[], fields: ReadonlyMap<string, Field>): OrderKey[] {
  const asked = sort.some((key) => key.field === 'name') ? sort : [...sort, { field: 'name', descending: false }]
  const keys = asked.map(({ field: id, descending }): OrderKey => {
    const field = fields.get(id)
    if (!field) throw new PlainError('bad-search', `There is no field “${id}” to sort by.`)
    const isText = !isNumeric(field.kind)
    const value = expressionOf(field)
    return {
      expression: isText ? sql`${value} collate "ennick_natural"` : sql`coalesce(${value}, -1)`,
      isText,
      descending,
    }
  })
  return [
    ...keys,
    { expression: sql`${clipIndex.clipId}`, isText: true, descending: asked.every((key) => key.descending) },
  ]
}

const orderBy = (keys: readonly OrderKey[]): SQL =>
  sql.join(
    keys.map((key) => sql`${key.expression} ${key.descending ? sql`desc` : sql`asc`}`),
    sql`, `,
  )

const cursorOf = (keys: readonly OrderKey[]): SQL =>
  sql`jsonb_build_array(${sql.join(
    keys.map((key) => key.expression),
    sql`, `,
  )})`

type Cursor = readonly (string | number)[]

/** Rows after a cursor. In one direction a row comparison can use an index; in several each key is compared in turn. */
function afterClause(keys: readonly OrderKey[], cursor: Cursor): SQL {
  const values = keys.map((key, index) =>
    key.isText
      ? index === keys.length - 1
        ? sql`${cursor[index]}::uuid`
        : sql`${cursor[index]}::text`
      : sql`${cursor[index]}::double precision`,
  )
  const descending = keys[0]?.descending ?? false
  if (keys.every((key) => key.descending === descending)) {
    const left = sql.join(
      keys.map((key) => key.expression),
      sql`, `,
    )
    return sql`(${left}) ${descending ? sql`<` : sql`>`} (${sql.join(values, sql`, `)})`
  }
  const steps = keys.map((key, index) => {
    const equal = keys.slice(0, index).map((before, at) => sql`${before.expression} = ${values[at]}`)
    return sql`(${sql.join([...equal, sql`${key.expression} ${key.descending ? sql`<` : sql`>`} ${values[index]}`], sql` and `)})`
  })
  return sql`(${sql.join(steps, sql` or `)})`
}

const encode = (cursor: unknown): string => Buffer.from(JSON.stringify(cursor)).toString('base64url')

function readCursor(text: string, keys: readonly OrderKey[]): Cursor {
  try {
    const cursor: unknown = JSON.parse(Buffer.from(text, 'base64url').toString())
    const fits = (value: unknown, key: OrderKey | undefined): boolean =>
      key?.isText ? typeof value === 'string' && !value.includes('\0') && isWellFormed(value) : Number.isFinite(value)
    const isCursor =
      Array.isArray(cursor) && cursor.length === keys.length && cursor.every((value, index) => fits(value, keys[index]))
    if (isCursor && z.uuid().safeParse(cursor.at(-1)).success) return cursor
  } catch {
    // Told below: it is no cursor of this search.
  }
  throw new PlainError('bad-cursor', 'This page mark belongs to another search: begin again at the first page.')
}

const columnNames = Object.entries(getTableColumns(clipIndex)).map(([key, column]) => [key, column.name] as const)

type RawRow = Record<string, unknown>

/** Whole numbers of 64 bits come as text. */
function readRow(raw: RawRow): IndexRow {
  const row: RawRow = {}
  for (const [key, name] of columnNames) row[key] = raw[name]
  row.size = Number(row.size)
  row.dataRate = row.dataRate === null ? null : Number(row.dataRate)
  return row as unknown as IndexRow
}

/** A pattern is run by the database for so long, whatever is written in it. */
const mostSeconds = 10

async function ask(database: Database, query: SQL, filter: ClipFilter | null = null): Promise<RawRow[]> {
  try {
    if (!filter?.condition || !hasPattern(filter.condition)) return (await database.execute(query)).rows
    return await database.transaction(async (transaction) => {
      await transaction.execute(sql.raw(`set local statement_timeout = '${mostSeconds}s'`))
      return (await transaction.execute(query)).rows
    })
  } catch (error) {
    const cause = (error as { cause?: { code?: string; message?: string } }).cause
    if (cause?.code === '57014')
      throw new PlainError(
        'bad-search',
        `The search took longer than ${mostSeconds} seconds and was given up: write a simpler pattern.`,
      )
    if (cause?.code === '2201B')
      throw new PlainError('bad-search', `The pattern cannot be searched for: ${cause.message}.`)
    throw error
  }
}
