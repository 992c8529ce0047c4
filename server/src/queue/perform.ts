import { announce } from '../store/announce.ts'
import type { JobInput, JobResult } from '../store/job-types.ts'
import type { WorkContext } from './context.ts'
import { endJob } from './end-job.ts'
import type { ProgressMeter } from './progress.ts'

type Kind = JobInput['kind']
/** Does one kind of work. @returns null when it writes its own end, together with what it has made */
export type Performer<K extends Kind = Kind> = (
  context: WorkContext,
  meter: ProgressMeter,
  input: Extract<JobInput, { kind: K }>,
) => Promise<JobResult | null>

/** Who does which kind of work. */
export type Performers = { readonly [K in Kind]: Performer<K> }

/**
 * Does what a job asks and writes down its result.
 * @throws JobFailure with a plain sentence, or the signal's reason.
 */
export async function performJob(performers: Performers, context: WorkContext, meter: ProgressMeter): Promise<void> {
  const { database, job } = context
  const result = await (performers[job.input.kind] as Performer)(context, meter, job.input)
  await meter.close()
  if (result) {
    await endJob(database, job, result)
    await announce(database, job.productionId, 'jobs')
  }
}
