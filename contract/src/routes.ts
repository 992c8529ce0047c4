import { z } from 'zod'
import { clip, clipDetail, reelChange, setReels } from './clips.ts'
import { done, id, nothing } from './common.ts'
import { cut, cutDetail, newCut } from './cuts.ts'
import { decision, handoff, preflight } from './handoffs.ts'
import { job, makePlan, makeRequest, recipe } from './make.ts'
import { finding, mend, repointRequest, searchRequest, searchResult } from './mend.ts'
import { ledgerRow, pairDetail } from './pairs.ts'
import { historyLine, newProduction, production, today } from './productions.ts'
import type { Route } from './route.ts'
import { baySlot, readyCut } from './standins.ts'
import { folderListing, newVolume, problemFile, volume } from './volumes.ts'

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
  scanVolume: route('POST', '/api/volumes/:volumeId/scan', 'Scan a volume in the background', { params: ofVolume, response: job }),
  listProblems: route('GET', '/api/volumes/:volumeId/problems', 'Files that are no readable media, with the reason', {
    params: ofVolume,
    response: z.array(problemFile),
  }),

  listClips: route('GET', '/api/productions/:productionId/clips', 'All originals', { params: ofProduction, response: z.array(clip) }),
  readClip: route('GET', '/api/clips/:clipId', 'Everything that is known of a clip', { params: ofClip, response: clipDetail }),
  clipPicture: route('GET', '/api/clips/:clipId/thumbnail.jpg', 'A small picture of a clip', { params: ofClip, mediaType: 'image/jpeg' }),
  clipFilmstrip: route('GET', '/api/clips/:clipId/filmstrip.jpg', 'Eight pictures over the length of a clip', {
    params: ofClip,
    mediaType: 'image/jpeg',
  }),
  setReels: route('POST', '/api/productions/:productionId/reels', 'Set the reel of many clips from their file names', {
    params: ofProduction,
    body: setReels,
    response: z.object({ applied: z.boolean(), changes: z.array(reelChange), unfit: z.array(z.string()) }),
  }),

  listRecipes: route('GET', '/api/recipes', 'The built-in recipes', { response: z.array(recipe) }),
  planMake: route('POST', '/api/productions/:productionId/make/plan', 'What a recipe would make of some clips', {
    params: ofProduction,
    body: makeRequest,
    response: makePlan,
  }),
  make: route('POST', '/api/productions/:productionId/make', 'Queue one job for each clip', {
    params: ofProduction,
    body: makeRequest,
    response: z.object({ jobs: z.array(job), skipped: z.array(z.string()) }),
  }),
  listJobs: route('GET', '/api/productions/:productionId/jobs', 'Jobs, newest first', { params: ofProduction, response: z.array(job) }),
  readJob: route('GET', '/api/jobs/:jobId', 'One job', { params: ofJob, response: job }),
  cancelJob: route('POST', '/api/jobs/:jobId/cancel', 'Stop a job and leave nothing of it', { params: ofJob, response: job }),
  retryJob: route('POST', '/api/jobs/:jobId/retry', 'Run a failed or cancelled job again', { params: ofJob, response: job }),

  listPairs: route('GET', '/api/productions/:productionId/pairs', 'The ledger: every original with its made items', {
    params: ofProduction,
    response: z.array(ledgerRow),
  }),
  readPair: route('GET', '/api/pairs/:pairId', 'One pair with its evidence', { params: ofPair, response: pairDetail }),
  check: route('POST', '/api/productions/:productionId/check', 'Look at every known file again', { params: ofProduction, response: job }),

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
  listReadyCuts: route('GET', '/api/standins/cuts', 'Cuts that the stand-in cutting room has exported', { response: z.array(readyCut) }),
  readReadyCut: route('GET', '/api/standins/cuts/:fileName', 'The text of such a cut', {
    params: z.object({ fileName: z.string() }),
    response: newCut,
  }),
} as const

export type RouteName = keyof typeof routes

/** What a change touches; the browser reads again what depends on it. */
export const changeTopic = z.enum(['productions', 'volumes', 'clips', 'jobs', 'progress', 'pairs', 'cuts', 'mends', 'handoffs', 'bay'])
export const change = z.object({ topic: changeTopic, productionId: id.nullable() })
export type ChangeTopic = z.infer<typeof changeTopic>
export type Change = z.infer<typeof change>
