import { randomUUID } from 'node:crypto'
import { cpus, hostname } from 'node:os'
import type { WorkerStatus } from '@ennick/contract'
import { eq, sql } from 'drizzle-orm'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { workers } from '../store/worker-schema.ts'
import { leaseClass } from './lease.ts'

/** What a worker's lease on its own name is called. */
export const leaseOfWorker = (workerId: string): string => `worker ${workerId}`

/** Enters a worker among those that take jobs. */
export async function signOn(database: Database, makesAtOnce: number): Promise<string> {
  const id = randomUUID()
  await database.insert(workers).values({ id, host: hostname(), cores: cpus().length, makesAtOnce })
  await announce(database, null, 'workers')
  return id
}

export async function signOff(database: Database, workerId: string): Promise<void> {
  await database.update(workers).set({ stoppedAt: new Date() }).where(eq(workers.id, workerId))
  await announce(database, null, 'workers')
}

/** Workers that take jobs, the oldest first, and those that are lost and whose jobs nobody has taken up yet. */
export async function listWorkers(database: Database): Promise<WorkerStatus[]> {
  const { rows } = await database.execute<{
    id: string
    host: string
    cores: number
    makes_at_once: number
    started_at: string
    is_alive: boolean
    jobs: { id: string; title: string }[] | null
  }>(sql`
    select worker.id, worker.host, worker.cores, worker.makes_at_once, worker.started_at, lives.is_alive,
      (select json_agg(json_build_object('id', jobs.id, 'title', jobs.title) order by jobs.started_at)
         from jobs where jobs.worker_id = worker.id and jobs.state = 'running') as jobs
    from workers as worker, lateral (
      select exists (
        select 1 from pg_locks
        where locktype = 'advisory' and classid = ${leaseClass} and objsubid = 2 and granted
          and objid = (hashtext(${leaseOfWorker('')} || worker.id)::bigint & 4294967295)::oid
          and database = (select oid from pg_database where datname = current_database())) as is_alive) as lives
    where worker.stopped_at is null and (lives.is_alive or exists (
      select 1 from jobs where jobs.worker_id = worker.id and jobs.state = 'running'))
    order by worker.started_at`)
  return rows.map((row) => ({
    id: row.id,
    host: row.host,
    cores: row.cores,
    makesAtOnce: row.makes_at_once,
    startedAt: new Date(row.started_at).toISOString(),
    state: row.is_alive ? ('here' as const) : ('lost' as const),
    jobs: row.jobs ?? [],
  }))
}
