import { z } from 'zod'
import { done, id } from '../common.ts'
import { cut, cutChanges, cutDetail, landedCut, newCut } from '../cuts.ts'
import { mend } from '../mend.ts'
import { ofCut, ofProduction, route } from './define.ts'

/** Cuts. */
export const cutsRoutes = {
  listCuts: route('GET', '/api/productions/:productionId/cuts', 'The cuts of a production', {
    params: ofProduction,
    response: z.array(cut),
  }),
  addCut: route('POST', '/api/productions/:productionId/cuts', 'Read a cut from a list', {
    params: ofProduction,
    body: newCut,
    response: landedCut,
  }),
  readCut: route('GET', '/api/cuts/:cutId', 'A cut with its events resolved', { params: ofCut, response: cutDetail }),
  readCutList: route('GET', '/api/cuts/:cutId/list', 'The list of a cut as it was read: text, or the bytes of an AAF', {
    params: ofCut,
    mediaType: '*/*',
  }),
  compareCuts: route('GET', '/api/cuts/:cutId/changes', 'What changed in a cut since another version of it', {
    params: ofCut,
    query: z.object({ since: id.optional().describe('The version before, unless given') }),
    response: cutChanges.nullable().describe('Null for the first version of a line'),
  }),
  flipTracks: route('POST', '/api/cuts/:cutId/flip', 'Turn the order of some tracks over; again, and it is as it was', {
    params: ofCut,
    body: z.object({
      from: z.string().regex(/^[VA]\d{1,3}$/),
      to: z.string().regex(/^[VA]\d{1,3}$/),
    }),
    response: landedCut,
  }),
  removeCut: route('DELETE', '/api/cuts/:cutId', 'Take a cut out of the production', { params: ofCut, response: done }),
  chooseClips: route('POST', '/api/cuts/:cutId/choice', 'Say which clips some events use, as one mend', {
    params: ofCut,
    body: z.object({
      choices: z.array(z.object({ positions: z.array(z.int().nonnegative()).min(1), clipId: id })).min(1),
    }),
    response: mend,
  }),
} as const
