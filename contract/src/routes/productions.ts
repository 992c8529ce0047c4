import { z } from 'zod'
import { done, id } from '../common.ts'
import { mend } from '../mend.ts'
import { historyLine, newProduction, production, productionChange, target, today, trial } from '../productions.ts'
import { ofCut, ofProduction, route } from './define.ts'

const historyWords = z.string().max(500).optional().describe('Lines that have each of these words in them')

/** Productions and what was done in them. */
export const productionsRoutes = {
  listProductions: route('GET', '/api/productions', 'All productions', { response: z.array(production) }),
  addProduction: route('POST', '/api/productions', 'Make an empty production', {
    body: newProduction,
    response: production,
  }),
  changeProduction: route(
    'PUT',
    '/api/productions/:productionId',
    'Correct the name, rate or raster of a production, or say what that would change',
    { params: ofProduction, body: newProduction.extend({ apply: z.boolean() }), response: productionChange },
  ),
  setPathMappings: route(
    'PUT',
    '/api/productions/:productionId/path-mappings',
    'Say what other systems’ paths mean here',
    {
      params: ofProduction,
      body: z.object({
        mappings: z.array(z.object({ from: z.string().trim().min(1), to: z.string().trim().min(1) })).max(200),
      }),
      response: production,
    },
  ),
  setProxySuffixes: route(
    'PUT',
    '/api/productions/:productionId/proxy-suffixes',
    'Say by which ends of their names proxies are known',
    {
      params: ofProduction,
      body: z.object({ proxySuffixes: z.array(z.string().trim().min(1).max(40)).max(100) }),
      response: production,
    },
  ),
  setTarget: route(
    'PUT',
    '/api/productions/:productionId/target',
    'Say which room receives what is made, and what it takes; null for none',
    { params: ofProduction, body: z.object({ target: target.nullable() }), response: production },
  ),
  beginTrial: route(
    'POST',
    '/api/cuts/:cutId/begin-trial',
    'Make a production of a cut alone, with what it uses, to try it',
    {
      params: ofCut,
      response: z.object({ productionId: id, cutId: id.describe('The copy of the cut') }),
    },
  ),
  readTrial: route('GET', '/api/productions/:productionId/trial', 'How a trial stands to what it is of', {
    params: ofProduction,
    response: trial,
  }),
  keepTrial: route(
    'POST',
    '/api/productions/:productionId/trial/keep',
    'Do there what was done in a trial, and end it',
    {
      params: ofProduction,
      response: z.object({
        mends: z.array(mend),
        cutId: id.describe('The newest version of the cut there'),
        stays: z.string().nullable().describe('Why the trial is not removed, where it is not'),
      }),
    },
  ),
  endTrial: route('DELETE', '/api/productions/:productionId/trial', 'Throw a trial away: nothing of it is left', {
    params: ofProduction,
    response: done,
  }),
  today: route('GET', '/api/productions/:productionId/today', 'What each stop has waiting', {
    params: ofProduction,
    response: today,
  }),
  history: route('GET', '/api/productions/:productionId/history', 'What was done, newest first', {
    params: ofProduction,
    query: z.object({
      words: historyWords,
      before: z.coerce.number().int().optional().describe('The id of the line before which to go on'),
      limit: z.coerce.number().int().min(1).max(1000).default(200),
    }),
    response: z.array(historyLine),
  }),
  historyTable: route('GET', '/api/productions/:productionId/history.csv', 'The same as a table, oldest first', {
    params: ofProduction,
    query: z.object({ words: historyWords }),
    mediaType: 'text/csv',
  }),
} as const
