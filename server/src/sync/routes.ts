import { formatNumber } from '@ennick/core'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob } from '../queue/jobs.ts'
import { readProduction } from '../store/production-row.ts'
import { syncSound } from './sync-sound.ts'
import { writeSyncedList } from './synced-list.ts'

/** Pictures and the recordings that ran while they were taken. */
export function syncRoutes({ app, database, material }: Services): void {
  implement(app, 'syncSound', async ({ params, body }) =>
    syncSound(database, await material.read(params.productionId), body),
  )
  implement(app, 'writeSyncedList', async ({ params, body }) =>
    writeSyncedList(await material.read(params.productionId), body),
  )
  implement(app, 'listenToClips', async ({ params, body: { clipIds } }) => {
    await readProduction(database, params.productionId)
    const what =
      clipIds.length === 0
        ? 'all pictures'
        : clipIds.length === 1
          ? 'a picture'
          : `${formatNumber(clipIds.length)} pictures`
    return presentJob(
      await addJob(database, params.productionId, `Listen to ${what} and to the recordings`, { kind: 'sync', clipIds }),
    )
  })
}
