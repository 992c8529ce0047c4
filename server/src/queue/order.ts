import { and, eq, sql } from 'drizzle-orm'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import { enqueue, holdChannel, runAt } from './jobs.ts'

/** Keeps waiting jobs from starting and running ones of making where they are, or lets them go on. */
export async function holdJobs(
  database: Database,
  productionId: string,
  jobIds: readonly string[],
  isHeld: boolean,
): Promise<void> {
  await database.transaction(async (transaction) => {
    const changed = await transaction
      .update(jobs)
      .set({ isHeld })
      .where(
        and(
          eq(jobs.productionId, productionId),
          eq(jobs.state, 'waiting'),
          eq(jobs.isHeld, !isHeld),
          anyOf(jobs.id, jobIds),
        ),
      )
      .returning()
    for (const job of changed) {
      if (isHeld) await transaction.execute(sql`select graphile_worker.remove_job(${job.id})`)
      else await enqueue(transaction, job)
    }
    const running = await transaction
      .update(jobs)
      .set({ isHeld })
      .where(
        and(
          eq(jobs.productionId, productionId),
          eq(jobs.state, 'running'),
          sql`${jobs.input}->>'kind' = 'make'`,
          eq(jobs.isHeld, !isHeld),
          anyOf(jobs.id, jobIds),
        ),
      )
      .returning({ id: jobs.id })
    for (const { id } of running) await transaction.execute(sql`select pg_notify(${holdChannel}, ${id})`)
    await announce(transaction, productionId, 'jobs')
  })
}

/**
 * Puts waiting jobs before another, in the order that they stand in; null puts them last. They change places among
 * themselves, so that no other production's jobs are overtaken. Jobs that have started since, or are just being taken,
 * are left out.
 */
export async function moveJobs(
  database: Database,
  productionId: string,
  jobIds: readonly string[],
  before: string | null,
): Promise<void> {
  await database.transaction(async (transaction) => {
    const waiting = await transaction
      .select({ id: jobs.id, place: jobs.place })
      .from(jobs)
      .where(
        and(
          eq(jobs.productionId, productionId),
          eq(jobs.state, 'waiting'),
          sql`not exists (select 1 from graphile_worker._private_jobs as entry where entry.key = ${jobs.id}::text
            and entry.locked_at is not null)`,
        ),
      )
      .orderBy(jobs.place)
      .for('update')
    const wanted = new Set(jobIds)
    const moved = waiting.filter((job) => wanted.has(job.id))
    const rest = waiting.filter((job) => !wanted.has(job.id))
    const at = rest.findIndex((job) => job.id === before)
    const ordered = at < 0 ? [...rest, ...moved] : [...rest.slice(0, at), ...moved, ...rest.slice(at)]
    const changed = ordered.flatMap(({ id, place }, index) => {
      const next = (waiting[index] as { place: number }).place
      return next === place ? [] : [{ id, place: next }]
    })
    await transaction.execute(
      sql`update jobs set place = moved.place
        from jsonb_to_recordset(${JSON.stringify(changed)}::jsonb) as moved(id uuid, place bigint)
        where jobs.id = moved.id`,
    )
    // An entry that is taken at this moment keeps its time: what runs is not put on the queue a second time.
    await transaction.execute(
      sql`update graphile_worker._private_jobs as entry set run_at = ${runAt(sql`moved.place`)}
        from jsonb_to_recordset(${JSON.stringify(changed)}::jsonb) as moved(id text, place bigint)
        where entry.key = moved.id and entry.locked_at is null`,
    )
    await announce(transaction, productionId, 'jobs')
  })
}
