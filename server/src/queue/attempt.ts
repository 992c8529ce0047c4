import { and, eq, type SQL } from 'drizzle-orm'
import type { Queryable, Transaction } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'

type Attempt = Pick<typeof jobs.$inferSelect, 'id' | 'attempts'>

/** Another attempt has this job now: what this one still has to say of it does not count any more. */
export class Superseded extends Error {
  override readonly name = 'Superseded'
}

/**
 * The job, while this attempt is the one that works on it: the condition of everything that an attempt writes there.
 */
export const ofAttempt = ({ id, attempts }: Attempt): SQL =>
  and(eq(jobs.id, id), eq(jobs.attempts, attempts), eq(jobs.state, 'running')) as SQL

/**
 * Makes sure that an attempt still has its job, before it does what cannot be taken back.
 * @throws Superseded when it has not
 */
export async function assertAttempt(database: Queryable, attempt: Attempt): Promise<void> {
  const [own] = await database.select({ id: jobs.id }).from(jobs).where(ofAttempt(attempt))
  if (!own) throw superseded(attempt)
}

const superseded = ({ id, attempts }: Attempt): Superseded =>
  new Superseded(`Job ${id} is not in its attempt ${attempts} any more.`)

/**
 * Makes sure that an attempt still has its job, and that no other gets it before the transaction ends.
 * @throws Superseded when it has not
 */
export async function holdAttempt(transaction: Transaction, attempt: Attempt): Promise<void> {
  const [held] = await transaction.select({ id: jobs.id }).from(jobs).where(ofAttempt(attempt)).for('update')
  if (!held) throw superseded(attempt)
}
