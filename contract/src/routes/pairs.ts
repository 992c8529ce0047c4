import { z } from 'zod'
import { done, id } from '../common.ts'
import { job } from '../make.ts'
import { ledgerPage, ledgerPurpose, ledgerQuery, ledgerRow, pairDetail, release } from '../pairs.ts'
import { ofPair, ofProduction, route } from './define.ts'

/** The ledger of pairs. */
export const pairsRoutes = {
  listPairs: route('GET', '/api/productions/:productionId/pairs', 'The ledger: every original with its made items', {
    params: ofProduction,
    response: z.array(ledgerRow),
  }),
  searchPairs: route('POST', '/api/productions/:productionId/pairs/search', 'A page of the ledger', {
    params: ofProduction,
    body: ledgerQuery.extend({ from: z.int().min(0).default(0), limit: z.int().min(1).max(500).default(100) }),
    response: ledgerPage,
  }),
  listPairIds: route(
    'POST',
    '/api/productions/:productionId/pairs/ids',
    'The pairs of all that a query of the ledger finds, for which something can be done',
    {
      params: ofProduction,
      body: ledgerQuery.extend({ purpose: ledgerPurpose }),
      response: z.object({ ids: z.array(id) }),
    },
  ),
  readPair: route('GET', '/api/pairs/:pairId', 'One pair with its evidence', { params: ofPair, response: pairDetail }),
  comparePictures: route(
    'POST',
    '/api/productions/:productionId/compare-pictures',
    'Look at the pictures of everything that was not looked at yet, and compare those of pairs with their originals',
    { params: ofProduction, response: job },
  ),
  check: route('POST', '/api/productions/:productionId/check', 'Look at every known file again', {
    params: ofProduction,
    response: job,
  }),
  untiePair: route(
    'POST',
    '/api/pairs/:pairId/untie',
    'Untie a pair, and keep its files: what others made stays where it is, what Ennick made is set apart',
    {
      params: ofPair,
      response: done,
    },
  ),
  release: route(
    'POST',
    '/api/productions/:productionId/release',
    'Free space by deleting what Ennick made and can make again; everything else is kept, with the reason',
    {
      params: ofProduction,
      body: z.object({
        pairIds: z.array(id).min(1).max(100_000),
        apply: z.boolean().describe('False answers with what would be deleted'),
      }),
      response: release,
    },
  ),
  decodePairs: route(
    'POST',
    '/api/productions/:productionId/decode',
    'Decode made items from their first frame to their last',
    {
      params: ofProduction,
      body: z.object({ pairIds: z.array(id).min(1).max(100_000) }),
      response: job,
    },
  ),
} as const
