import { basename } from 'node:path'
import type { makeRequest } from '@ennick/contract'
import { joinedList, joinedTable, type Recipe } from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { z } from 'zod'
import { notFound, PlainError } from '../errors.ts'
import { implement, implementRaw } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { presentJob } from '../queue/jobs.ts'
import { joinedFiles } from '../store/job-schema.ts'
import type { KnownClip } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { clips } from '../store/schema.ts'
import { readBatches } from './batches.ts'
import { orderJoin, removeJoined } from './join.ts'
import { offerJoins } from './join-plan.ts'
import { lookIntoPlace } from './look-into-place.ts'
import {
  addMadePlace,
  changeMadePlace,
  presentMadePlaces,
  readMadePlace,
  removeMadePlace,
  setMadePlaceRule,
} from './made-places.ts'
import { readNeeds } from './needs.ts'
import { planMake } from './plan-make.ts'
import { queueMakes } from './queue-makes.ts'
import { sampleSize } from './sample-size.ts'
import { withRecordings } from './synced-sound.ts'
import { forgetTakenIn, keepTakenIn } from './taken-in.ts'
import { readClipsUnderWay } from './under-way.ts'

export function makeRoutes({ app, config, database, folders, material: kept }: Services): void {
  implement(app, 'lookIntoMadePlace', ({ params }) => lookIntoPlace(database, params.volumeId))
  implement(app, 'listMadePlaces', ({ params }) => presentMadePlaces(database, params.productionId))
  implement(app, 'addMadePlace', async ({ params, body }) => {
    await addMadePlace(database, params.productionId, { ...body, folder: await folders.resolve(body.folder) })
    return presentMadePlaces(database, params.productionId)
  })
  implement(app, 'changeMadePlace', async ({ params, body }) => {
    const { productionId } = await readMadePlace(database, params.volumeId)
    await changeMadePlace(database, params.volumeId, await folders.resolve(body.folder))
    return presentMadePlaces(database, productionId)
  })
  implement(app, 'setMadePlaceRule', async ({ params, body }) => {
    await setMadePlaceRule(database, params.productionId, body)
    return presentMadePlaces(database, params.productionId)
  })
  implement(app, 'removeMadePlace', async ({ params }) => {
    await removeMadePlace(database, params.volumeId)
    return { done: true as const }
  })
  implement(app, 'listUnderWay', ({ params }) => readClipsUnderWay(database, params.productionId))
  implement(app, 'readNeeds', ({ params, body }) => readNeeds(database, params.productionId, body.clipIds))
  implement(app, 'planMake', async ({ params, body }) => (await plan(params.productionId, body)).plan)

  implement(app, 'listBatches', ({ params }) => readBatches(database, kept, params.productionId))

  implement(app, 'readTakenIn', async ({ params, body }) => {
    await keepTakenIn(database, params.batchId, body)
    return { done: true as const }
  })
  implement(app, 'forgetTakenIn', async ({ params }) => {
    await forgetTakenIn(database, params.batchId)
    return { done: true as const }
  })

  implement(app, 'offerJoins', ({ params }) => offerJoins(database, kept, params.batchId))
  implement(app, 'joinBatch', async ({ params, body }) =>
    presentJob(await orderJoin(database, kept, params.batchId, body)),
  )
  implement(app, 'removeJoined', async ({ params }) => {
    await removeJoined(database, params.joinedId)
    return { done: true as const }
  })
  implementRaw(app, 'readJoinedList', async ({ params }, response) => {
    const [row] = await database.select().from(joinedFiles).where(eq(joinedFiles.id, params.joinedId))
    if (!row) throw notFound('The joined file')
    const rate = { numerator: row.rateNumerator, denominator: row.rateDenominator }
    const name = basename(row.path).replace(/\.[^.]+$/, '')
    const isTable = params.list === 'table'
    response
      .type('text/plain; charset=utf-8')
      .set(
        'content-disposition',
        `attachment; filename*=UTF-8''${encodeURIComponent(`${name}.${isTable ? 'csv' : 'edl'}`)}`,
      )
      .send(isTable ? joinedTable(row.entries, rate) : joinedList(name, row.entries, rate))
  })

  implement(app, 'make', async ({ params, body }) => {
    const { plan: made, recipes, material } = await plan(params.productionId, body)
    if (made.blocked) throw new PlainError('plan-blocked', made.blocked, { status: 409 })
    const { jobs, skipped } = await queueMakes(
      database,
      params.productionId,
      made,
      recipes,
      material,
      body.holdsAtFailure,
    )
    return {
      jobs: jobs.map((job) => presentJob(job)),
      skipped: skipped.map(({ name, reason }) => `${name}: ${reason}`),
    }
  })

  // One at a time, whoever asks: what two would sample at once is sampled once.
  let sampling: Promise<unknown> = Promise.resolve()
  implement(app, 'sampleSize', async ({ params, body }) => {
    const next = sampling.then(() => sample(params.clipId, body.recipeId))
    sampling = next.catch(() => undefined)
    await next
    return { done: true as const }
  })

  async function sample(clipId: string, recipeId: string): Promise<void> {
    const [row] = await database.select({ productionId: clips.productionId }).from(clips).where(eq(clips.id, clipId))
    if (!row) throw notFound('This clip')
    const { material, recipes, selected } = await read(row.productionId, {
      clipIds: [clipId],
      recipeId,
      alsoRecipeIds: [],
    })
    await sampleSize(
      database,
      config,
      material,
      selected[0] as KnownClip,
      recipes[0] as Recipe,
      AbortSignal.timeout(300_000),
    )
  }

  async function read(productionId: string, { clipIds, recipeId, alsoRecipeIds }: z.output<typeof makeRequest>) {
    const material = await readMaterial(database, productionId, await withRecordings(database, clipIds))
    const recipes = [...new Set([recipeId, ...alsoRecipeIds])].map((id) => {
      const recipe = material.recipes.get(id)
      if (!recipe) throw notFound('This recipe')
      return recipe
    })
    const selected = clipIds.map((clipId) => {
      const clip = material.clips.get(clipId)
      if (!clip) throw notFound('One of the clips')
      return clip
    })
    return { material, recipes, selected }
  }

  async function plan(productionId: string, request: z.output<typeof makeRequest>) {
    const { material, recipes, selected } = await read(productionId, request)
    const [recipe, ...also] = recipes as [Recipe, ...Recipe[]]
    return { plan: await planMake(database, material, selected, recipe, also), recipes, material }
  }
}
