import pg from 'pg'

/** Advisory lock class of worker leases; any constant does, as long as it is only used here. */
export const leaseClass = 46_002

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
  static async open(url: string, onLost: (reason: Error) => void): Promise<Lease> {
    const client = new pg.Client({ connectionString: url, keepAlive: true })
    client.on('error', onLost)
    client.on('end', () => onLost(new Error('the session ended')))
    await client.connect()
    return new Lease(client)
  }

  async hold(workerId: string): Promise<void> {
    this.#asked = this.#asked.then(() => this.#client.query('select pg_advisory_lock($1, hashtext($2))', [leaseClass, workerId]))
    await this.#asked
  }

  async close(): Promise<void> {
    this.#client.removeAllListeners('end')
    await this.#client.end()
  }
}

/** Queue identities that hold jobs while nobody holds their lease: their workers are dead. */
export async function findDeadWorkers(pool: pg.Pool): Promise<string[]> {
  const result = await pool.query<{ locked_by: string }>(
    `select distinct locked_by from graphile_worker._private_jobs as job
     where locked_by is not null and locked_at < now() - interval '2 seconds' and not exists (
       select 1 from pg_locks
       where locktype = 'advisory' and classid = $1 and objsubid = 2 and granted
         and objid = (hashtext(job.locked_by)::bigint & 4294967295)::oid
         and database = (select oid from pg_database where datname = current_database()))`,
    [leaseClass],
  )
  return result.rows.map((row) => row.locked_by)
}

/** How many worker processes hold a lease now. */
export async function countWorkers(pool: pg.Pool): Promise<number> {
  const result = await pool.query<{ count: string }>(
    `select count(distinct pid) from pg_locks where locktype = 'advisory' and classid = $1 and objsubid = 2 and granted
       and database = (select oid from pg_database where datname = current_database())`,
    [leaseClass],
  )
  return Number(result.rows[0]?.count ?? 0)
}
