import { z } from 'zod'
import { fileRole, id } from '../common.ts'
import { job } from '../make.ts'
import {
  changedVolume,
  fetchPlan,
  fetchRequest,
  folderListing,
  folderSurvey,
  heldElsewhere,
  newVolume,
  offloadPlan,
  offloadRequest,
  otherFiles,
  problemFile,
  proxyOffer,
  removeVolumePreview,
  volume,
  volumeClip,
} from '../volumes.ts'
import { ofProduction, ofVolume, route } from './define.ts'

/** Volumes: folders, scans, offloads, manifests. */
export const volumesRoutes = {
  browseFolder: route('GET', '/api/folders', 'A folder inside the allowed roots', {
    query: z.object({ path: z.string().optional() }),
    response: folderListing,
  }),
  listAllowedFolders: route('GET', '/api/folders/allowed', 'The folders that volumes may lie in', {
    response: z.array(z.object({ path: z.string(), isHere: z.boolean() })),
  }),
  surveyFolder: route('GET', '/api/folders/survey', 'What lies in a folder and below it, before anything is read', {
    query: z.object({ path: z.string().min(1) }),
    response: folderSurvey,
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
  declareRole: route(
    'PUT',
    '/api/volumes/:volumeId/role',
    'Say what the files in a place are: the whole volume, a folder, or one file; null takes it back',
    {
      params: ofVolume,
      body: z.object({ path: z.string().max(4096), role: fileRole.nullable() }),
      response: volume,
    },
  ),
  moveVolume: route(
    'POST',
    '/api/volumes/:volumeId/place',
    'Say where a volume lies now; its files are looked for there',
    {
      params: ofVolume,
      body: z.object({ rootPath: z.string().min(1) }),
      response: volume,
    },
  ),
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
  listVolumeClips: route('GET', '/api/volumes/:volumeId/clips', 'The clips on a volume, to be taken or left', {
    params: ofVolume,
    response: z.array(volumeClip),
  }),
  planOffload: route(
    'POST',
    '/api/volumes/:volumeId/offload/plan',
    'What an offload would copy and what it would leave free',
    {
      params: ofVolume,
      body: offloadRequest,
      response: offloadPlan,
    },
  ),
  offloadVolume: route(
    'POST',
    '/api/volumes/:volumeId/offload',
    'Copy a volume to storage, read every copy back, write a manifest',
    {
      params: ofVolume,
      body: offloadRequest,
      response: job,
    },
  ),
  planFetch: route(
    'POST',
    '/api/volumes/:volumeId/fetch/plan',
    'What a list in a store names, and whether there is room for it here',
    { params: ofVolume, body: fetchRequest, response: fetchPlan },
  ),
  fetchToVolume: route(
    'POST',
    '/api/volumes/:volumeId/fetch',
    'Fetch what a list in a store names in the background, each file held against its checksum; with its state',
    { params: ofVolume, body: fetchRequest, response: job },
  ),
  readHeldElsewhere: route(
    'GET',
    '/api/volumes/:volumeId/elsewhere',
    'What is on a card now, file by file, and where else each was copied to and read back: before it is formatted',
    { params: ofVolume, response: heldElsewhere },
  ),
  compareCopies: route(
    'POST',
    '/api/volumes/:volumeId/compare',
    'Read what lies on a volume and its copies elsewhere whole, where nobody has, and compare',
    { params: ofVolume, response: job },
  ),
  noteFormatted: route(
    'POST',
    '/api/volumes/:volumeId/formatted',
    'Say that a card was formatted: nothing that was on it is there any more',
    { params: ofVolume, response: volume },
  ),
  findManifests: route('POST', '/api/volumes/:volumeId/manifests', 'Look for manifests that came with a volume', {
    params: ofVolume,
    response: volume,
  }),
  verifyManifest: route('POST', '/api/manifests/:manifestId/verify', 'Read every file of a manifest and compare', {
    params: z.object({ manifestId: id }),
    response: job,
  }),
  listOffers: route(
    'GET',
    '/api/productions/:productionId/offers',
    'Small proxies that cameras made, with the originals they fit',
    {
      params: ofProduction,
      response: z.array(proxyOffer),
    },
  ),
  acceptOffers: route(
    'POST',
    '/api/productions/:productionId/offers',
    'Pair proxies that others made with their originals',
    {
      params: ofProduction,
      body: z.object({
        fileIds: z.array(id).max(10_000).describe('Those that fit are paired with what they fit'),
        choices: z
          .array(z.object({ fileId: id, clipId: id }))
          .max(1000)
          .default([])
          .describe('Pairs that a person chose'),
      }),
      response: z.object({ paired: z.int() }),
    },
  ),
  removeVolume: route(
    'POST',
    '/api/volumes/:volumeId/remove',
    'Remove a volume from the ledger, or say what that comes to; no file is touched',
    { params: ofVolume, body: z.object({ apply: z.boolean() }), response: removeVolumePreview },
  ),
  scanVolume: route('POST', '/api/volumes/:volumeId/scan', 'Scan a volume in the background', {
    params: ofVolume,
    response: job,
  }),
  listProblems: route('GET', '/api/volumes/:volumeId/problems', 'Files that are no readable media, with the reason', {
    params: ofVolume,
    response: z.array(problemFile),
  }),
} as const
