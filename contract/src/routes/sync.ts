import { z } from 'zod'
import { id } from '../common.ts'
import { job } from '../make.ts'
import { soundSync, soundSyncRequest, syncedList, syncedListRequest } from '../sync.ts'
import { ofProduction, route } from './define.ts'

/** Pictures and the recordings that ran while they were taken. */
export const syncRoutes = {
  syncSound: route(
    'POST',
    '/api/productions/:productionId/clips/sync',
    'Which recordings ran while pictures were taken, by timecode, by their sound or by marked points; or keep it',
    { params: ofProduction, body: soundSyncRequest, response: soundSync },
  ),
  writeSyncedList: route(
    'POST',
    '/api/productions/:productionId/clips/synced-list',
    'Synced clips as a list: each picture linked with the tracks of its recording',
    { params: ofProduction, body: syncedListRequest, response: syncedList },
  ),
  listenToClips: route(
    'POST',
    '/api/productions/:productionId/clips/listen',
    'Listen to pictures and to all recordings, and find where they belong together; the sync reads what it told',
    {
      params: ofProduction,
      body: z.object({ clipIds: z.array(id).max(50_000).describe('Pictures to listen to; none for all') }),
      response: job,
    },
  ),
} as const
