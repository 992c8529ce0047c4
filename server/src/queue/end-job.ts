import type { EvidenceRow } from '@ennick/core'
import type { Queryable } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { JobResult } from '../store/job-types.ts'
import { ofAttempt, Superseded } from './attempt.ts'
import type { JobRow } from './jobs.ts'
import { summarise } from './summary.ts'

/**
 * Writes down that a job is done, with what it came to.
 * @param checks what was compared of what it made
 * @throws Superseded when another attempt has the job now
 */
export async function endJob(
  database: Queryable,
  job: Pick<JobRow, 'id' | 'attempts'>,
  result: JobResult,
  checks: readonly EvidenceRow[] | null = null,
): Promise<void> {
  const [ended] = await database
    .update(jobs)
    .set({
      state: 'done',
      result,
      summary: summarise(result),
      endedAt: new Date(),
      ...(checks && { checks: [...checks] }),
    })
    .where(ofAttempt(job))
    .returning({ id: jobs.id })
  if (!ended) throw new Superseded(`Job ${job.id} was done by another attempt.`)
}
