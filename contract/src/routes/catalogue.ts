import { z } from 'zod'
import {
  awaitedLog,
  clipElsewhere,
  clipOutline,
  clipPage,
  clipQuery,
  editOutcome,
  editPreview,
  editRequest,
  editStack,
  exportedLogs,
  field,
  logExport,
  logImport,
  logPreview,
  needsReport,
  newColumn,
  newSavedSearch,
  newSavedView,
  productionFit,
  savedSearch,
  savedView,
  someClips,
  takenOutClip,
  takeOutPreview,
  treeNode,
} from '../catalogue.ts'
import { done, id } from '../common.ts'
import { job } from '../make.ts'
import { ofProduction, route } from './define.ts'

/** Many clips: searching, describing, logs. */
export const catalogueRoutes = {
  findElsewhere: route(
    'GET',
    '/api/productions/:productionId/elsewhere',
    'Clips of other productions that have these words among their names',
    {
      params: ofProduction,
      query: z.object({ words: z.string().max(200) }),
      response: z.array(clipElsewhere),
    },
  ),
  searchClips: route(
    'POST',
    '/api/productions/:productionId/clips/search',
    'A page of clips, found and sorted by the database',
    {
      params: ofProduction,
      body: clipQuery.extend({
        after: z.string().max(4000).nullable().default(null).describe('`next` of the page before'),
        limit: z.int().min(1).max(500).default(200),
      }),
      response: clipPage,
    },
  ),
  outlineClips: route(
    'POST',
    '/api/productions/:productionId/clips/outline',
    'How many clips a search finds, and where its pages begin',
    {
      params: ofProduction,
      body: clipQuery.extend({ every: z.int().min(50).max(500).default(200) }),
      response: clipOutline,
    },
  ),
  listClipIds: route(
    'POST',
    '/api/productions/:productionId/clips/ids',
    'The ids of all clips that a search finds, in order',
    {
      params: ofProduction,
      body: clipQuery,
      response: z.object({ ids: z.array(id) }),
    },
  ),
  readClips: route('POST', '/api/productions/:productionId/clips/some', 'Clips by their ids', {
    params: ofProduction,
    body: z.object({ clipIds: z.array(id).max(2000) }),
    response: z.object({ rows: clipPage.shape.rows }),
  }),
  listTree: route('GET', '/api/productions/:productionId/clips/tree', 'Clips and bytes by shoot day, camera and reel', {
    params: ofProduction,
    response: z.array(treeNode),
  }),
  listFields: route('GET', '/api/productions/:productionId/fields', 'Everything that is known or said of clips', {
    params: ofProduction,
    response: z.array(field),
  }),
  addColumn: route('POST', '/api/productions/:productionId/columns', 'Make a column', {
    params: ofProduction,
    body: newColumn,
    response: z.array(field),
  }),
  takeOutClips: route(
    'POST',
    '/api/productions/:productionId/clips/take-out',
    'Take clips out of the production, or say what that comes to; no file is touched, and it can be undone',
    { params: ofProduction, body: someClips.extend({ apply: z.boolean() }), response: takeOutPreview },
  ),
  listTakenOut: route('GET', '/api/productions/:productionId/clips/taken-out', 'Clips that were taken out', {
    params: ofProduction,
    response: z.array(takenOutClip),
  }),
  bringBackClips: route(
    'POST',
    '/api/productions/:productionId/clips/bring-back',
    'Bring clips back that were taken out',
    { params: ofProduction, body: someClips, response: done },
  ),
  removeColumn: route(
    'DELETE',
    '/api/productions/:productionId/columns/:fieldId',
    'Remove a column that no clip has a value in',
    {
      params: z.object({ productionId: id, fieldId: z.string() }),
      response: z.array(field),
    },
  ),
  editClips: route(
    'POST',
    '/api/productions/:productionId/clips/edit',
    'Change what is said of many clips, or show what would change',
    {
      params: ofProduction,
      body: editRequest,
      response: editPreview,
    },
  ),
  readEdits: route('GET', '/api/productions/:productionId/edits', 'What undo and redo would do', {
    params: ofProduction,
    response: editStack,
  }),
  undoEdit: route('POST', '/api/productions/:productionId/edits/undo', 'Take the newest edit back', {
    params: ofProduction,
    response: editOutcome,
  }),
  redoEdit: route('POST', '/api/productions/:productionId/edits/redo', 'Do the edit again that was taken back last', {
    params: ofProduction,
    response: editOutcome,
  }),
  listSearches: route(
    'GET',
    '/api/productions/:productionId/searches',
    'Saved searches with how many clips each finds now',
    {
      params: ofProduction,
      response: z.array(savedSearch),
    },
  ),
  saveSearch: route(
    'POST',
    '/api/productions/:productionId/searches',
    'Save a search, or change the one of that name',
    {
      params: ofProduction,
      body: newSavedSearch,
      response: savedSearch,
    },
  ),
  removeSearch: route('DELETE', '/api/searches/:searchId', 'Remove a saved search', {
    params: z.object({ searchId: id }),
    response: done,
  }),
  listViews: route('GET', '/api/productions/:productionId/views', 'Saved views', {
    params: ofProduction,
    response: z.array(savedView),
  }),
  saveView: route('POST', '/api/productions/:productionId/views', 'Save a view, or change the one of that name', {
    params: ofProduction,
    body: newSavedView,
    response: savedView,
  }),
  removeView: route('DELETE', '/api/views/:viewId', 'Remove a saved view', {
    params: z.object({ viewId: id }),
    response: done,
  }),
  importLog: route('POST', '/api/productions/:productionId/logs/import', 'Show what a log would change, or merge it', {
    params: ofProduction,
    body: logImport,
    response: logPreview,
  }),
  holdPlaces: route(
    'POST',
    '/api/productions/:productionId/awaited',
    'Hold a place for each clip that a log names and that is not here',
    { params: ofProduction, body: logImport.pick({ fileName: true, content: true }), response: awaitedLog },
  ),
  listAwaited: route('GET', '/api/productions/:productionId/awaited', 'What logs have announced, and what has come', {
    params: ofProduction,
    response: z.array(awaitedLog),
  }),
  dropAwaited: route('DELETE', '/api/awaited/:awaitedId', 'Hold the places of a log no longer', {
    params: z.object({ awaitedId: id }),
    response: done,
  }),
  readFit: route('GET', '/api/productions/:productionId/fit', 'Does what came fit the production?', {
    params: ofProduction,
    response: productionFit,
  }),
  readNeeds: route(
    'POST',
    '/api/productions/:productionId/clips/needs',
    'Which clips need a proxy here, and what each choice costs',
    {
      params: ofProduction,
      body: z.object({ clipIds: z.array(id).min(1).max(50_000) }),
      response: needsReport,
    },
  ),
  measureClips: route(
    'POST',
    '/api/productions/:productionId/clips/measure',
    'Measure in the background how fast clips decode here',
    {
      params: ofProduction,
      body: z.object({ clipIds: z.array(id).min(1).max(50_000) }),
      response: job,
    },
  ),
  exportLog: route('POST', '/api/productions/:productionId/logs/export', 'Write a log of some clips', {
    params: ofProduction,
    body: logExport,
    response: exportedLogs,
  }),
} as const
