import { stat } from 'node:fs/promises'
import type { MakePlan } from '@ennick/contract'
import {
  type EncodePlan,
  fieldsOf,
  findCollisions,
  groupBy,
  isWell,
  type Recipe,
  type SizeEstimate,
} from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { ifSoon } from '../disk/answering.ts'
import { freeBytes } from '../disk/free-space.ts'
import { JobFailure } from '../queue/failure.ts'
import { makeKey, readMakesUnderWay } from '../queue/jobs.ts'
import type { Database } from '../store/database.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { offeredRecipes } from '../store/recipes.ts'
import { clips, files, pairFiles, pairs } from '../store/schema.ts'
import { madePlaces, placeOfRecipe } from './made-item.ts'
import { planFor } from './make.ts'
import { MakeSpeeds } from './make-speeds.ts'
import { NameCounter } from './name-counter.ts'
import { Destinations } from './numbered-folders.ts'
import { planWarnings } from './plan-warnings.ts'
import { playsOf, readDecodeSpeeds } from './plays.ts'
import { SizeSamples } from './size-samples.ts'

/**
 * What recipes would make of some clips: outputs, sizes, what is skipped and why, and whether it fits.
 * @param also made besides, from the same reading of each original
 */
export async function planMake(
  database: Database,
  material: Material,
  selected: readonly KnownClip[],
  recipe: Recipe,
  also: readonly Recipe[] = [],
): Promise<MakePlan> {
  const taken = new Map<string, TakenNames>()
  for (const { id } of madePlaces(material)) taken.set(id, await takenNames(database, id))
  const offered = (await offeredRecipes(database)).map((each) => each.recipe)
  const underWay = await readMakesUnderWay(database, material.production.id)
  const samples = await SizeSamples.read(database, material.production.id, [recipe, ...also, ...offered])
  const decoding = await readDecodeSpeeds(database, selected)
  const context: PlanContext = { database, material, underWay, taken, samples, decoding }
  const items = await planItems(context, selected, recipe)
  const besides: MakePlan['also'] = []
  for (const other of also)
    besides.push({
      recipeId: other.id,
      name: other.name,
      items: await planItems(context, selected, other),
    })
  const going = [items, ...besides.map((each) => each.items)].flat().filter((item) => item.skipped === null)
  const bytes = going.reduce((sum, item) => sum + (item.bytes ?? 0), 0)
  const speeds = (await MakeSpeeds.read(database)).withSamples(samples, [recipe, ...also, ...offered])
  const lists = [
    { recipe, items },
    ...also.map((other, index) => ({ recipe: other, items: besides[index]?.items ?? [] })),
  ]
  const sampled = lists.map(({ recipe: each, items: list }) => ({
    recipeId: each.id,
    ...samples.wanted(
      each,
      selected.filter((_, index) => list[index]?.skipped === null && list[index].method === 'encode'),
    ),
  }))
  const places = await placesOf(material, lists)
  return {
    items,
    also: besides,
    places: places.map(({ label, path, freeBytes: free, bytes: going, diskBytes }) => ({
      ...{ label, path, freeBytes: free, bytes: going },
      leftBytes: free === null ? null : Math.max(0, free - diskBytes),
    })),
    bytes,
    basis: leastSure(going.map((item) => item.basis)),
    samples: {
      of: sampled.reduce((sum, { of }) => sum + of, 0),
      wanting: sampled.flatMap(({ recipeId, clips: wanting }) =>
        wanting.map((clip) => ({ clipId: clip.id, recipeId })),
      ),
    },
    minutes: addMinutes([{ recipeId: recipe.id, items }, ...besides], speeds),
    blocked: whyBlocked(places),
    warnings: planWarnings(context, selected, going, lists),
    comparison: offered.map((other) =>
      other.id === recipe.id ? weightOfPlan(recipe, items, speeds) : compareWeight(context, selected, other, speeds),
    ),
  }
}

interface PlannedPlace {
  readonly label: string
  readonly path: string
  readonly freeBytes: number | null
  /** How many items go there, and how much that is. */
  readonly items: number
  readonly bytes: number
  /** What goes to all places of its disk: they share what is free there. */
  readonly diskBytes: number
}

/** Where each recipe's items go, and how much of them. */
async function placesOf(
  material: Material,
  lists: readonly { readonly recipe: Recipe; readonly items: MakePlan['items'] }[],
): Promise<PlannedPlace[]> {
  const places = []
  for (const [{ label, rootPath }, own] of groupBy(lists, ({ recipe }) => placeOfRecipe(material, recipe))) {
    const going = own.flatMap(({ items }) => items).filter(({ skipped }) => skipped === null)
    places.push({
      ...{ label, path: rootPath, items: going.length },
      bytes: going.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
      freeBytes: await ifSoon(freeBytes(rootPath)),
      disk: await stat(rootPath).then(
        ({ dev }) => dev,
        () => rootPath,
      ),
    })
  }
  return [...groupBy(places, ({ disk }) => disk).values()].flatMap((onDisk) => {
    const diskBytes = onDisk.reduce((sum, { bytes }) => sum + bytes, 0)
    return onDisk.map((place) => ({ ...place, diskBytes }))
  })
}

function whyBlocked(places: readonly PlannedPlace[]): string | null {
  for (const { label, path, freeBytes: free, diskBytes } of places.filter(({ items }) => items > 0)) {
    if (free === null)
      return `“${label}” is not there now: ${path}. Connect its disk, or choose another place in Settings.`
    if (diskBytes * 1.1 > free)
      return (
        `It needs about ${Math.ceil(diskBytes / 1e6)} MB and ${Math.floor(free / 1e6)} MB are free at ${path}. ` +
        'Free some space, or choose fewer clips or a lighter recipe.'
      )
  }
  return null
}

const leastSure = (bases: readonly SizeEstimate['basis'][]): SizeEstimate['basis'] =>
  (['typical', 'sampled'] as const).find((basis) => bases.includes(basis)) ?? 'exact'

/** What a plan rests on. */
interface PlanContext {
  readonly database: Database
  readonly material: Material
  /** What is on the queue. */
  readonly underWay: ReadonlySet<string>
  /** Names that are given in each place; those of the plan are added to them. */
  readonly taken: ReadonlyMap<string, TakenNames>
  readonly samples: SizeSamples
  /** Frames a second that this machine decodes, by content, where that was measured. */
  readonly decoding: ReadonlyMap<string, number>
}

/** What one recipe would make of each clip. */
async function planItems(
  context: PlanContext,
  selected: readonly KnownClip[],
  recipe: Recipe,
): Promise<MakePlan['items']> {
  const { database, material } = context
  const place = placeOfRecipe(material, recipe)
  const taken = context.taken.get(place.id) as TakenNames
  const destinations = new Destinations(place, recipe)
  const counter = await NameCounter.read(database, material.production.id, recipe.id)
  const items: MakePlan['items'] = []
  for (const clip of selected) items.push(await planItem(context, clip, recipe, destinations, counter))
  const collisions = findCollisions(
    items.filter((item) => item.skipped === null),
    taken,
  )
  for (const item of items) {
    item.skipped ??= collisions.get(item.clipId) ?? null
    // The clip itself may not give one name to two of its items either.
    if (item.skipped === null)
      for (const path of item.outputs) taken.set(path, { clipId: `${item.clipId} ${recipe.id}`, name: item.name })
  }
  return items
}

type TakenNames = Map<string, { clipId: string; name: string }>

/** What lies in a place already, and for which clip. */
async function takenNames(database: Database, placeId: string): Promise<TakenNames> {
  const rows = await database
    .select({ path: files.path, clipId: clips.id, name: clips.name })
    .from(files)
    .innerJoin(pairFiles, eq(pairFiles.fileId, files.id))
    .innerJoin(pairs, and(eq(pairs.id, pairFiles.pairId), eq(pairs.isActive, true)))
    .innerJoin(clips, eq(clips.id, pairs.clipId))
    .where(eq(files.volumeId, placeId))
  return new Map(rows.map(({ path, ...clip }) => [path, clip]))
}

/** Why nothing is made of a clip, whatever the recipe makes of it; null where something is. */
function whyNot({ underWay, decoding }: PlanContext, clip: KnownClip, recipe: Recipe): string | null {
  if (clip.presence === 'away') return `volume “${clip.main.volume.label}” is away`
  if (clip.presence === 'gone') return 'its file is gone: find it in Mend first'
  if (underWay.has(makeKey(clip.id, recipe.id))) return 'it is on the queue already'
  const isThere = clip.pairs.some((pair) => pair.recipeId === recipe.id && isWell(pair.verdict))
  if (isThere) return 'what this recipe makes of it is there already, and agrees with it'
  const plays = playsOf(clip, decoding) ?? 0
  return recipe.skipPlaying !== null && plays >= recipe.skipPlaying
    ? `it plays ${plays} times at once here, and the recipe leaves what plays ${recipe.skipPlaying} times as it is`
    : null
}

async function planItem(
  context: PlanContext,
  clip: KnownClip,
  recipe: Recipe,
  destinations: Destinations,
  counter: NameCounter,
): Promise<MakePlan['items'][number]> {
  const { material, samples } = context
  const base = { clipId: clip.id, name: clip.name, frames: clip.main.facts?.picture?.frames ?? 0, number: 0 }
  const skip = (skipped: string): MakePlan['items'][number] => ({
    ...base,
    outputs: [],
    raster: null,
    method: 'encode',
    viewingLut: null,
    fields: null,
    isSoundLaid: false,
    bytes: null,
    basis: 'exact',
    skipped,
  })
  const why = whyNot(context, clip, recipe)
  if (why) return skip(why)
  const number = counter.of(clip.id)
  let plan: EncodePlan
  try {
    plan = planFor(material, clip, recipe, number)
  } catch (error) {
    if (error instanceof JobFailure) return skip(error.message)
    throw error
  }
  const estimate = samples.estimateItem(material, clip, recipe, plan.method)
  const folder = await destinations.folderOf(clip, plan.files.length)
  return {
    ...base,
    number,
    outputs: plan.files.map((file) => (folder === '.' ? file.name : `${folder}/${file.name}`)),
    raster: `${plan.raster.width} × ${plan.raster.height}`,
    viewingLut: plan.viewingLut,
    fields: fieldsOf(plan),
    isSoundLaid: plan.isSoundLaid,
    method: plan.method,
    bytes: estimate?.bytes ?? null,
    basis: estimate?.basis ?? 'exact',
    skipped: null,
  }
}

/** One recipe has one size on one page: that of its plan. */
function weightOfPlan(recipe: Recipe, items: MakePlan['items'], speeds: MakeSpeeds): MakePlan['comparison'][number] {
  const going = items.filter(({ skipped }) => skipped === null)
  return {
    recipeId: recipe.id,
    name: recipe.name,
    bytes: going.reduce((sum, { bytes }) => sum + (bytes ?? 0), 0),
    basis: leastSure(going.map(({ basis }) => basis)),
    minutes: speeds.minutes(
      recipe.id,
      going.map(({ frames }) => frames),
    ),
  }
}

function compareWeight(
  context: PlanContext,
  selected: readonly KnownClip[],
  recipe: Recipe,
  speeds: MakeSpeeds,
): MakePlan['comparison'][number] {
  const { material, samples } = context
  const going = selected.flatMap((clip) => {
    if (clip.main.facts?.kind !== 'picture' || whyNot(context, clip, recipe) !== null) return []
    const estimate = samples.estimate(material, clip, recipe)
    return estimate ? [{ clip, estimate }] : []
  })
  return {
    recipeId: recipe.id,
    name: recipe.name,
    bytes: going.reduce((sum, { estimate }) => sum + estimate.bytes, 0),
    basis: leastSure(going.map(({ estimate }) => estimate.basis)),
    minutes: speeds.minutes(
      recipe.id,
      going.map(({ clip }) => clip.main.facts?.picture?.frames ?? 0),
    ),
  }
}

/**
 * Recipes that share one reading of the originals take no longer than one after another; null where one was not used
 * here yet.
 */
function addMinutes(
  lists: readonly { recipeId: string; items: MakePlan['items'] }[],
  speeds: MakeSpeeds,
): number | null {
  let sum = 0
  for (const { recipeId, items } of lists) {
    const frames = items.filter((item) => item.skipped === null).map((item) => item.frames)
    const own = frames.length ? speeds.minutes(recipeId, frames) : 0
    if (own === null) return null
    sum += own
  }
  return sum
}
