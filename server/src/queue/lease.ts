import { type SQL, sql } from 'drizzle-orm'
import pg from 'pg'
import type { Database } from '../store/database.ts'
import { heldLock, lockClasses } from '../store/lock-classes.ts'

/** What a worker's lease on its own name is called. */
export const leaseOfWorker = (workerId: string): string => `worker ${workerId}`

/** By this name all sessions of a worker are known to the database. */
export const sessionsOfWorker = (workerId: string): string => `ennick worker ${workerId}`

/**
 * A worker's proof of life: an advisory lock for each of its queue identities, held by one database session.
 * When the process dies the session ends, and the locks with it, at once.
 */
export class Lease {
  readonly #client: pg.Client
  /** One question after another: a session answers one at a time. */
  #asked: Promise<unknown> = Promise.resolve()

  private constructor(client: pg.Client) {
    this.#client = client
  }

  /** @param onLost called when the session ends: the worker can no longer prove that it lives and must stop. */
  static async open(url: string, workerId: string, onLost: (reason: Error) => void): Promise<Lease> {
    const client = new pg.Client({
      connectionString: url,
      keepAlive: true,
      application_name: sessionsOfWorker(workerId),
    })
    client.on('error', onLost)
    client.on('end', () => onLost(new Error('the session ended')))
    await client.connect()
    return new Lease(client)
  }

  async hold(name: string): Promise<void> {
    this.#asked = this.#asked.then(() =>
      this.#client.query('select pg_advisory_lock($1, hashtext($2))', [lockClasses.lease, name]),
    )
    await this.#asked
  }

  async close(): Promise<void> {
    this.#client.removeAllListeners('end')
    await this.#client.end()
  }
}

/** Whether somebody holds the lease of a name. @param name an expression of the query */
export const isLeased = (name: SQL): SQL =>
  sql`exists (select 1 from pg_locks where ${heldLock(lockClasses.lease, name)})`

/** Whether the worker of an id lives. @param workerId an expression of the query */
export const isWorkerAlive = (workerId: SQL): SQL => isLeased(sql`${leaseOfWorker('')} || ${workerId}`)

/**
 * A lease ends by time too: a worker that has said nothing for so long stands still, holds what it took, and would hold
 * it for ever. Its sessions are ended, and with them its locks; when it wakes it finds that out, and stops.
 */
export async function endSilentWorkers(database: Database, seconds: number): Promise<void> {
  await database.execute(sql`
    select pg_terminate_backend(session.pid) from workers as worker
    join pg_stat_activity as session on session.application_name = ${sessionsOfWorker('')} || worker.id::text
    where worker.seen_at < now() - ${seconds} * interval '1 second' and session.datname = current_database()`)
}

/** Queue identities that hold jobs while nobody holds their lease: their workers are dead. */
export async function findDeadWorkers(database: Database): Promise<string[]> {
  const { rows } = await database.execute<{ locked_by: string }>(sql`
    select distinct locked_by from graphile_worker._private_jobs as job
    where locked_by is not null and locked_at < now() - interval '2 seconds' and not ${isLeased(sql`job.locked_by`)}`)
  return rows.map((row) => row.locked_by)
}

/** How many worker processes hold a lease now. */
export async function countWorkers(pool: pg.Pool): Promise<number> {
  const result = await pool.query<{ count: string }>(
    `select count(distinct pid) from pg_locks where locktype = 'advisory' and classid = $1 and objsubid = 2 and granted
       and database = (select oid from pg_database where datname = current_database())`,
    [lockClasses.lease],
  )
  return Number(result.rows[0]?.count ?? 0)
}
