import { mkdtemp, realpath, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { basename, dirname, join } from 'node:path'
import { pipeline } from 'node:stream/promises'
import { isNull, sql } from 'drizzle-orm'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import pg from 'pg'
import copyStreams from 'pg-copy-streams'
import { withHeld } from '../disk/held-folder.ts'
import { explainFileError, isFileError, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { type Connection, connect, inDatabase, migrateDatabase } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { jobs } from '../store/job-schema.ts'
import { placements } from '../store/placement-schema.ts'
import { productions } from '../store/schema.ts'
import { workers } from '../store/worker-schema.ts'
import { type LedgerDescription, tablesQuery } from './copy-format.ts'
import { countMigrations, migrationsUntil } from './migrations-until.ts'
import { readLedgerCopy, type TakeTable } from './read-copy.ts'
import { writeLedgerCopy } from './write-copy.ts'

/** What became of bringing a ledger back. */
export interface BroughtBack {
  readonly description: LedgerDescription
  /** The copy of the ledger that was there before; null when there was none, or nothing in it. */
  readonly before: string | null
}

/**
 * Begins with a copy of the ledger: it is read whole into a database of its own, brought up to date, and takes the
 * place of the ledger that is there, of which a copy is made first. No job of it goes on by itself, and no file is
 * touched by what it had begun.
 * @param url of the ledger; nothing may be connected to it
 * @param path of the copy
 * @param keepIn the folder for a copy of the ledger that is there
 * @throws PlainError when that file is no copy of a ledger, or not whole: nothing has changed then
 */
export async function bringBackLedger(url: string, path: string, keepIn: string): Promise<BroughtBack> {
  const real = await realpath(path).catch((error) => {
    throw isFileError(error) ? new PlainError('no-ledger-copy', explainFileError(error, path)) : error
  })
  return withHeld(dirname(real), async (folder) => {
    const read = (take?: TakeTable): Promise<LedgerDescription> => readLedgerCopy(folder, basename(real), take)
    // All of it, before anything is begun.
    const description = await read()
    const name = decodeURIComponent(new URL(url).pathname.slice(1))
    const incoming = `${name}_incoming`
    const admin = connect(inDatabase(url, 'postgres'), { maximum: 1 })
    try {
      await admin.pool.query(`drop database if exists ${pg.escapeIdentifier(incoming)}`)
      await admin.pool.query(`create database ${pg.escapeIdentifier(incoming)}`)
      const fresh = inDatabase(url, incoming)
      await withConnection(fresh, async (connection) => {
        await makeTables(connection, description.migrations)
        const client = await connection.pool.connect()
        await load(client, read).finally(() => client.release(true))
      })
      await migrateDatabase(fresh)
      await withConnection(fresh, (connection) => settle(connection, description))
      const before = await copyLedger(url, keepIn)
      await exchange(admin.pool, name, incoming)
      return { description, before }
    } finally {
      await admin.close()
    }
  })
}

async function withConnection<T>(url: string, task: (connection: Connection) => Promise<T>): Promise<T> {
  const connection = connect(url, { maximum: 3 })
  try {
    return await task(connection)
  } finally {
    await connection.close()
  }
}

async function makeTables({ database }: Connection, seen: readonly number[]): Promise<void> {
  const folder = await mkdtemp(join(tmpdir(), 'ennick-'))
  try {
    await migrationsUntil(seen, folder)
    await migrate(database, { migrationsFolder: folder })
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/** Puts the rows of every table in its place; a copy's names have to be those of the tables that were made. */
async function load(client: pg.PoolClient, read: (take: TakeTable) => Promise<LedgerDescription>): Promise<void> {
  const tables: { name: string; columns: string[] }[] = (await client.query(tablesQuery)).rows
  await client.query('begin')
  // Rows are what they were: no trigger writes anything into them, and their order does not matter.
  await client.query('set local session_replication_role = replica')
  await client.query(`truncate ${tables.map(({ name }) => pg.escapeIdentifier(name)).join(', ')}`)
  const left = new Set(tables.map(({ name }) => name))
  await read(async ({ name, columns, rows }, source) => {
    const table = tables.find((each) => each.name === name)
    if (!table || !left.delete(name) || [...table.columns].sort().join('\0') !== [...columns].sort().join('\0'))
      throw new Error(`table ${name} has other columns than this version of Ennick knows.`)
    const list = columns.map(pg.escapeIdentifier).join(', ')
    const into = client.query(
      copyStreams.from(`copy ${pg.escapeIdentifier(name)} (${list}) from stdin (format csv, header match)`),
    )
    await pipeline(source, into)
    if (into.rowCount !== rows) throw new Error(`table ${name} has ${into.rowCount} rows of ${rows}.`)
  })
  if (left.size) throw new Error(`table ${[...left][0]} is not in it.`)
  await setCounters(client)
  await client.query('commit')
}

/** What counts on goes on behind the highest that was given. */
async function setCounters(client: pg.PoolClient): Promise<void> {
  const counted = await client.query(`
    select * from (
      select quote_ident(c.relname) as table, quote_ident(a.attname) as column,
        pg_get_serial_sequence(quote_ident(c.relname), a.attname) as sequence
      from pg_class c join pg_attribute a on a.attrelid = c.oid
      where c.relnamespace = 'public'::regnamespace and c.relkind = 'r' and a.attnum > 0 and not a.attisdropped
    ) as counted where sequence is not null`)
  for (const { table, column, sequence } of counted.rows)
    await client.query(`select setval($1, greatest(max(${column}), 1), max(${column}) is not null) from ${table}`, [
      sequence,
    ])
}

/**
 * Nothing goes on that was going on then: jobs are for a person to order again, and moves that were open stay as they
 * are on disk, where they may have been done, and more since.
 */
async function settle({ database }: Connection, { madeAt }: LedgerDescription): Promise<void> {
  const told = `The ledger was brought back as it was at ${madeAt.slice(0, 16).replace('T', ' ')} UTC.`
  await database.transaction(async (transaction) => {
    await transaction
      .update(jobs)
      .set({
        state: 'cancelled',
        error: `${told} Order it again if it is still wanted.`,
        endedAt: new Date(),
        isHeld: false,
      })
      .where(sql`${jobs.state} in ('waiting', 'running')`)
    await transaction.update(jobs).set({ waitsForVolume: null })
    await transaction.update(placements).set({ state: 'reversed' }).where(sql`${placements.state} = 'open'`)
    await transaction
      .update(placements)
      .set({ state: 'removed' })
      .where(sql`${placements.kind} = 'discarded' and ${placements.state} = 'done'`)
    await transaction.delete(workers)
    const all = await transaction.select({ id: productions.id }).from(productions).where(isNull(productions.trialOf))
    for (const { id } of all) {
      await writeHistory(transaction, id, 'production', id, told)
      await announce(transaction, id, 'clips')
    }
  })
}

/** Copies the ledger as it is. @returns the copy's name; null when nothing is in the ledger */
export const copyLedger = (url: string, keepIn: string): Promise<string | null> =>
  withConnection(url, async ({ pool }) => {
    const { rows } = await pool.query(`select to_regclass('public.productions') is not null as "hasTables"`)
    if (!rows[0]?.hasTables) return null
    if ((await pool.query('select from productions limit 1')).rowCount === 0) return null
    return withHeld(keepIn, (folder) => writeLedgerCopy(pool, folder), { isOwn: true })
  })

/** Before a newer version of Ennick changes its tables, a ledger in which there is anything is copied as it is. */
export async function copyBeforeMigrating(url: string, keepIn: string): Promise<string | null> {
  const seen = await withConnection(url, async ({ pool }) => {
    const { rows } = await pool.query(`select to_regclass('drizzle.__drizzle_migrations') is not null as "isThere"`)
    if (!rows[0]?.isThere) return null
    return Number((await pool.query('select count(*) from drizzle.__drizzle_migrations')).rows[0].count)
  })
  return seen === null || seen >= (await countMigrations()) ? null : copyLedger(url, keepIn)
}

/** Gives the new database the name of the old one, which goes: a copy of what was in it was made and read back. */
async function exchange(admin: pg.Pool, name: string, incoming: string): Promise<void> {
  const old = `${name}_before`
  await admin.query(`drop database if exists ${pg.escapeIdentifier(old)}`)
  const client = await admin.connect()
  try {
    await client.query('begin')
    await client.query(`alter database ${pg.escapeIdentifier(name)} rename to ${pg.escapeIdentifier(old)}`)
    await client.query(`alter database ${pg.escapeIdentifier(incoming)} rename to ${pg.escapeIdentifier(name)}`)
    await client.query('commit')
  } catch (error) {
    await client.query('rollback')
    if ((error as { code?: string }).code === inUse)
      throw new PlainError('ledger-in-use', 'A worker is connected to the ledger. Stop it, and start again.')
    throw error
  } finally {
    client.release()
  }
  await admin.query(`drop database ${pg.escapeIdentifier(old)}`)
}

/** SQLSTATE 55006, object_in_use. */
const inUse = '55006'
