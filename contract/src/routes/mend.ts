import { z } from 'zod'
import { id } from '../common.ts'
import { job } from '../make.ts'
import {
  collectionResult,
  eventsMended,
  finding,
  mend,
  mendProof,
  movedOriginal,
  redelivered,
  renamed,
  repointRequest,
  searchRequest,
  searchResult,
  trimmed,
  workStep,
} from '../mend.ts'
import { ofCut, ofJob, ofMend, ofProduction, route } from './define.ts'

/** Findings and mends. */
export const mendRoutes = {
  listFindings: route('GET', '/api/cuts/:cutId/findings', 'Everything wrong with a cut', {
    params: ofCut,
    response: z.array(finding),
  }),
  readOrderOfWork: route('GET', '/api/cuts/:cutId/work', 'What is to be done about a cut, step by step', {
    params: ofCut,
    response: z.array(workStep),
  }),
  trim: route('POST', '/api/cuts/:cutId/trim', 'Let uses give up the frames that are not there, as a new version', {
    params: ofCut,
    body: z.object({ findingKeys: z.array(z.string()).min(1, 'Choose at least one finding.') }),
    response: trimmed,
  }),
  takeApart: route(
    'POST',
    '/api/cuts/:cutId/take-apart',
    'Have uses of joined files name the parts that they show, as a new version; or only say what would become of them',
    {
      params: ofCut,
      body: z.object({
        findingKeys: z.array(z.string()).min(1, 'Choose at least one finding.'),
        apply: z.boolean(),
      }),
      response: eventsMended,
    },
  ),
  replaceFromStart: route(
    'POST',
    '/api/cuts/:cutId/replacements',
    'Have events show another clip from its first frame on, as a new version; or only say what would become of them',
    {
      params: ofCut,
      body: z.object({
        positions: z.array(z.int().nonnegative()).min(1, 'Choose at least one event.').max(1000),
        clipId: id,
        apply: z.boolean(),
      }),
      response: eventsMended,
    },
  ),
  search: route('POST', '/api/cuts/:cutId/searches', 'Search places, one after another, for what is lost', {
    params: ofCut,
    body: searchRequest,
    response: job,
  }),
  readSearch: route('GET', '/api/jobs/:jobId/search', 'What a search found: the dry preview of a repoint', {
    params: ofJob,
    response: searchResult,
  }),
  checkCollection: route(
    'POST',
    '/api/productions/:productionId/collections',
    'Check whether a folder holds all originals of a cut, or of the production',
    {
      params: ofProduction,
      body: z.object({
        folder: z.string().min(1, 'Choose a folder.'),
        cutId: id.nullable().default(null).describe('Null asks for every original of the production'),
      }),
      response: job,
    },
  ),
  readCollection: route('GET', '/api/jobs/:jobId/collection', 'What a folder holds of what is needed', {
    params: ofJob,
    response: collectionResult,
  }),
  repoint: route('POST', '/api/cuts/:cutId/repoint', 'Point links at found files', {
    params: ofCut,
    body: repointRequest,
    response: mend,
  }),
  makeAgain: route('POST', '/api/cuts/:cutId/make-again', 'Make the proxies of pairs again', {
    params: ofCut,
    body: z.object({ pairIds: z.array(id).min(1) }),
    response: z.array(mend),
  }),
  makePairsAgain: route(
    'POST',
    '/api/productions/:productionId/make-again',
    'Make the proxies of pairs again, whatever cut uses them',
    {
      params: ofProduction,
      body: z.object({ pairIds: z.array(id).min(1).max(10_000) }),
      response: z.array(mend),
    },
  ),
  restamp: route(
    'POST',
    '/api/productions/:productionId/restamp',
    'Put copies of adopted proxies in use that have the timecode, drop flag and reel of their originals',
    {
      params: ofProduction,
      body: z.object({ pairIds: z.array(id).min(1).max(10_000) }),
      response: z.array(mend),
    },
  ),
  padRecordings: route(
    'POST',
    '/api/cuts/:cutId/pad',
    'Copy recordings that end less than a frame early, with the silence that is missing',
    {
      params: ofCut,
      body: z.object({ findingKeys: z.array(z.string()).min(1).max(10_000) }),
      response: z.array(mend),
    },
  ),
  renameMade: route(
    'POST',
    '/api/productions/:productionId/rename',
    'Call made items what their recipes would call them now',
    {
      params: ofProduction,
      body: z.object({ pairIds: z.array(id).min(1).max(10_000) }),
      response: renamed,
    },
  ),
  readMendProof: route('GET', '/api/mends/:mendId/proof', 'What a mend came to, read again from disk and cuts', {
    params: ofMend,
    response: mendProof,
  }),
  candidatePicture: route(
    'GET',
    '/api/jobs/:jobId/candidates/:index/frames/:frame',
    'A frame of a file that a search found, as a JPEG',
    {
      params: z.object({
        jobId: id,
        index: z.coerce.number().int().min(0),
        frame: z.coerce.number().int().min(0),
      }),
      mediaType: 'image/jpeg',
    },
  ),
  listLostHere: route('GET', '/api/volumes/:volumeId/lost', 'Lost originals whose very content lies on a volume', {
    params: z.object({ volumeId: id }),
    response: z.array(z.object({ clipId: id, name: z.string(), path: z.string().describe('Where its content lies') })),
  }),
  listMoved: route(
    'GET',
    '/api/volumes/:volumeId/moved',
    'Originals that are gone and whose content lies on a volume elsewhere; of one that is away those with copies here',
    {
      params: z.object({ volumeId: id }),
      response: z.array(movedOriginal),
    },
  ),
  repointMoved: route('POST', '/api/volumes/:volumeId/moved', 'Point those at where their content lies, as one mend', {
    params: z.object({ volumeId: id }),
    response: mend,
  }),
  acceptRedelivered: route(
    'POST',
    '/api/productions/:productionId/redelivered',
    'Take what clips hold now for their originals, as they were delivered again; or only say which',
    {
      params: ofProduction,
      body: z
        .object({
          clipIds: z.array(id).min(1, 'Choose at least one clip.').max(100_000),
          reason: z.string().trim().max(500).default(''),
          apply: z.boolean(),
        })
        .refine(({ apply, reason }) => !apply || reason.length >= 3, 'Say in a few words who delivered it, and why.'),
      response: redelivered,
    },
  ),
  listMends: route('GET', '/api/productions/:productionId/mends', 'Mends, newest first', {
    params: ofProduction,
    query: z.object({ limit: z.coerce.number().int().min(1).max(100_000).default(500) }),
    response: z.array(mend),
  }),
  undoMend: route('POST', '/api/mends/:mendId/undo', 'Take a mend back', { params: ofMend, response: mend }),
} as const
