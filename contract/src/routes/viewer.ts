import { z } from 'zod'
import { done, id } from '../common.ts'
import { clipView, cutWatch, frameSize, playQuery, shownChoice, shownState } from '../viewer.ts'
import { ofClip, ofCut, ofProduction, route } from './define.ts'

const ofSide = z.object({ clipId: id, sideId: z.union([z.literal('original'), id]) })

/** Pictures and sound as they are looked at. Media are named by what the ledger knows, never by a path. */
export const viewerRoutes = {
  filePicture: route('GET', '/api/files/:fileId/frames/:frame', 'One frame of a file, exactly that one, as a JPEG', {
    params: z.object({ fileId: id, frame: z.coerce.number().int().min(0) }),
    query: z.object({ size: frameSize.default('small') }),
    mediaType: 'image/jpeg',
  }),
  readView: route('GET', '/api/clips/:clipId/view', 'What a clip can be looked at in, and what of it is shown', {
    params: ofClip,
    response: clipView,
  }),
  playSide: route(
    'GET',
    '/api/clips/:clipId/sides/:sideId/play.mp4',
    'A side of a clip, rendered for the screen while it is read: H.264 and FLAC, no wider than 960 pixels',
    { params: ofSide, query: playQuery, mediaType: 'video/mp4' },
  ),
  streamSide: route(
    'GET',
    '/api/clips/:clipId/sides/:sideId/file',
    'The very file of a side that browsers play as it is, by ranges',
    { params: ofSide, mediaType: 'video/mp4' },
  ),
  readShown: route('GET', '/api/productions/:productionId/shown', 'Which files of all clips are looked at', {
    params: ofProduction,
    response: shownState,
  }),
  setShown: route('PUT', '/api/productions/:productionId/shown', 'Choose which files of all clips are looked at', {
    params: ofProduction,
    body: z.object({ shown: shownChoice }),
    response: done,
  }),
  setClipShown: route('PUT', '/api/clips/:clipId/shown', 'Set a clip apart from the choice for all; null ends that', {
    params: ofClip,
    body: z.object({ shown: shownChoice.nullable() }),
    response: done,
  }),
  setMarks: route('PUT', '/api/clips/:clipId/marks', 'Set the in and out points of a clip, in frames from its first', {
    params: ofClip,
    body: z.object({ inFrame: z.int().min(0).nullable(), outFrame: z.int().min(0).nullable() }),
    response: done,
  }),
  addViewNote: route('POST', '/api/clips/:clipId/notes', 'Note something at a frame, with what it was seen on', {
    params: ofClip,
    body: z.object({
      frame: z.int().min(0),
      text: z.string().trim().max(2000),
      kind: z.enum(['note', 'approved']),
      sideId: z.string().max(64).describe('The side that was shown'),
    }),
    response: done,
  }),
  removeViewNote: route('DELETE', '/api/clips/:clipId/notes/:noteId', 'Take a note back', {
    params: z.object({ clipId: id, noteId: id }),
    response: done,
  }),
  readCutWatch: route('GET', '/api/cuts/:cutId/watch', 'The pictures of a cut one after another, as clips and frames', {
    params: ofCut,
    response: cutWatch,
  }),
} as const
