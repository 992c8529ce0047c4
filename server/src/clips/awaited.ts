import type { AwaitedLog } from '@ennick/contract'
import { formatNumber } from '@ennick/core'
import { asc, eq } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { awaitedLogs } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { type ProductionRow, readProduction } from '../store/production-row.ts'
import { readIndex } from './index-refresh.ts'
import type { IndexRow } from './index-row.ts'
import { matchRows, readLogFile } from './read-log.ts'

const shownAtMost = 200

/** Keeps the rows of a log that are about nothing that is known: each holds a place until its clip comes. */
export async function holdPlaces(
  database: Database,
  productionId: string,
  file: { fileName: string; content: string },
): Promise<AwaitedLog> {
  const production = await readProduction(database, productionId)
  const { log } = await readLogFile(file)
  const rows = await readIndex(database, productionId)
  const matches = matchRows(log.table, rows, production)
  const awaited = log.table.rows.filter((_, index) => matches[index]?.isNowhere)
  if (awaited.length === 0)
    throw new PlainError('nothing-awaited', `Every row of ${file.fileName} is about a clip that is known, or may be.`)
  const { columns } = log.table
  const row = await database.transaction(async (transaction) => {
    const [kept] = await transaction
      .insert(awaitedLogs)
      .values({ productionId, fileName: file.fileName, columns, rows: awaited })
      .returning()
    const places = awaited.length === 1 ? '1 place' : `${formatNumber(awaited.length)} places`
    await writeHistory(
      transaction,
      ...([productionId, 'production', productionId] as const),
      `${places} held for what ${file.fileName} names and is not here.`,
    )
    await announce(transaction, productionId, 'catalogue')
    return kept as typeof awaitedLogs.$inferSelect
  })
  return present(row, rows, production)
}

/** What is awaited, and what of it has come: asked anew each time, by what is known then. */
export async function readAwaited(database: Database, productionId: string): Promise<AwaitedLog[]> {
  const logs = await database
    .select()
    .from(awaitedLogs)
    .where(eq(awaitedLogs.productionId, productionId))
    .orderBy(asc(awaitedLogs.createdAt))
  if (logs.length === 0) return []
  const production = await readProduction(database, productionId)
  const rows = await readIndex(database, productionId)
  return logs.map((log) => present(log, rows, production))
}

/** Holds the places of a log no longer. */
export async function dropAwaited(database: Database, awaitedId: string): Promise<void> {
  await database.transaction(async (transaction) => {
    const [row] = await transaction.delete(awaitedLogs).where(eq(awaitedLogs.id, awaitedId)).returning()
    if (!row) throw notFound('What is awaited')
    const { productionId, fileName } = row
    await writeHistory(
      transaction,
      ...([productionId, 'production', productionId] as const),
      `No places are held any more for what ${fileName} names.`,
    )
    await announce(transaction, productionId, 'catalogue')
  })
}

function present(
  log: typeof awaitedLogs.$inferSelect,
  rows: readonly IndexRow[],
  production: ProductionRow,
): AwaitedLog {
  const matches = matchRows({ columns: log.columns, rows: log.rows, problems: [] }, rows, production)
  const nameOf = new Map(rows.map((row) => [row.clipId, row.fileName]))
  const arrived = matches.flatMap(({ label, clipId }) =>
    clipId ? [{ label, clipId, name: nameOf.get(clipId) ?? '' }] : [],
  )
  const open = matches.filter(({ clipId }) => clipId === null)
  return {
    ...{ id: log.id, fileName: log.fileName, createdAt: log.createdAt.toISOString() },
    awaitedTotal: open.length,
    awaited: open.slice(0, shownAtMost).map(({ line, label, reason, isNowhere }) => ({
      ...{ line, label },
      // Something fits in part now: a person looks at it.
      doubt: isNowhere ? null : reason,
    })),
    arrivedTotal: arrived.length,
    arrived: arrived.slice(0, shownAtMost),
  }
}
