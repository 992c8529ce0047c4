import { eq } from 'drizzle-orm'
import { summarise } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import { type JobResult, jobs } from '../store/job-schema.ts'
import { checkFiles } from './check.ts'
import type { WorkContext } from './context.ts'
import { decodePairs } from './decode-pairs.ts'
import { applyIntakeRules } from './intake-rules.ts'
import { makeItems } from './make.ts'
import { verifyManifest } from './manifest.ts'
import { measureClips } from './measure.ts'
import { offload } from './offload.ts'
import { ProgressMeter } from './progress.ts'
import { scanVolume } from './scan.ts'
import { searchFolder } from './search.ts'

/**
 * Does what a job asks and writes down its result.
 * @throws JobFailure with a plain sentence, or the signal's reason.
 */
export async function performJob(context: WorkContext): Promise<void> {
  const { database, job, pause } = context
  const meter = new ProgressMeter(database, job, pause)
  const result = await perform(context, meter)
  await meter.close()
  // A make job writes its own end, together with the pair that it makes.
  if (result) {
    await database
      .update(jobs)
      .set({ state: 'done', result, summary: summarise(result), endedAt: new Date() })
      .where(eq(jobs.id, job.id))
    await announce(database, job.productionId, 'jobs')
  }
}

async function perform(context: WorkContext, meter: ProgressMeter): Promise<JobResult | null> {
  const { input } = context.job
  switch (input.kind) {
    case 'scan': {
      const result = await scanVolume(context, meter, input.volumeId)
      await applyIntakeRules(context, input.volumeId)
      return result
    }
    case 'check':
      return checkFiles(context, meter, input.volumeId)
    case 'decode':
      return decodePairs(context, meter, input.pairIds)
    case 'search':
      return searchFolder(context, meter, input)
    case 'offload':
      return offload(context, meter, input)
    case 'verify':
      return verifyManifest(context, meter, input.manifestId)
    case 'measure':
      return measureClips(context, meter, input.clipIds)
    case 'make':
      await makeItems(context, meter, input)
      return null
  }
}
