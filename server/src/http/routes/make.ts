import type { makeRequest } from '@ennick/contract'
import type { Recipe } from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { z } from 'zod'
import { notFound, PlainError } from '../../errors.ts'
import { cancelJob, listJobs, presentJob, readJob, retryJob } from '../../queue/jobs.ts'
import { holdJobs, moveJobs } from '../../queue/order.ts'
import { listWorkers } from '../../queue/workers.ts'
import { readRecipes } from '../../store/recipes.ts'
import { clips } from '../../store/schema.ts'
import { readWorld, type WorldClip } from '../../store/world.ts'
import { planMake, queueMakes } from '../../work/plan-make.ts'
import { sampleSize } from '../../work/sample-size.ts'
import { implement } from '../implement.ts'
import type { Services } from '../services.ts'

export function makeRoutes({ app, config, database }: Services): void {
  implement(app, 'planMake', async ({ params, body }) => (await plan(params.productionId, body)).plan)

  implement(app, 'make', async ({ params, body }) => {
    const { plan: made, recipes, world } = await plan(params.productionId, body)
    if (made.blocked) throw new PlainError('plan-blocked', made.blocked, { status: 409 })
    return {
      jobs: (await queueMakes(database, params.productionId, made, recipes, world, body.holdsAtFailure)).map((job) => presentJob(job)),
      skipped: [made.items, ...made.also.map((each) => each.items)]
        .flat()
        .flatMap((item) => (item.skipped === null ? [] : [`${item.name}: ${item.skipped}`])),
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
    const { world, recipes, selected } = await read(row.productionId, { clipIds: [clipId], recipeId, alsoRecipeIds: [] })
    await sampleSize(database, config, world, selected[0] as WorldClip, recipes[0] as Recipe, AbortSignal.timeout(300_000))
  }

  implement(app, 'listWorkers', () => listWorkers(database))
  implement(app, 'listJobs', async ({ params }) => {
    const recipes = await readRecipes(database)
    return (await listJobs(database, params.productionId)).map((job) => presentJob(job, recipes))
  })
  implement(app, 'readJob', async ({ params }) => presentJob(await readJob(database, params.jobId)))
  implement(app, 'cancelJob', async ({ params }) => presentJob(await cancelJob(database, params.jobId)))
  implement(app, 'retryJob', async ({ params, body }) => presentJob(await retryJob(database, params.jobId, body.recipe)))
  implement(app, 'holdJobs', async ({ params, body }) => {
    await holdJobs(database, params.productionId, body.jobIds, body.isHeld)
    return { done: true as const }
  })
  implement(app, 'moveJobs', async ({ params, body }) => {
    await moveJobs(database, params.productionId, body.jobIds, body.before)
    return { done: true as const }
  })

  async function read(productionId: string, { clipIds, recipeId, alsoRecipeIds }: z.output<typeof makeRequest>) {
    const world = await readWorld(database, productionId, clipIds)
    const recipes = [...new Set([recipeId, ...alsoRecipeIds])].map((id) => {
      const recipe = world.recipes.get(id)
      if (!recipe) throw notFound('This recipe')
      return recipe
    })
    const selected = clipIds.map((clipId) => {
      const clip = world.clips.get(clipId)
      if (!clip) throw notFound('One of the clips')
      return clip
    })
    return { world, recipes, selected }
  }

  async function plan(productionId: string, request: z.output<typeof makeRequest>) {
    const { world, recipes, selected } = await read(productionId, request)
    const [recipe, ...also] = recipes as [Recipe, ...Recipe[]]
    return { plan: await planMake(database, world, selected, recipe, also), recipes, world }
  }
}
