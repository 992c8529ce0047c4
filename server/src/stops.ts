import { countClipsOfVolumes } from './clips/clips-of-volumes.ts'
import { clipRoutes } from './clips/routes.ts'
import { clipTableRoutes } from './clips/table-routes.ts'
import { usesOfClips } from './clips/uses.ts'
import { readNewestCutStates } from './cuts/cut-state.ts'
import { cutRoutes } from './cuts/routes.ts'
import { tryOriginals } from './cuts/try-originals.ts'
import { usesIn } from './cuts/uses.ts'
import { checkFinished } from './handoff/check-finished.ts'
import { finishedRoutes } from './handoff/finished-routes.ts'
import { pullMedia } from './handoff/pull.ts'
import { pullRoutes } from './handoff/pull-routes.ts'
import { restoreArchive } from './handoff/restore.ts'
import { restoreRoutes } from './handoff/restore-routes.ts'
import { handoffRoutes } from './handoff/routes.ts'
import type { Services } from './http/services.ts'
import { compareCopies } from './intake/compare-copies.ts'
import { fetchListed } from './intake/fetch.ts'
import { fetchRoutes } from './intake/fetch-routes.ts'
import { verifyManifest } from './intake/manifest.ts'
import { offload } from './intake/offload.ts'
import { offloadRoutes } from './intake/offload-routes.ts'
import { clipsOfVolumes, movedOfVolumes } from './intake/present.ts'
import { scanVolume } from './intake/scan.ts'
import { standinRoutes } from './intake/standin-routes.ts'
import { volumeRoutes } from './intake/volume-routes.ts'
import { applyIntakeRules } from './make/intake-rules.ts'
import { joinItems } from './make/join.ts'
import { lutRoutes } from './make/lut-routes.ts'
import { makeItems } from './make/make.ts'
import { measureClips } from './make/measure.ts'
import { recipeRoutes } from './make/recipe-routes.ts'
import { makeRoutes } from './make/routes.ts'
import { checkCollection } from './mend/collection.ts'
import { padRecording } from './mend/pad.ts'
import { mendByCopies } from './mend/repoint-lost.ts'
import { restampPair } from './mend/restamp.ts'
import { mendRoutes } from './mend/routes.ts'
import { countMoved } from './mend/same-content.ts'
import { searchPlaces } from './mend/search.ts'
import { checkFiles } from './pairs/check.ts'
import { decodePairs } from './pairs/decode-pairs.ts'
import { lookAtNew, lookLater } from './pairs/look.ts'
import { pairRoutes } from './pairs/routes.ts'
import { clearAfterTheDead } from './placements/clear-after-the-dead.ts'
import { queueRoutes } from './queue/routes.ts'
import type { Work } from './queue/worker.ts'
import { listenToClips } from './sync/listen.ts'
import { syncRoutes } from './sync/routes.ts'
import { productionRoutes } from './today/routes.ts'
import { trialRoutes } from './trial/routes.ts'
import { viewerRoutes } from './viewer/routes.ts'

/**
 * Where the stops are put together: a later one may use an earlier one, and what an earlier one needs of a later one
 * is given to it here.
 */
clipsOfVolumes.give(countClipsOfVolumes)
movedOfVolumes.give(countMoved)
usesOfClips.give(async (database, media) => usesIn(await readNewestCutStates(database, media)))

/** The API, stop by stop. */
export const routesOfStops: readonly ((services: Services) => void)[] = [
  ...[queueRoutes, productionRoutes],
  ...[volumeRoutes, offloadRoutes, fetchRoutes, standinRoutes],
  ...[clipRoutes, clipTableRoutes, syncRoutes],
  ...[makeRoutes, recipeRoutes, lutRoutes],
  ...[
    pairRoutes,
    cutRoutes,
    viewerRoutes,
    mendRoutes,
    trialRoutes,
    handoffRoutes,
    pullRoutes,
    restoreRoutes,
    finishedRoutes,
  ],
]

/** What workers do. */
export const work: Work = {
  performers: {
    scan: async (context, meter, { volumeId }) => {
      const result = await scanVolume(context, meter, volumeId)
      await applyIntakeRules(context, volumeId)
      await lookLater(context.database, context.config, context.job.productionId)
      return result
    },
    offload: async (context, meter, input) => {
      const result = await offload(context, meter, input)
      if (!input.mendsLost) return result
      const { database, job } = context
      const { destinationId: volumeId, folder } = input
      return { ...result, mended: await mendByCopies(database, job.productionId, { volumeId, folder }) }
    },
    fetch: fetchListed,
    pull: pullMedia,
    restore: async (context, meter, input) => {
      const result = await restoreArchive(context, meter, input)
      await lookLater(context.database, context.config, context.job.productionId)
      return result
    },
    finished: checkFinished,
    verify: (context, meter, { manifestId }) => verifyManifest(context, meter, manifestId),
    compare: (context, meter, { volumeId }) => compareCopies(context, meter, volumeId),
    measure: (context, meter, { clipIds }) => measureClips(context, meter, clipIds),
    sync: listenToClips,
    make: async (context, meter, input) => {
      // It writes its own end, together with the pairs that it makes.
      await makeItems(context, meter, input)
      return null
    },
    restamp: async (context, _meter, input) => {
      const result = await restampPair(context, input)
      await lookLater(context.database, context.config, context.job.productionId)
      return result
    },
    join: joinItems,
    pad: (context, _meter, input) => padRecording(context, input),
    try: (context, meter, { clipIds }) => tryOriginals(context, meter, clipIds),
    check: (context, meter, { volumeId }) => checkFiles(context, meter, volumeId),
    look: lookAtNew,
    decode: (context, meter, { pairIds }) => decodePairs(context, meter, pairIds),
    search: searchPlaces,
    collect: checkCollection,
  },
  putInOrder: clearAfterTheDead,
}
