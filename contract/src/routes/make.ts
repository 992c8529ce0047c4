import { z } from 'zod'
import { done, id } from '../common.ts'
import {
  clipUnderWay,
  job,
  madeListing,
  madePlace,
  makeBatch,
  makeOrder,
  makePlan,
  makeRequest,
  workerStatus,
} from '../make.ts'
import { jobDetails } from '../volumes.ts'
import { ofClip, ofJob, ofProduction, route } from './define.ts'

/** Making, and the queue. */
export const makeRoutes = {
  readMadePlace: route('GET', '/api/productions/:productionId/made-place', 'Where what Ennick makes lies', {
    params: ofProduction,
    response: madePlace,
  }),
  lookIntoMadePlace: route(
    'GET',
    '/api/productions/:productionId/made-place/files',
    'What lies in the place of made files, and what should',
    { params: ofProduction, response: madeListing },
  ),
  listUnderWay: route(
    'GET',
    '/api/productions/:productionId/make/under-way',
    'Clips of which a proxy or an optimized copy is being made, or waits to be',
    { params: ofProduction, response: z.array(clipUnderWay) },
  ),
  changeMadePlace: route(
    'PUT',
    '/api/productions/:productionId/made-place',
    'Have what Ennick makes go to another folder; what was made already is moved by a person, and known again there',
    {
      params: ofProduction,
      body: z.object({ folder: z.string().min(1, 'Choose a folder.') }),
      response: madePlace,
    },
  ),
  planMake: route('POST', '/api/productions/:productionId/make/plan', 'What a recipe would make of some clips', {
    params: ofProduction,
    body: makeRequest,
    response: makePlan,
  }),
  sampleSize: route(
    'POST',
    '/api/clips/:clipId/size-samples',
    'Encode parts of an original, to tell what a recipe will weigh',
    {
      params: ofClip,
      body: z.object({ recipeId: z.string() }),
      response: done,
    },
  ),
  make: route('POST', '/api/productions/:productionId/make', 'Queue one job for each clip', {
    params: ofProduction,
    body: makeOrder,
    response: z.object({ jobs: z.array(job), skipped: z.array(z.string()) }),
  }),
  listBatches: route(
    'GET',
    '/api/productions/:productionId/batches',
    'What was asked for at once, and what became of it; the newest first',
    { params: ofProduction, response: z.array(makeBatch) },
  ),
  listWorkers: route('GET', '/api/workers', 'The worker processes that take jobs, and what each does', {
    response: z.array(workerStatus),
  }),
  listJobs: route('GET', '/api/productions/:productionId/jobs', 'Jobs, newest first', {
    params: ofProduction,
    response: z.array(job),
  }),
  readJobDetails: route(
    'GET',
    '/api/jobs/:jobId/details',
    'The files that an offload refused or a verification found wrong',
    {
      params: ofJob,
      response: jobDetails,
    },
  ),
  readJob: route('GET', '/api/jobs/:jobId', 'One job', { params: ofJob, response: job }),
  cancelJob: route('POST', '/api/jobs/:jobId/cancel', 'Stop a job and leave nothing of it', {
    params: ofJob,
    response: job,
  }),
  retryJob: route('POST', '/api/jobs/:jobId/retry', 'Run a failed or cancelled job again', {
    params: ofJob,
    body: z.object({ recipe: z.enum(['same', 'newest']).default('same') }),
    response: job,
  }),
  holdJobs: route(
    'POST',
    '/api/productions/:productionId/jobs/hold',
    'Keep waiting jobs from starting, or let them go on',
    {
      params: ofProduction,
      body: z.object({ jobIds: z.array(id).max(50_000), isHeld: z.boolean() }),
      response: done,
    },
  ),
  moveJobs: route('POST', '/api/productions/:productionId/jobs/move', 'Put waiting jobs before another, or last', {
    params: ofProduction,
    body: z.object({ jobIds: z.array(id).max(50_000), before: id.nullable() }),
    response: done,
  }),
} as const
