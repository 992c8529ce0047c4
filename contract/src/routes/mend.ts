import { z } from 'zod'
import { id } from '../common.ts'
import { job } from '../make.ts'
import { finding, mend, repointRequest, searchRequest, searchResult } from '../mend.ts'
import { ofCut, ofJob, ofMend, ofProduction, route } from './define.ts'

/** Findings and mends. */
export const mendRoutes = {
  listFindings: route('GET', '/api/cuts/:cutId/findings', 'Everything wrong with a cut', {
    params: ofCut,
    response: z.array(finding),
  }),
  search: route('POST', '/api/cuts/:cutId/searches', 'Search a folder and all below it for what is lost', {
    params: ofCut,
    body: searchRequest,
    response: job,
  }),
  readSearch: route('GET', '/api/jobs/:jobId/search', 'What a search found: the dry preview of a repoint', {
    params: ofJob,
    response: searchResult,
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
  listMends: route('GET', '/api/productions/:productionId/mends', 'Mends, newest first', {
    params: ofProduction,
    response: z.array(mend),
  }),
  undoMend: route('POST', '/api/mends/:mendId/undo', 'Take a mend back', { params: ofMend, response: mend }),
} as const
