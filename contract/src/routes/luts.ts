import { z } from 'zod'
import { done } from '../common.ts'
import { assignLut, lut, lutAssignments, lutPreview, lutTrial, newLut } from '../luts.ts'
import { ofProduction, route } from './define.ts'

/** Viewing LUTs. */
export const lutsRoutes = {
  listLuts: route('GET', '/api/luts', 'The library of viewing LUTs', { response: z.array(lut) }),
  addLut: route('POST', '/api/luts', 'Add a .cube file to the library', { body: newLut, response: lut }),
  retireLut: route('DELETE', '/api/luts/:lutId', 'Offer a LUT no more; what it was burnt into stays', {
    params: z.object({ lutId: z.string() }),
    response: done,
  }),
  tryLut: route('POST', '/api/luts/try', 'Check a .cube file, and show a frame before and after it', {
    body: lutTrial,
    response: lutPreview,
  }),
  listLutAssignments: route(
    'GET',
    '/api/productions/:productionId/luts',
    'Which cameras and clips were given a LUT of their own',
    {
      params: ofProduction,
      response: lutAssignments,
    },
  ),
  assignLuts: route(
    'POST',
    '/api/productions/:productionId/luts',
    'Give cameras and clips a LUT in place of the recipe’s own',
    {
      params: ofProduction,
      body: assignLut,
      response: done,
    },
  ),
} as const
