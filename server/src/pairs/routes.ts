import { formatNumber } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { usesOfClips } from '../clips/uses.ts'
import { notFound } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob } from '../queue/jobs.ts'
import { readProduction } from '../store/production-row.ts'
import { clips, pairs } from '../store/schema.ts'
import { pairsFor, readLedger } from './ledger.ts'
import { askForLook, lookLater } from './look.ts'
import { acceptOffers, listOffers } from './offers.ts'
import { presentLedger, presentPairDetail } from './present.ts'
import { releasePairs } from './release.ts'
import { untiePair } from './untie.ts'

export function pairRoutes({ app, config, database, material: kept }: Services): void {
  implement(app, 'listPairs', async ({ params }) => {
    const material = await kept.read(params.productionId)
    return presentLedger(material, await usesOfClips.given(database, material))
  })

  implement(app, 'searchPairs', async ({ params, body }) => {
    const material = await kept.read(params.productionId)
    return readLedger(material, await usesOfClips.given(database, material), body)
  })
  implement(app, 'listPairIds', async ({ params, body }) => ({
    ids: pairsFor(await kept.read(params.productionId), body, body.purpose),
  }))

  implement(app, 'readPair', async ({ params }) => {
    const [row] = await database
      .select({ productionId: clips.productionId })
      .from(pairs)
      .innerJoin(clips, eq(clips.id, pairs.clipId))
      .where(eq(pairs.id, params.pairId))
    const material = row ? await kept.read(row.productionId) : null
    const pair = material?.pairs.get(params.pairId)
    if (!material || !pair) throw notFound('This pair')
    return presentPairDetail(database, material, pair, await usesOfClips.given(database, material))
  })

  implement(app, 'comparePictures', async ({ params }) => {
    await readProduction(database, params.productionId)
    return presentJob(await askForLook(database, config, params.productionId))
  })

  implement(app, 'decodePairs', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    const title =
      body.pairIds.length === 1
        ? 'Decode every frame of one item'
        : `Decode every frame of ${formatNumber(body.pairIds.length)} items`
    return presentJob(await addJob(database, params.productionId, title, { kind: 'decode', pairIds: body.pairIds }))
  })

  implement(app, 'untiePair', async ({ params }) => {
    await untiePair(database, params.pairId)
    return { done: true as const }
  })
  implement(app, 'release', ({ params, body }) => releasePairs(database, params.productionId, body.pairIds, body.apply))

  implement(app, 'listOffers', async ({ params }) => listOffers(database, await kept.read(params.productionId)))
  implement(app, 'acceptOffers', async ({ params, body }) => {
    const paired = await acceptOffers(database, params.productionId, body)
    await lookLater(database, config, params.productionId)
    return { paired }
  })

  implement(app, 'check', async ({ params }) => {
    await readProduction(database, params.productionId)
    return presentJob(
      await addJob(database, params.productionId, 'Check every file again', { kind: 'check', volumeId: null }),
    )
  })
}
