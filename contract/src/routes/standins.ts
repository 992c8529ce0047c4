import { z } from 'zod'
import { newCut } from '../cuts.ts'
import { baySlot, readyCut, uploadingCamera } from '../standins.ts'
import { route } from './define.ts'

/** The stand-ins of the demo. */
export const standinsRoutes = {
  listBay: route('GET', '/api/standins/bay', 'The stand-in card bay of the demo', { response: z.array(baySlot) }),
  moveBaySlot: route('POST', '/api/standins/bay/:slotName', 'Put a volume into the bay or take it out', {
    params: z.object({ slotName: z.string() }),
    body: z.object({ isIn: z.boolean() }),
    response: z.array(baySlot),
  }),
  readCamera: route('GET', '/api/standins/camera', 'The stand-in camera of the demo', { response: uploadingCamera }),
  uploadFromCamera: route(
    'POST',
    '/api/standins/camera/upload',
    'Let the stand-in camera upload its next small proxy',
    {
      response: uploadingCamera,
    },
  ),
  listReadyCuts: route('GET', '/api/standins/cuts', 'Cuts that the stand-in cutting room has exported', {
    response: z.array(readyCut),
  }),
  readReadyCut: route('GET', '/api/standins/cuts/:fileName', 'The text of such a cut', {
    params: z.object({ fileName: z.string() }),
    response: newCut,
  }),
} as const
