import { cpus, hostname } from 'node:os'
import type { WorkerStatus } from '@ennick/contract'
import { encoderOf, type PathMapping, type RecipeCodec, recipeCodecs } from '@ennick/core'
import { eq, sql } from 'drizzle-orm'
import { run } from '../engine/process.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { workers } from '../store/worker-schema.ts'
import { isWorkerAlive } from './lease.ts'

/**
 * How many items a machine makes at once. One encode keeps about two cores busy, and not while it starts, ends and is
 * checked: two share them better than one has them (measured in docs/speed.md).
 */
export const makesAtOnceOn = (cores: number): number => (cores === 1 ? 1 : Math.max(2, Math.ceil(cores / 2)))

/** What the encoder of this machine can make. */
export async function readCodecs(): Promise<RecipeCodec[]> {
  const { stdout } = await run('ffmpeg', ['-hide_banner', '-encoders'], { timeoutMilliseconds: 30_000 })
  const encoders = new Set([...stdout.matchAll(/^ V\S* (\S+)/gm)].map((match) => match[1]))
  return recipeCodecs.filter((codec) => encoders.has(encoderOf(codec)))
}

/** What a worker says of itself. */
interface Signature {
  readonly makesAtOnce: number
  readonly codecs: readonly RecipeCodec[]
  readonly pathMap: readonly PathMapping[]
}

/** Enters a worker among those that take jobs. */
export async function signOn(database: Database, id: string, signature: Signature): Promise<void> {
  await database.insert(workers).values({ id, host: hostname(), cores: cpus().length, ...signature })
  await announce(database, null, 'workers')
}

/** Says that a worker lives. */
export async function sayAlive(database: Database, workerId: string): Promise<void> {
  await database.update(workers).set({ seenAt: sql`now()` }).where(eq(workers.id, workerId))
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
    codecs: RecipeCodec[]
    path_map: PathMapping[]
    started_at: string
    is_alive: boolean
    jobs: { id: string; title: string; isPaused: boolean }[] | null
  }>(sql`
    select worker.id, worker.host, worker.cores, worker.makes_at_once, worker.codecs, worker.path_map, worker.started_at, lives.is_alive,
      (select json_agg(json_build_object('id', jobs.id, 'title', jobs.title, 'isPaused', jobs.is_held) order by jobs.started_at)
         from jobs where jobs.worker_id = worker.id and jobs.state = 'running') as jobs
    from workers as worker, lateral (
select ${isWorkerAlive(sql`worker.id::text`)} as is_alive) as lives
    where worker.stopped_at is null and (lives.is_alive or exists (
      select 1 from jobs where jobs.worker_id = worker.id and jobs.state = 'running'))
    order by worker.started_at`)
  return rows.map((row) => ({
    id: row.id,
    host: row.host,
    cores: row.cores,
    makesAtOnce: row.makes_at_once,
    codecs: row.codecs,
    pathMap: row.path_map,
    startedAt: new Date(row.started_at).toISOString(),
    state: row.is_alive ? ('here' as const) : ('lost' as const),
    jobs: row.jobs ?? [],
  }))
}
