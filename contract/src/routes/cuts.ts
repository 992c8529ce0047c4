import { z } from 'zod'
import { done, id } from '../common.ts'
import { cut, cutDetail, newCut } from '../cuts.ts'
import { mend } from '../mend.ts'
import { ofCut, ofProduction, route } from './define.ts'

/** Cuts. */
export const cutsRoutes = {
  listCuts: route('GET', '/api/productions/:productionId/cuts', 'The cuts of a production', {
    params: ofProduction,
    response: z.array(cut),
  }),
  addCut: route('POST', '/api/productions/:productionId/cuts', 'Read a cut from the text of a list', {
    params: ofProduction,
    body: newCut,
    response: cut,
  }),
  readCut: route('GET', '/api/cuts/:cutId', 'A cut with its events resolved', { params: ofCut, response: cutDetail }),
  removeCut: route('DELETE', '/api/cuts/:cutId', 'Take a cut out of the production', { params: ofCut, response: done }),
  chooseClip: route('POST', '/api/cuts/:cutId/choice', 'Say which clip some events use', {
    params: ofCut,
    body: z.object({ positions: z.array(z.int().nonnegative()).min(1), clipId: id }),
    response: mend,
  }),
} as const
