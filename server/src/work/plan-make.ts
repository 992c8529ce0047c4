import { randomUUID } from 'node:crypto'
import { statfs } from 'node:fs/promises'
import type { MakePlan } from '@ennick/contract'
import { type EncodePlan, estimateSize, findCollisions, nameTrouble, type Recipe } from '@ennick/core'
import { and, eq, inArray, sql } from 'drizzle-orm'
import { noticesOf } from '../catalogue/notices.ts'
import { notFound } from '../errors.ts'
import { addJob, type JobRow } from '../queue/jobs.ts'
import type { Database } from '../store/database.ts'
import { offeredRecipes } from '../store/recipes.ts'
import { clips, files, jobs, pairFiles, pairs } from '../store/schema.ts'
import { productionFormat, type World, type WorldClip } from '../store/world.ts'
import { Destinations } from './destination.ts'
import { JobFailure } from './failure.ts'
import { madeVolume } from './made-item.ts'
import { planFor } from './make.ts'
import { makeSpeeds } from './make-speeds.ts'
import { NameCounter } from './name-counter.ts'

/** What a recipe would make of some clips: outputs, sizes, what is skipped and why, and whether it fits. */
export async function planMake(database: Database, world: World, clipIds: readonly string[], recipe: Recipe): Promise<MakePlan> {
  const selected = clipIds.map((clipId) => {
    const clip = world.clips.get(clipId)
    if (!clip) throw notFound('One of the clips')
    return clip
  })
  const live = await database
    .select({ input: jobs.input })
    .from(jobs)
    .where(
      and(
        eq(jobs.productionId, world.production.id),
        sql`${jobs.input}->>'recipeId' = ${recipe.id}`,
        inArray(jobs.state, ['waiting', 'running']),
      ),
    )
  const queued = new Set(live.flatMap(({ input }) => (input.kind === 'make' ? [input.clipId] : [])))
  const made = madeVolume(world)
  const destinations = new Destinations(made, recipe)
  const items: MakePlan['items'] = []
  const counter = await NameCounter.read(database, world.production.id, recipe.id)
  for (const clip of selected) items.push(await planItem(world, clip, recipe, queued, destinations, counter))
  const collisions = findCollisions(
    items.filter((item) => item.skipped === null),
    await takenNames(database, made.id),
  )
  for (const item of items) item.skipped ??= collisions.get(item.clipId) ?? null
  const { bavail, bsize } = await statfs(made.rootPath)
  const freeBytes = Number(bavail) * Number(bsize)
  const going = items.filter((item) => item.skipped === null)
  const bytes = going.reduce((sum, item) => sum + (item.bytes ?? 0), 0)
  const speeds = await makeSpeeds(database)
  const short = bytes * 1.1 > freeBytes
  return {
    items,
    destination: made.rootPath,
    freeBytes,
    bytes,
    exact: going.every((item) => item.exact),
    minutes: minutesAt(
      speeds.get(recipe.id),
      going.map((item) => item.frames),
    ),
    blocked: short
      ? `It needs about ${Math.ceil(bytes / 1e6)} MB and ${Math.floor(freeBytes / 1e6)} MB are free at ${made.rootPath}. Free some space, or choose fewer clips or a lighter recipe.`
      : null,
    warnings: [...cardWarnings(selected), ...nameWarnings(going)],
    comparison: (await offeredRecipes(database)).map(({ recipe: other }) => compareWeight(world, selected, other, speeds.get(other.id))),
  }
}

/** Queues one job for every clip that a plan does not skip. */
export async function queueMakes(
  database: Database,
  productionId: string,
  plan: MakePlan,
  recipe: Recipe,
  holdsAtFailure = false,
): Promise<JobRow[]> {
  const batch = { id: randomUUID(), holdsAtFailure }
  return database.transaction(async (transaction) => {
    const rows = []
    for (const item of plan.items) {
      if (item.skipped !== null) continue
      rows.push(
        await addJob(transaction, productionId, `${item.name} → ${recipe.name}`, {
          kind: 'make',
          clipId: item.clipId,
          recipeId: recipe.id,
          recipeVersion: recipe.version,
          mendId: null,
          batch,
          index: item.number,
        }),
      )
    }
    return rows
  })
}

/** What is made from a card alone is made from what may be gone tomorrow. */
function cardWarnings(selected: readonly WorldClip[]): string[] {
  const today = new Date().toISOString().slice(0, 10)
  const risky = selected.filter((clip) => noticesOf(clip, today).some((notice) => notice.kind === 'only on a card'))
  if (risky.length === 0) return []
  const labels = [...new Set(risky.map((clip) => clip.main.volume.label))].join(', ')
  return [
    `${risky.length === 1 ? 'One of these clips is' : `${risky.length} of these clips are`} only on a card (${labels}). Offload first: what is linked to a card is lost with it.`,
  ]
}

/** What lies in the production's place already, and for which clip. */
async function takenNames(database: Database, madeVolumeId: string): Promise<Map<string, { clipId: string; name: string }>> {
  const rows = await database
    .select({ path: files.path, clipId: clips.id, name: clips.name })
    .from(files)
    .innerJoin(pairFiles, eq(pairFiles.fileId, files.id))
    .innerJoin(pairs, and(eq(pairs.id, pairFiles.pairId), eq(pairs.isActive, true)))
    .innerJoin(clips, eq(clips.id, pairs.clipId))
    .where(eq(files.volumeId, madeVolumeId))
  return new Map(rows.map(({ path, ...clip }) => [path, clip]))
}

/** Names that this machine holds and another could not. */
function nameWarnings(items: MakePlan['items']): string[] {
  const troubled = items.flatMap((item) => {
    const reason = item.outputs.map((path) => nameTrouble(path.slice(path.lastIndexOf('/') + 1))).find((trouble) => trouble !== null)
    return reason ? [{ name: item.name, reason }] : []
  })
  const [first] = troubled
  if (!first) return []
  const rest = troubled.length - 1
  return [`The name of what is made of ${first.name} does not go everywhere: ${first.reason}.${rest ? ` So it is with ${rest} more.` : ''}`]
}

async function planItem(
  world: World,
  clip: WorldClip,
  recipe: Recipe,
  queued: ReadonlySet<string>,
  destinations: Destinations,
  counter: NameCounter,
): Promise<MakePlan['items'][number]> {
  const base = { clipId: clip.id, name: clip.name, frames: clip.main.facts?.picture?.frames ?? 0, number: 0 }
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
  const number = counter.of(clip.id)
  let plan: EncodePlan
  try {
    plan = planFor(world, clip, recipe, number)
  } catch (error) {
    if (error instanceof JobFailure) return skip(error.message)
    throw error
  }
  const estimate = clip.main.facts ? estimateSize(clip.main.facts, recipe, productionFormat(world.production)) : null
  const folder = await destinations.folderOf(clip, plan.files.length)
  return {
    ...base,
    number,
    outputs: plan.files.map((file) => (folder === '.' ? file.name : `${folder}/${file.name}`)),
    raster: `${plan.raster.width} × ${plan.raster.height}`,
    viewingLut: plan.viewingLut,
    bytes: estimate?.bytes ?? null,
    exact: estimate?.exact ?? true,
    skipped: null,
  }
}

function compareWeight(
  world: World,
  selected: readonly WorldClip[],
  recipe: Recipe,
  framesPerSecond: number | undefined,
): MakePlan['comparison'][number] {
  const moving = selected.flatMap(({ main }) => (main.facts?.kind === 'picture' ? [main.facts] : []))
  const estimates = moving.map((facts) => estimateSize(facts, recipe, productionFormat(world.production)))
  return {
    recipeId: recipe.id,
    name: recipe.name,
    bytes: estimates.reduce((sum, estimate) => sum + (estimate?.bytes ?? 0), 0),
    exact: estimates.every((estimate) => estimate?.exact ?? true),
    minutes: minutesAt(
      framesPerSecond,
      moving.map((facts) => facts.picture?.frames ?? 0),
    ),
  }
}

/** Null where nothing was made with the recipe here yet. */
const minutesAt = (framesPerSecond: number | undefined, frames: readonly number[]): number | null =>
  framesPerSecond === undefined ? null : frames.reduce((sum, count) => sum + count, 0) / framesPerSecond / 60
