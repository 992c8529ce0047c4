import { z } from 'zod'
import { id } from '../common.ts'
import {
  archiveTarget,
  decision,
  finished,
  finishedPlan,
  finishedTarget,
  handoff,
  newArchive,
  newPull,
  newRestore,
  preflight,
  pull,
  pullPlan,
  pullTarget,
  restore,
  restorePlan,
  sinceHandoff,
  writeOptions,
  writtenFormat,
} from '../handoffs.ts'
import { job } from '../make.ts'
import { ofCut, ofProduction, route } from './define.ts'

/** Handoffs. */
export const handoffsRoutes = {
  readPreflight: route('GET', '/api/cuts/:cutId/preflight', 'The checks before a handoff', {
    params: ofCut,
    response: preflight,
  }),
  tryOriginals: route(
    'POST',
    '/api/cuts/:cutId/trial',
    'Decode the originals of a cut at head, quarters and tail, so that none dies in the render',
    { params: ofCut, response: job },
  ),
  decide: route('POST', '/api/cuts/:cutId/decisions', 'Record why a blocking finding may stay open', {
    params: ofCut,
    body: decision,
    response: preflight,
  }),
  withdrawDecision: route('POST', '/api/cuts/:cutId/decisions/withdraw', 'Take a decision back', {
    params: ofCut,
    body: z.object({ findingKey: z.string() }),
    response: preflight,
  }),
  listHandoffs: route('GET', '/api/productions/:productionId/handoffs', 'Handoffs, newest first', {
    params: ofProduction,
    response: z.array(handoff),
  }),
  readSinceHandoff: route('GET', '/api/handoffs/:handoffId/since', 'Whether the cut still says what was handed off', {
    params: z.object({ handoffId: id }),
    response: sinceHandoff,
  }),
  readSinceJob: route(
    'GET',
    '/api/jobs/:jobId/since',
    'Whether the cut still says what was pulled of it, or what a finished file was held against',
    {
      params: z.object({ jobId: id }),
      response: sinceHandoff,
    },
  ),
  readFormats: route('GET', '/api/cuts/:cutId/formats', 'What each format would say of a cut on its originals', {
    params: ofCut,
    query: writeOptions,
    response: z.array(writtenFormat),
  }),
  handOff: route('POST', '/api/cuts/:cutId/handoffs', 'Write the cut on its originals, with a report', {
    params: ofCut,
    body: writeOptions,
    response: handoff,
  }),
  planPull: route('POST', '/api/cuts/:cutId/pull/plan', 'What would be copied for a cut to go elsewhere', {
    params: ofCut,
    body: pullTarget,
    response: pullPlan,
  }),
  pull: route('POST', '/api/cuts/:cutId/pull', 'Copy what a cut needs into a folder, each file read back', {
    params: ofCut,
    body: newPull,
    response: job,
  }),
  listPulls: route('GET', '/api/cuts/:cutId/pulls', 'What was copied for a cut, newest first', {
    params: ofCut,
    response: z.array(pull),
  }),
  planArchive: route(
    'POST',
    '/api/productions/:productionId/archive/plan',
    'What would be copied for a production to come back',
    { params: ofProduction, body: archiveTarget, response: pullPlan },
  ),
  archive: route(
    'POST',
    '/api/productions/:productionId/archive',
    'Copy every original of a production into a folder, each file read back, with what it takes to begin again',
    { params: ofProduction, body: newArchive, response: job },
  ),
  listArchives: route('GET', '/api/productions/:productionId/archives', 'What was archived, newest first', {
    params: ofProduction,
    response: z.array(pull),
  }),
  planRestore: route('POST', '/api/restores/plan', 'What an archive holds, before anything is done', {
    body: z.object({ folder: z.string().min(1, 'Choose the folder of an archive.') }),
    response: restorePlan,
  }),
  restore: route('POST', '/api/restores', 'Put a production together again from its archive, where that lies', {
    body: newRestore,
    response: z.object({ productionId: id, job }),
  }),
  readRestore: route('GET', '/api/productions/:productionId/restore', 'What a production was put together from', {
    params: ofProduction,
    response: restore.nullable(),
  }),
  planFinished: route('POST', '/api/cuts/:cutId/finished/plan', 'What a finished file is, before it is checked', {
    params: ofCut,
    body: finishedTarget,
    response: finishedPlan,
  }),
  checkFinished: route('POST', '/api/cuts/:cutId/finished', 'Hold a finished file against the originals of a cut', {
    params: ofCut,
    body: finishedTarget,
    response: job,
  }),
  listFinished: route('GET', '/api/cuts/:cutId/finished', 'Finished files that were held against a cut, newest first', {
    params: ofCut,
    response: z.array(finished),
  }),
  finishedPicture: route('GET', '/api/jobs/:jobId/finished/:frame', 'A small picture of a finished file', {
    params: z.object({ jobId: id, frame: z.coerce.number().int().min(0) }),
    mediaType: 'image/jpeg',
  }),
  handoffFile: route('GET', '/api/handoffs/:handoffId/files/:fileName', 'One file of a handoff', {
    params: z.object({ handoffId: id, fileName: z.string() }),
    mediaType: 'application/octet-stream',
  }),
} as const
