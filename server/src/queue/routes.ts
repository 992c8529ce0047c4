import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { readRecipes } from '../store/recipes.ts'
import { cancelJob, dismissJob, listJobs, presentJob, readJob, retryJob } from './jobs.ts'
import { holdJobs, moveJobs } from './order.ts'
import { listWorkers } from './workers.ts'

/** The queue, whatever is on it. */
export function queueRoutes({ app, database }: Services): void {
  implement(app, 'listWorkers', () => listWorkers(database))
  implement(app, 'listJobs', async ({ params }) => {
    const recipes = await readRecipes(database)
    return (await listJobs(database, params.productionId)).map((job) => presentJob(job, recipes))
  })
  implement(app, 'readJob', async ({ params }) => presentJob(await readJob(database, params.jobId)))
  implement(app, 'cancelJob', async ({ params }) => presentJob(await cancelJob(database, params.jobId)))
  implement(app, 'dismissJob', async ({ params }) => presentJob(await dismissJob(database, params.jobId)))
  implement(app, 'retryJob', async ({ params, body }) =>
    presentJob(await retryJob(database, params.jobId, body.recipe)),
  )
  implement(app, 'holdJobs', async ({ params, body }) => {
    await holdJobs(database, params.productionId, body.jobIds, body.isHeld)
    return { done: true as const }
  })
  implement(app, 'moveJobs', async ({ params, body }) => {
    await moveJobs(database, params.productionId, body.jobIds, body.before)
    return { done: true as const }
  })
}
