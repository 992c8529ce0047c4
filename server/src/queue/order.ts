import { and, eq, inArray, sql } from 'drizzle-orm'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import { enqueue, holdChannel } from './jobs.ts'

/** Keeps waiting jobs from starting and running ones of making where they are, or lets them go on. */
export async function holdJobs(database: Database, productionId: string, jobIds: readonly string[], isHeld: boolean): Promise<void> {
  await database.transaction(async (transaction) => {
    const changed = await transaction
      .update(jobs)
      .set({ isHeld })
      .where(and(eq(jobs.productionId, productionId), eq(jobs.state, 'waiting'), eq(jobs.isHeld, !isHeld), inArray(jobs.id, [...jobIds])))
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
          inArray(jobs.id, [...jobIds]),
        ),
      )
      .returning({ id: jobs.id })
    for (const { id } of running) await transaction.execute(sql`select pg_notify(${holdChannel}, ${id})`)
    await announce(transaction, productionId, 'jobs')
  })
}

/**
 * Puts waiting jobs before another, in the order that they stand in; null puts them last. Jobs that have started since
 * are left out.
 */
export async function moveJobs(database: Database, productionId: string, jobIds: readonly string[], before: string | null): Promise<void> {
  await database.transaction(async (transaction) => {
    const waiting = await transaction
      .select()
      .from(jobs)
      .where(and(eq(jobs.productionId, productionId), eq(jobs.state, 'waiting')))
      .orderBy(jobs.place, jobs.createdAt, jobs.id)
      .for('update')
    const moved = waiting.filter((job) => jobIds.includes(job.id))
    const rest = waiting.filter((job) => !jobIds.includes(job.id))
    const at = rest.findIndex((job) => job.id === before)
    const ordered = at < 0 ? [...rest, ...moved] : [...rest.slice(0, at), ...moved, ...rest.slice(at)]
    for (const [place, job] of ordered.entries()) {
      if (job.place === place) continue
      await transaction.update(jobs).set({ place }).where(eq(jobs.id, job.id))
      if (!job.isHeld) await enqueue(transaction, { ...job, place })
    }
    await announce(transaction, productionId, 'jobs')
  })
}
