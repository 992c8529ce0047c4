import { eq } from 'drizzle-orm'
import { readAllCutStates } from '../../cutting/cut-state.ts'
import { notFound } from '../../errors.ts'
import { presentLedger, presentPairDetail } from '../../present/ledger.ts'
import { addJob, presentJob } from '../../queue/jobs.ts'
import { clips, pairs } from '../../store/schema.ts'
import { readProduction, readWorld } from '../../store/world.ts'
import { implement } from '../implement.ts'
import type { Services } from '../services.ts'

export function pairRoutes({ app, database }: Services): void {
  implement(app, 'listPairs', async ({ params }) => {
    const world = await readWorld(database, params.productionId)
    return presentLedger(world, await readAllCutStates(database, world))
  })

  implement(app, 'readPair', async ({ params }) => {
    const [row] = await database
      .select({ productionId: clips.productionId })
      .from(pairs)
      .innerJoin(clips, eq(clips.id, pairs.clipId))
      .where(eq(pairs.id, params.pairId))
    const world = row ? await readWorld(database, row.productionId) : null
    const pair = world?.pairs.get(params.pairId)
    if (!world || !pair) throw notFound('This pair')
    return presentPairDetail(database, world, pair, await readAllCutStates(database, world))
  })

  implement(app, 'decodePairs', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    const title = body.pairIds.length === 1 ? 'Decode every frame of one item' : `Decode every frame of ${body.pairIds.length} items`
    return presentJob(await addJob(database, params.productionId, title, { kind: 'decode', pairIds: body.pairIds }))
  })

  implement(app, 'check', async ({ params }) => {
    await readProduction(database, params.productionId)
    return presentJob(await addJob(database, params.productionId, 'Check every file again', { kind: 'check', volumeId: null }))
  })
}
