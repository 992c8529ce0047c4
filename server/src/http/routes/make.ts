import { statfs } from 'node:fs/promises'
import type { MakePlan } from '@ennick/contract'
import { builtInRecipes, type EncodePlan, estimateSize, type Recipe } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { notFound, PlainError } from '../../errors.ts'
import { addJob, cancelJob, listJobs, presentJob, readJob, retryJob } from '../../queue/jobs.ts'
import { jobs } from '../../store/schema.ts'
import { productionFormat, readWorld, type World, type WorldClip } from '../../store/world.ts'
import { JobFailure } from '../../work/failure.ts'
import { destination, madeVolume } from '../../work/made-item.ts'
import { planFor } from '../../work/make.ts'
import { implement } from '../implement.ts'
import type { Services } from '../services.ts'

export function makeRoutes({ app, database }: Services): void {
  implement(app, 'listRecipes', () =>
    builtInRecipes.map(({ id, name, version, purpose, pairKind, codec, container, suffix, viewingLut }) => ({
      id,
      name,
      version,
      purpose,
      pairKind,
      codec,
      container,
      suffix,
      viewingLut,
    })),
  )

  implement(app, 'planMake', async ({ params, body }) =>
    planSelection(await readWorld(database, params.productionId), body.clipIds, findRecipe(body.recipeId)),
  )

  implement(app, 'make', async ({ params, body }) => {
    const world = await readWorld(database, params.productionId)
    const recipe = findRecipe(body.recipeId)
    const plan = await planSelection(world, body.clipIds, recipe)
    if (plan.blocked) throw new PlainError('plan-blocked', plan.blocked, { status: 409 })
    const wanted = plan.items.filter((item) => item.skipped === null)
    const queued = await database.transaction(async (transaction) => {
      const rows = []
      for (const item of wanted)
        rows.push(
          await addJob(transaction, params.productionId, `${item.name} → ${recipe.name}`, {
            kind: 'make',
            clipId: item.clipId,
            recipeId: recipe.id,
            mendId: null,
          }),
        )
      return rows
    })
    return {
      jobs: queued.map(presentJob),
      skipped: plan.items.filter((item) => item.skipped !== null).map((item) => `${item.name}: ${item.skipped}`),
    }
  })

  implement(app, 'listJobs', async ({ params }) => (await listJobs(database, params.productionId)).map(presentJob))
  implement(app, 'readJob', async ({ params }) => presentJob(await readJob(database, params.jobId)))
  implement(app, 'cancelJob', async ({ params }) => presentJob(await cancelJob(database, params.jobId)))
  implement(app, 'retryJob', async ({ params }) => presentJob(await retryJob(database, params.jobId)))

  async function planSelection(world: World, clipIds: readonly string[], recipe: Recipe): Promise<MakePlan> {
    const selected = clipIds.map((clipId) => {
      const clip = world.clips.get(clipId)
      if (!clip) throw notFound('One of the clips')
      return clip
    })
    const live = await database.select().from(jobs).where(eq(jobs.productionId, world.production.id))
    const queued = new Set(
      live.flatMap((job) =>
        job.input.kind === 'make' && job.input.recipeId === recipe.id && (job.state === 'waiting' || job.state === 'running')
          ? [job.input.clipId]
          : [],
      ),
    )
    const items = selected.map((clip) => planItem(world, clip, recipe, queued))
    const made = madeVolume(world)
    const { bavail, bsize } = await statfs(made.rootPath)
    const freeBytes = Number(bavail) * Number(bsize)
    const going = items.filter((item) => item.skipped === null)
    const bytes = going.reduce((sum, item) => sum + (item.bytes ?? 0), 0)
    const short = bytes * 1.1 > freeBytes
    return {
      items,
      destination: made.rootPath,
      freeBytes,
      bytes,
      exact: going.every((item) => item.exact),
      blocked: short
        ? `It needs about ${Math.ceil(bytes / 1e6)} MB and ${Math.floor(freeBytes / 1e6)} MB are free at ${made.rootPath}. Free some space, or choose fewer clips or a lighter recipe.`
        : null,
      comparison: builtInRecipes.map((other) => compareWeight(world, selected, other)),
    }
  }
}

function planItem(world: World, clip: WorldClip, recipe: Recipe, queued: ReadonlySet<string>): MakePlan['items'][number] {
  const base = { clipId: clip.id, name: clip.name, frames: clip.main.facts?.picture?.frames ?? 0 }
  const skip = (skipped: string): MakePlan['items'][number] => ({
    ...base,
    outputs: [],
    raster: null,
    viewingLut: null,
    bytes: null,
    exact: true,
    skipped,
  })
  if (clip.presence === 'away') return skip(`volume “${clip.main.volume.label}” is away`)
  if (clip.presence === 'gone') return skip('its file is gone: find it in Mend first')
  if (queued.has(clip.id)) return skip('it is on the queue already')
  if (clip.pairs.some((pair) => pair.recipeId === recipe.id && pair.verdict === 'sound'))
    return skip('a sound one of this recipe is there already')
  let plan: EncodePlan
  try {
    plan = planFor(world, clip, recipe)
  } catch (error) {
    if (error instanceof JobFailure) return skip(error.message)
    throw error
  }
  const estimate = clip.main.facts ? estimateSize(clip.main.facts, recipe, productionFormat(world.production)) : null
  return {
    ...base,
    outputs: plan.files.map((file) => `${destination(clip, recipe)}/${file.name}`),
    raster: `${plan.raster.width} × ${plan.raster.height}`,
    viewingLut: plan.viewingLut,
    bytes: estimate?.bytes ?? null,
    exact: estimate?.exact ?? true,
    skipped: null,
  }
}

function compareWeight(world: World, selected: readonly WorldClip[], recipe: Recipe): MakePlan['comparison'][number] {
  const estimates = selected.flatMap((clip) =>
    clip.main.facts?.kind === 'picture' ? [estimateSize(clip.main.facts, recipe, productionFormat(world.production))] : [],
  )
  return {
    recipeId: recipe.id,
    name: recipe.name,
    bytes: estimates.reduce((sum, estimate) => sum + (estimate?.bytes ?? 0), 0),
    exact: estimates.every((estimate) => estimate?.exact ?? true),
  }
}

function findRecipe(recipeId: string): Recipe {
  const recipe = builtInRecipes.find((candidate) => candidate.id === recipeId)
  if (!recipe) throw notFound('This recipe')
  return recipe
}
