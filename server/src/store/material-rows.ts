import { groupBy } from '@ennick/core'
import { and, asc, eq, getTableColumns, not, type SQL, sql } from 'drizzle-orm'
import type { PgTable } from 'drizzle-orm/pg-core'
import { anyOf } from './any-of.ts'
import { clipCopies } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'
import { clipFiles, clips, files, pairFiles, pairs } from './schema.ts'
import { isTakenOut } from './taken-out.ts'

type ClipRow = typeof clips.$inferSelect
type FileRow = typeof files.$inferSelect
type PairRow = typeof pairs.$inferSelect

/** The rows of a table that belong to a production, as they were read last. */
interface Kept<Row> {
  /** Tells all rows and their versions: while it is the same, so are they. Null where nobody will ask again. */
  readonly mark: string | null
  readonly rows: readonly Row[]
}

/** The same of a table of large rows, each with the mark of its own version. */
interface KeptById<Row> extends Kept<Row> {
  readonly byId: ReadonlyMap<string, { readonly mark: string; readonly row: Row }>
}

/** The same, put in groups. */
interface Grouped<Row> {
  readonly of: Kept<Row>
  readonly groups: ReadonlyMap<string, readonly Row[]>
}

/** Every row that a production's material is made of, or that of some of its clips. What did not change is the same. */
export interface MaterialRows {
  readonly clips: KeptById<ClipRow>
  readonly files: KeptById<FileRow>
  readonly pairs: KeptById<PairRow>
  readonly pairsOfClip: Grouped<PairRow>
  readonly filesOfClip: Grouped<typeof clipFiles.$inferSelect>
  readonly copiesOfClip: Grouped<typeof clipCopies.$inferSelect>
  readonly filesOfPair: Grouped<typeof pairFiles.$inferSelect>
}

interface Question {
  /** Tables that say which rows are meant, and by what. */
  readonly joins: readonly { readonly table: PgTable; readonly on: SQL }[]
  readonly where: SQL
  readonly order: SQL
  /** Whether nothing is kept of the answer, so that it needs no marks. */
  readonly isOnce: boolean
}

/**
 * @param before what was read of the same production last, from which what has not changed is taken; the same object
 * where nothing has
 */
export async function readRows(
  database: Queryable,
  productionId: string,
  volumeIds: readonly string[],
  clipIds: readonly string[] | null,
  before: MaterialRows | null,
): Promise<MaterialRows> {
  const isOnce = clipIds !== null
  const ofProduction = and(eq(clips.productionId, productionId), not(isTakenOut)) as SQL
  const ofThese = clipIds ? (and(ofProduction, anyOf(clips.id, clipIds)) as SQL) : ofProduction
  const ofActivePairs = and(ofThese, eq(pairs.isActive, true)) as SQL
  const withClip = (clipId: typeof pairs.clipId | typeof clipFiles.clipId | typeof clipCopies.clipId) => ({
    table: clips,
    on: eq(clips.id, clipId),
  })
  const clipRows = await readById<ClipRow>(database, clips, {
    ...{ isOnce, joins: [], where: ofThese, order: sql`${clips.name}, ${clips.id}` },
    before: before?.clips,
  })
  const pairRows = await readById<PairRow>(database, pairs, {
    ...{ isOnce, joins: [withClip(pairs.clipId)], where: ofActivePairs, order: sql`${pairs.createdAt}, ${pairs.id}` },
    before: before?.pairs,
  })
  const filesOfClip = await readLinks<typeof clipFiles.$inferSelect>(database, clipFiles, {
    ...{ isOnce, joins: [withClip(clipFiles.clipId)], where: ofThese, order: asc(clipFiles.ordinal) },
    before: before?.filesOfClip.of,
  })
  const copiesOfClip = await readLinks<typeof clipCopies.$inferSelect>(database, clipCopies, {
    ...{ isOnce, joins: [withClip(clipCopies.clipId)], where: ofThese, order: asc(clipCopies.fileId) },
    before: before?.copiesOfClip.of,
  })
  const filesOfPair = await readLinks<typeof pairFiles.$inferSelect>(database, pairFiles, {
    joins: [{ table: pairs, on: eq(pairs.id, pairFiles.pairId) }, withClip(pairs.clipId)],
    ...{ isOnce, where: ofActivePairs, order: asc(pairFiles.ordinal), before: before?.filesOfPair.of },
  })
  const linked = [filesOfClip, copiesOfClip, filesOfPair].flatMap(({ rows }) => rows.map(({ fileId }) => fileId))
  const fileRows = await readById<FileRow>(database, files, {
    where: clipIds ? anyOf(files.id, linked) : anyOf(files.volumeId, volumeIds),
    ...{ isOnce, joins: [], order: asc(files.id), before: before?.files },
  })
  const ofClip = ({ clipId }: { clipId: string }): string => clipId
  const now: MaterialRows = {
    ...{ clips: clipRows, files: fileRows, pairs: pairRows },
    pairsOfClip: inGroups(pairRows, ofClip, before?.pairsOfClip),
    filesOfClip: inGroups(filesOfClip, ofClip, before?.filesOfClip),
    copiesOfClip: inGroups(copiesOfClip, ofClip, before?.copiesOfClip),
    filesOfPair: inGroups(filesOfPair, ({ pairId }) => pairId, before?.filesOfPair),
  }
  const isSame = before && Object.entries(now).every(([name, rows]) => before[name as keyof MaterialRows] === rows)
  return isSame ? before : now
}

const inGroups = <Row>(kept: Kept<Row>, keyOf: (row: Row) => string, before: Grouped<Row> | undefined): Grouped<Row> =>
  before?.of === kept ? before : { of: kept, groups: groupBy(kept.rows, keyOf) }

/** What PostgreSQL keeps of a row's version: the transaction that wrote it, and its place. */
const versionOf = (table: PgTable): SQL => sql`${table}.xmin::text || ${table}.ctid::text`

const joined = ({ joins }: Question): SQL =>
  sql.join(
    joins.map(({ table, on }) => sql`join ${table} on ${on}`),
    sql` `,
  )

/** A change between this question and the next is read with the next, and read again the next time. */
async function markOf(database: Queryable, table: PgTable, question: Question): Promise<string | null> {
  if (question.isOnce) return null
  const { rows } = await database.execute<{ mark: string }>(sql`
    select count(*)::text || ' ' || coalesce(bit_xor(hashtextextended(${versionOf(table)}, 0)), 0)::text as mark
    from ${table} ${joined(question)} where ${question.where}`)
  return rows[0]?.mark ?? null
}

/** The rows in their order. */
async function select<Row>(database: Queryable, table: PgTable, { joins, where, order }: Question): Promise<Row[]> {
  let query = database.select(getTableColumns(table)).from(table).$dynamic()
  for (const join of joins) query = query.innerJoin(join.table, join.on)
  return (await query.where(where).orderBy(order)) as Row[]
}

/** Large rows by their ids; of those that are kept only what has another version is read. */
async function readById<Row extends { id: string }>(
  database: Queryable,
  table: typeof files | typeof clips | typeof pairs,
  { before, ...question }: Question & { before: KeptById<Row> | undefined },
): Promise<KeptById<Row>> {
  const mark = await markOf(database, table, question)
  if (mark === null) return { mark, byId: new Map(), rows: await select<Row>(database, table, question) }
  if (before?.mark === mark) return before
  const { rows: now } = await database.execute<{ id: string; mark: string }>(sql`
    select ${table.id} as id, ${versionOf(table)} as mark from ${table} ${joined(question)}
    where ${question.where} order by ${question.order}`)
  const fresh = now.filter((row) => before?.byId.get(row.id)?.mark !== row.mark).map(({ id }) => id)
  const read = new Map<string, Row>()
  if (fresh.length) {
    const rows = await database
      .select()
      .from(table as PgTable)
      .where(anyOf(table.id, fresh))
    for (const row of rows as Row[]) read.set(row.id, row)
  }
  const byId = new Map<string, { mark: string; row: Row }>()
  for (const row of now) {
    const known = before?.byId.get(row.id)
    const own = read.get(row.id)
    if (own) byId.set(row.id, { mark: row.mark, row: own })
    else if (known?.mark === row.mark) byId.set(row.id, known)
  }
  return { mark, byId, rows: [...byId.values()].map(({ row }) => row) }
}

/** Small rows, all of them when any has changed; those that say the same stay the same. */
async function readLinks<Row extends Record<string, unknown>>(
  database: Queryable,
  table: typeof clipFiles | typeof clipCopies | typeof pairFiles,
  { before, ...question }: Question & { before: Kept<Row> | undefined },
): Promise<Kept<Row>> {
  const mark = await markOf(database, table, question)
  if (before && before.mark === mark) return before
  const rows = await select<Row>(database, table, question)
  if (!before) return { mark, rows }
  const names = Object.keys(getTableColumns(table))
  const keyOf = (row: Row): string => names.map((name) => String(row[name])).join(' ')
  const known = new Map(before.rows.map((row) => [keyOf(row), row]))
  return { mark, rows: rows.map((row) => known.get(keyOf(row)) ?? row) }
}
