import { fileURLToPath } from 'node:url'
import { drizzle, type NodePgDatabase } from 'drizzle-orm/node-postgres'
import { migrate } from 'drizzle-orm/node-postgres/migrator'
import { runMigrations } from 'graphile-worker'
import pg from 'pg'
import * as schema from './schema.ts'

export type Database = NodePgDatabase<typeof schema>
export type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

/** Anything that queries run on: the pool or a transaction. */
export type Queryable = Database | Transaction

export interface Connection {
  readonly database: Database
  readonly pool: pg.Pool
  close(): Promise<void>
}

/** Another database on the same server. @param url of the one */
export function inDatabase(url: string, name: string): string {
  const other = new URL(url)
  other.pathname = `/${encodeURIComponent(name)}`
  return other.href
}

/** Opens a pool. A lost connection is told on stderr and healed by the next query; it never ends the process. */
export function connect(url: string, options: { maximum?: number; name?: string } = {}): Connection {
  const pool = new pg.Pool({
    connectionString: url,
    max: options.maximum ?? 10,
    application_name: options.name ?? 'ennick',
    // A process that stands still in the middle of a transaction must not keep its locks for ever.
    idle_in_transaction_session_timeout: 600_000,
  })
  // The pool hears of lost sessions that nobody uses. One that is lost between two questions of a transaction would end
  // this process; it says so at the next question.
  pool.on('connect', (client) => client.on('error', () => undefined))
  pool.on('error', (error) => {
    // One that is being closed may be ended from the other side first.
    if (!pool.ending) console.error(`A database connection was lost: ${error.message}`)
  })
  return { database: drizzle(pool, { schema }), pool, close: () => pool.end() }
}

/** Any constant does, as long as it is only used here: two processes must not migrate at once. */
const migrationLock = 46_001

/** Where the changes of the tables lie, from the first on. */
export const migrationsFolder = fileURLToPath(new URL('../../migrations', import.meta.url))

/** Brings the tables and the queue's own tables up to date. */
export async function migrateDatabase(url: string): Promise<void> {
  const { database, pool, close } = connect(url, { maximum: 3 })
  const client = await pool.connect()
  try {
    await client.query('select pg_advisory_lock($1)', [migrationLock])
    await migrate(database, { migrationsFolder })
    await runMigrations({ pgPool: pool })
    await client.query('select pg_advisory_unlock($1)', [migrationLock])
  } finally {
    client.release()
    await close()
  }
}
