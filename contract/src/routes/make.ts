import { z } from 'zod'
import { logImport } from '../catalogue.ts'
import { done, id, pairKind } from '../common.ts'
import {
  clipUnderWay,
  job,
  joinOffer,
  madeListing,
  madePlace,
  makeBatch,
  makeOrder,
  makePlan,
  makeRequest,
  workerStatus,
} from '../make.ts'
import { jobDetails } from '../volumes.ts'
import { ofBatch, ofClip, ofJob, ofJoined, ofProduction, ofVolume, route } from './define.ts'

/** Making, and the queue. */
export const makeRoutes = {
  listMadePlaces: route(
    'GET',
    '/api/productions/:productionId/made-places',
    'Where what Ennick makes lies, the main place first',
    { params: ofProduction, response: z.array(madePlace) },
  ),
  addMadePlace: route(
    'POST',
    '/api/productions/:productionId/made-places',
    'Have new items of some kinds go to a place of their own; what was made already stays where it is',
    {
      params: ofProduction,
      body: z.object({
        folder: z.string().min(1, 'Choose a folder.'),
        label: z.string().trim().min(1, 'Give the place a name.').max(80),
        takes: z.array(pairKind).min(1, 'Tick what goes there.'),
      }),
      response: z.array(madePlace),
    },
  ),
  setMadePlaceRule: route(
    'PUT',
    '/api/productions/:productionId/made-places/rule',
    'Say to which place new items of a kind go',
    {
      params: ofProduction,
      body: z.object({ kind: pairKind, placeId: id }),
      response: z.array(madePlace),
    },
  ),
  removeMadePlace: route('DELETE', '/api/made-places/:volumeId', 'Give up a place in which nothing is', {
    params: ofVolume,
    response: done,
  }),
  lookIntoMadePlace: route(
    'GET',
    '/api/made-places/:volumeId/files',
    'What lies in a place of made files, and what should',
    { params: ofVolume, response: madeListing },
  ),
  listUnderWay: route(
    'GET',
    '/api/productions/:productionId/make/under-way',
    'Clips of which a proxy or an optimized copy is being made, or waits to be',
    { params: ofProduction, response: z.array(clipUnderWay) },
  ),
  changeMadePlace: route(
    'PUT',
    '/api/made-places/:volumeId',
    'Have what Ennick makes go to another folder; what was made already is moved by a person, and known again there',
    {
      params: ofVolume,
      body: z.object({ folder: z.string().min(1, 'Choose a folder.') }),
      response: z.array(madePlace),
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
  readTakenIn: route(
    'POST',
    '/api/batches/:batchId/taken-in',
    'Read a list of what the receiving room has, and tell what of a batch it names',
    { params: ofBatch, body: logImport.pick({ fileName: true, content: true }), response: done },
  ),
  forgetTakenIn: route('DELETE', '/api/batches/:batchId/taken-in', 'Forget the list that was read for a batch', {
    params: ofBatch,
    response: done,
  }),
  offerJoins: route('GET', '/api/batches/:batchId/join', 'What a batch has made that could be one file', {
    params: ofBatch,
    response: z.array(joinOffer),
  }),
  joinBatch: route('POST', '/api/batches/:batchId/join', 'Make one file of what a batch has made with a recipe', {
    params: ofBatch,
    body: z.object({ recipeId: z.string(), name: z.string().trim().min(1, 'Write a name for it.').max(200) }),
    response: job,
  }),
  removeJoined: route('DELETE', '/api/joined/:joinedId', 'Remove a joined file; its parts stay', {
    params: ofJoined,
    response: done,
  }),
  readJoinedList: route('GET', '/api/joined/:joinedId/:list', 'What is where in a joined file: a table or an EDL', {
    params: ofJoined.extend({ list: z.enum(['table', 'edl']) }),
    mediaType: 'text/plain',
  }),
  listWorkers: route('GET', '/api/workers', 'The worker processes that take jobs, and what each does', {
    response: z.array(workerStatus),
  }),
  listJobs: route(
    'GET',
    '/api/productions/:productionId/jobs',
    'Jobs: what runs and waits, what failed and was not done since, and the newest of what ended',
    {
      params: ofProduction,
      response: z.array(job),
    },
  ),
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
  cancelJob: route(
    'POST',
    '/api/jobs/:jobId/cancel',
    'Stop a job and leave nothing of it; or call off one that waits for a volume',
    {
      params: ofJob,
      response: job,
    },
  ),
  dismissJob: route(
    'POST',
    '/api/jobs/:jobId/dismiss',
    'Put a failed job aside with why it failed: it counts as stopped',
    {
      params: ofJob,
      response: job,
    },
  ),
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
