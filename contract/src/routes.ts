import { z } from 'zod'
import {
  clipOutline,
  clipPage,
  clipQuery,
  editOutcome,
  editPreview,
  editRequest,
  editStack,
  exportedLog,
  field,
  logExport,
  logImport,
  logPreview,
  needsReport,
  newColumn,
  newSavedSearch,
  newSavedView,
  savedSearch,
  savedView,
  treeNode,
} from './catalogue.ts'
import { clipDetail } from './clips.ts'
import { done, id, nothing } from './common.ts'
import { cut, cutDetail, newCut } from './cuts.ts'
import { decision, handoff, preflight } from './handoffs.ts'
import { assignLut, lut, lutAssignments, lutPreview, lutTrial, newLut } from './luts.ts'
import { job, makeOrder, makePlan, makeRequest, workerStatus } from './make.ts'
import { finding, mend, repointRequest, searchRequest, searchResult } from './mend.ts'
import { ledgerRow, pairDetail } from './pairs.ts'
import { historyLine, newProduction, production, today } from './productions.ts'
import { intakeRule, newIntakeRule, offeredRecipe, recipe, recipeCheck, recipeDraft, recipePreview } from './recipes.ts'
import type { Route } from './route.ts'
import { baySlot, readyCut, uploadingCamera } from './standins.ts'
import {
  changedVolume,
  folderListing,
  jobDetails,
  newVolume,
  offloadPlan,
  offloadRequest,
  otherFiles,
  problemFile,
  proxyOffer,
  volume,
} from './volumes.ts'

type Defaults = { params: typeof nothing; query: typeof nothing; body: typeof nothing; response: typeof nothing }
type Given<T, K extends keyof Defaults> = T extends Record<K, infer S extends z.ZodType> ? S : Defaults[K]

function route<T extends { params?: z.ZodType; query?: z.ZodType; body?: z.ZodType; response?: z.ZodType }>(
  method: Route['method'],
  path: string,
  summary: string,
  shapes: T & { mediaType?: string },
): Route<Given<T, 'params'>, Given<T, 'query'>, Given<T, 'body'>, Given<T, 'response'>> {
  return {
    method,
    path,
    summary,
    params: (shapes.params ?? nothing) as Given<T, 'params'>,
    query: (shapes.query ?? nothing) as Given<T, 'query'>,
    body: (shapes.body ?? nothing) as Given<T, 'body'>,
    response: (shapes.response ?? nothing) as Given<T, 'response'>,
    mediaType: shapes.mediaType ?? null,
  }
}

const ofProduction = z.object({ productionId: id })
const ofRecipe = z.object({ recipeId: z.string() })
const ofVolume = z.object({ volumeId: id })
const ofClip = z.object({ clipId: id })
const ofJob = z.object({ jobId: id })
const ofPair = z.object({ pairId: id })
const ofCut = z.object({ cutId: id })
const ofMend = z.object({ mendId: id })

/** Every route of the API. */
export const routes = {
  health: route('GET', '/api/health', 'Whether the server, its database and a worker are there', {
    response: z.object({ status: z.enum(['ok', 'no database']), version: z.string(), workers: z.int() }),
  }),
  describe: route('GET', '/api/openapi.json', 'This description', { response: z.record(z.string(), z.unknown()) }),
  changes: route('GET', '/api/changes', 'Server-sent events: one for each change, naming its topic', { mediaType: 'text/event-stream' }),

  listProductions: route('GET', '/api/productions', 'All productions', { response: z.array(production) }),
  addProduction: route('POST', '/api/productions', 'Make an empty production', { body: newProduction, response: production }),
  setPathMappings: route('PUT', '/api/productions/:productionId/path-mappings', 'Say what other systems’ paths mean here', {
    params: ofProduction,
    body: z.object({ mappings: z.array(z.object({ from: z.string().trim().min(1), to: z.string().trim().min(1) })).max(200) }),
    response: production,
  }),
  today: route('GET', '/api/productions/:productionId/today', 'What each stop has waiting', { params: ofProduction, response: today }),
  history: route('GET', '/api/productions/:productionId/history', 'What was done, newest first', {
    params: ofProduction,
    response: z.array(historyLine),
  }),

  browseFolder: route('GET', '/api/folders', 'A folder inside the allowed roots', {
    query: z.object({ path: z.string().optional() }),
    response: folderListing,
  }),
  listVolumes: route('GET', '/api/productions/:productionId/volumes', 'The volumes of a production', {
    params: ofProduction,
    response: z.array(volume),
  }),
  addVolume: route('POST', '/api/productions/:productionId/volumes', 'Add a volume', {
    params: ofProduction,
    body: newVolume,
    response: volume,
  }),
  changeVolume: route('PUT', '/api/volumes/:volumeId', 'Change the label, kind, notes or watching of a volume', {
    params: ofVolume,
    body: changedVolume,
    response: volume,
  }),
  moveVolume: route('POST', '/api/volumes/:volumeId/place', 'Say where a volume lies now; its files are looked for there', {
    params: ofVolume,
    body: z.object({ rootPath: z.string().min(1) }),
    response: volume,
  }),
  markVolume: route(
    'POST',
    '/api/volumes/:volumeId/marker',
    'Write a small marker file to a volume, by which it is known wherever it is mounted',
    {
      params: ofVolume,
      response: volume,
    },
  ),
  listOtherFiles: route('GET', '/api/volumes/:volumeId/others', 'Files on a volume that are no media', {
    params: ofVolume,
    response: otherFiles,
  }),
  planOffload: route('POST', '/api/volumes/:volumeId/offload/plan', 'What an offload would copy and what it would leave free', {
    params: ofVolume,
    body: offloadRequest,
    response: offloadPlan,
  }),
  offloadVolume: route('POST', '/api/volumes/:volumeId/offload', 'Copy a volume to storage, read every copy back, write a manifest', {
    params: ofVolume,
    body: offloadRequest,
    response: job,
  }),
  findManifests: route('POST', '/api/volumes/:volumeId/manifests', 'Look for manifests that came with a volume', {
    params: ofVolume,
    response: volume,
  }),
  verifyManifest: route('POST', '/api/manifests/:manifestId/verify', 'Read every file of a manifest and compare', {
    params: z.object({ manifestId: id }),
    response: job,
  }),
  listOffers: route('GET', '/api/productions/:productionId/offers', 'Small proxies that cameras made, with the originals they fit', {
    params: ofProduction,
    response: z.array(proxyOffer),
  }),
  acceptOffers: route('POST', '/api/productions/:productionId/offers', 'Pair camera proxies with their originals', {
    params: ofProduction,
    body: z.object({ fileIds: z.array(id).min(1).max(10_000) }),
    response: z.object({ paired: z.int() }),
  }),
  scanVolume: route('POST', '/api/volumes/:volumeId/scan', 'Scan a volume in the background', { params: ofVolume, response: job }),
  listProblems: route('GET', '/api/volumes/:volumeId/problems', 'Files that are no readable media, with the reason', {
    params: ofVolume,
    response: z.array(problemFile),
  }),

  clipWaveform: route('GET', '/api/clips/:clipId/waveform.png', 'The sound of a clip as a picture, one line for each channel', {
    params: ofClip,
    mediaType: 'image/png',
  }),
  searchClips: route('POST', '/api/productions/:productionId/clips/search', 'A page of clips, found and sorted by the database', {
    params: ofProduction,
    body: clipQuery.extend({
      after: z.string().max(4000).nullable().default(null).describe('`next` of the page before'),
      limit: z.int().min(1).max(500).default(200),
    }),
    response: clipPage,
  }),
  outlineClips: route('POST', '/api/productions/:productionId/clips/outline', 'How many clips a search finds, and where its pages begin', {
    params: ofProduction,
    body: clipQuery.extend({ every: z.int().min(50).max(500).default(200) }),
    response: clipOutline,
  }),
  listClipIds: route('POST', '/api/productions/:productionId/clips/ids', 'The ids of all clips that a search finds, in order', {
    params: ofProduction,
    body: clipQuery,
    response: z.object({ ids: z.array(id) }),
  }),
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
  removeColumn: route('DELETE', '/api/productions/:productionId/columns/:fieldId', 'Remove a column that no clip has a value in', {
    params: z.object({ productionId: id, fieldId: z.string() }),
    response: z.array(field),
  }),
  editClips: route('POST', '/api/productions/:productionId/clips/edit', 'Change what is said of many clips, or show what would change', {
    params: ofProduction,
    body: editRequest,
    response: editPreview,
  }),
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
  listSearches: route('GET', '/api/productions/:productionId/searches', 'Saved searches with how many clips each finds now', {
    params: ofProduction,
    response: z.array(savedSearch),
  }),
  saveSearch: route('POST', '/api/productions/:productionId/searches', 'Save a search, or change the one of that name', {
    params: ofProduction,
    body: newSavedSearch,
    response: savedSearch,
  }),
  removeSearch: route('DELETE', '/api/searches/:searchId', 'Remove a saved search', {
    params: z.object({ searchId: id }),
    response: done,
  }),
  listViews: route('GET', '/api/productions/:productionId/views', 'Saved views', { params: ofProduction, response: z.array(savedView) }),
  saveView: route('POST', '/api/productions/:productionId/views', 'Save a view, or change the one of that name', {
    params: ofProduction,
    body: newSavedView,
    response: savedView,
  }),
  removeView: route('DELETE', '/api/views/:viewId', 'Remove a saved view', { params: z.object({ viewId: id }), response: done }),
  importLog: route('POST', '/api/productions/:productionId/logs/import', 'Show what a log would change, or merge it', {
    params: ofProduction,
    body: logImport,
    response: logPreview,
  }),
  readNeeds: route('POST', '/api/productions/:productionId/clips/needs', 'Which clips need a proxy here, and what each choice costs', {
    params: ofProduction,
    body: z.object({ clipIds: z.array(id).min(1).max(50_000) }),
    response: needsReport,
  }),
  measureClips: route('POST', '/api/productions/:productionId/clips/measure', 'Measure in the background how fast clips decode here', {
    params: ofProduction,
    body: z.object({ clipIds: z.array(id).min(1).max(50_000) }),
    response: job,
  }),
  exportLog: route('POST', '/api/productions/:productionId/logs/export', 'Write a log of some clips', {
    params: ofProduction,
    body: logExport,
    response: exportedLog,
  }),
  readClip: route('GET', '/api/clips/:clipId', 'Everything that is known of a clip', { params: ofClip, response: clipDetail }),
  clipPicture: route('GET', '/api/clips/:clipId/thumbnail.jpg', 'A small picture of a clip', { params: ofClip, mediaType: 'image/jpeg' }),
  clipFilmstrip: route('GET', '/api/clips/:clipId/filmstrip.jpg', 'Eight pictures over the length of a clip', {
    params: ofClip,
    mediaType: 'image/jpeg',
  }),

  listRecipes: route('GET', '/api/recipes', 'The recipes to choose from, each in its newest version', { response: z.array(offeredRecipe) }),
  addRecipe: route('POST', '/api/recipes', 'Keep a new recipe', { body: recipeDraft, response: recipe }),
  changeRecipe: route('PUT', '/api/recipes/:recipeId', 'Keep the next version of a recipe', {
    params: ofRecipe,
    body: recipeDraft,
    response: recipe,
  }),
  retireRecipe: route('DELETE', '/api/recipes/:recipeId', 'Offer a recipe no more; what it made stays', {
    params: ofRecipe,
    response: done,
  }),
  checkRecipe: route('POST', '/api/recipes/check', 'What in a recipe contradicts itself or its purpose', {
    body: recipeDraft,
    response: recipeCheck,
  }),
  previewRecipe: route('POST', '/api/clips/:clipId/recipe-preview', 'A frame of a clip before and after a recipe', {
    params: ofClip,
    body: z.object({ recipe: recipeDraft, atPercent: z.number().min(0).max(100).default(50) }),
    response: recipePreview,
  }),
  listIntakeRules: route('GET', '/api/productions/:productionId/intake-rules', 'Which clips get which recipe as they come in', {
    params: ofProduction,
    response: z.array(intakeRule),
  }),
  addIntakeRule: route('POST', '/api/productions/:productionId/intake-rules', 'Give clips of a saved search a recipe as they come in', {
    params: ofProduction,
    body: newIntakeRule,
    response: intakeRule,
  }),
  removeIntakeRule: route('DELETE', '/api/intake-rules/:ruleId', 'End a rule; what it made stays', {
    params: z.object({ ruleId: id }),
    response: done,
  }),
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
  listLutAssignments: route('GET', '/api/productions/:productionId/luts', 'Which cameras and clips were given a LUT of their own', {
    params: ofProduction,
    response: lutAssignments,
  }),
  assignLuts: route('POST', '/api/productions/:productionId/luts', 'Give cameras and clips a LUT in place of the recipe’s own', {
    params: ofProduction,
    body: assignLut,
    response: done,
  }),
  planMake: route('POST', '/api/productions/:productionId/make/plan', 'What a recipe would make of some clips', {
    params: ofProduction,
    body: makeRequest,
    response: makePlan,
  }),
  sampleSize: route('POST', '/api/clips/:clipId/size-samples', 'Encode parts of an original, to tell what a recipe will weigh', {
    params: ofClip,
    body: z.object({ recipeId: z.string() }),
    response: done,
  }),
  make: route('POST', '/api/productions/:productionId/make', 'Queue one job for each clip', {
    params: ofProduction,
    body: makeOrder,
    response: z.object({ jobs: z.array(job), skipped: z.array(z.string()) }),
  }),
  listWorkers: route('GET', '/api/workers', 'The worker processes that take jobs, and what each does', { response: z.array(workerStatus) }),
  listJobs: route('GET', '/api/productions/:productionId/jobs', 'Jobs, newest first', { params: ofProduction, response: z.array(job) }),
  readJobDetails: route('GET', '/api/jobs/:jobId/details', 'The files that an offload refused or a verification found wrong', {
    params: ofJob,
    response: jobDetails,
  }),
  readJob: route('GET', '/api/jobs/:jobId', 'One job', { params: ofJob, response: job }),
  cancelJob: route('POST', '/api/jobs/:jobId/cancel', 'Stop a job and leave nothing of it', { params: ofJob, response: job }),
  retryJob: route('POST', '/api/jobs/:jobId/retry', 'Run a failed or cancelled job again', {
    params: ofJob,
    body: z.object({ recipe: z.enum(['same', 'newest']).default('same') }),
    response: job,
  }),
  holdJobs: route('POST', '/api/productions/:productionId/jobs/hold', 'Keep waiting jobs from starting, or let them go on', {
    params: ofProduction,
    body: z.object({ jobIds: z.array(id).max(50_000), isHeld: z.boolean() }),
    response: done,
  }),
  moveJobs: route('POST', '/api/productions/:productionId/jobs/move', 'Put waiting jobs before another, or last', {
    params: ofProduction,
    body: z.object({ jobIds: z.array(id).max(50_000), before: id.nullable() }),
    response: done,
  }),

  listPairs: route('GET', '/api/productions/:productionId/pairs', 'The ledger: every original with its made items', {
    params: ofProduction,
    response: z.array(ledgerRow),
  }),
  readPair: route('GET', '/api/pairs/:pairId', 'One pair with its evidence', { params: ofPair, response: pairDetail }),
  check: route('POST', '/api/productions/:productionId/check', 'Look at every known file again', { params: ofProduction, response: job }),
  decodePairs: route('POST', '/api/productions/:productionId/decode', 'Decode made items from their first frame to their last', {
    params: ofProduction,
    body: z.object({ pairIds: z.array(id).min(1).max(100_000) }),
    response: job,
  }),

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

  listFindings: route('GET', '/api/cuts/:cutId/findings', 'Everything wrong with a cut', { params: ofCut, response: z.array(finding) }),
  search: route('POST', '/api/cuts/:cutId/searches', 'Search a folder and all below it for what is lost', {
    params: ofCut,
    body: searchRequest,
    response: job,
  }),
  readSearch: route('GET', '/api/jobs/:jobId/search', 'What a search found: the dry preview of a repoint', {
    params: ofJob,
    response: searchResult,
  }),
  repoint: route('POST', '/api/cuts/:cutId/repoint', 'Point links at found files', { params: ofCut, body: repointRequest, response: mend }),
  makeAgain: route('POST', '/api/cuts/:cutId/make-again', 'Make the proxies of pairs again', {
    params: ofCut,
    body: z.object({ pairIds: z.array(id).min(1) }),
    response: z.array(mend),
  }),
  listMends: route('GET', '/api/productions/:productionId/mends', 'Mends, newest first', { params: ofProduction, response: z.array(mend) }),
  undoMend: route('POST', '/api/mends/:mendId/undo', 'Take a mend back', { params: ofMend, response: mend }),

  readPreflight: route('GET', '/api/cuts/:cutId/preflight', 'The checks before a handoff', { params: ofCut, response: preflight }),
  decide: route('POST', '/api/cuts/:cutId/decisions', 'Record why a blocking finding may stay open', {
    params: ofCut,
    body: decision,
    response: preflight,
  }),
  withdrawDecision: route('POST', '/api/cuts/:cutId/decisions/withdraw', 'Take a decision back', {
    params: ofCut,
    body: z.object({ findingKey: z.string() }),
    response: preflight,
  }),
  listHandoffs: route('GET', '/api/productions/:productionId/handoffs', 'Handoffs, newest first', {
    params: ofProduction,
    response: z.array(handoff),
  }),
  handOff: route('POST', '/api/cuts/:cutId/handoffs', 'Write the cut on its originals, with a report', {
    params: ofCut,
    response: handoff,
  }),
  handoffFile: route('GET', '/api/handoffs/:handoffId/files/:fileName', 'One file of a handoff', {
    params: z.object({ handoffId: id, fileName: z.string() }),
    mediaType: 'application/octet-stream',
  }),

  listBay: route('GET', '/api/standins/bay', 'The stand-in card bay of the demo', { response: z.array(baySlot) }),
  moveBaySlot: route('POST', '/api/standins/bay/:slotName', 'Put a volume into the bay or take it out', {
    params: z.object({ slotName: z.string() }),
    body: z.object({ isIn: z.boolean() }),
    response: z.array(baySlot),
  }),
  readCamera: route('GET', '/api/standins/camera', 'The stand-in camera of the demo', { response: uploadingCamera }),
  uploadFromCamera: route('POST', '/api/standins/camera/upload', 'Let the stand-in camera upload its next small proxy', {
    response: uploadingCamera,
  }),
  listReadyCuts: route('GET', '/api/standins/cuts', 'Cuts that the stand-in cutting room has exported', { response: z.array(readyCut) }),
  readReadyCut: route('GET', '/api/standins/cuts/:fileName', 'The text of such a cut', {
    params: z.object({ fileName: z.string() }),
    response: newCut,
  }),
} as const

export type RouteName = keyof typeof routes

/** What a change touches; the browser reads again what depends on it. */
export const changeTopic = z.enum([
  'productions',
  'recipes',
  'luts',
  'workers',
  'volumes',
  'clips',
  'catalogue',
  'jobs',
  'progress',
  'pairs',
  'cuts',
  'mends',
  'handoffs',
  'bay',
])
export const change = z.object({ topic: changeTopic, productionId: id.nullable() })
export type ChangeTopic = z.infer<typeof changeTopic>
export type Change = z.infer<typeof change>
