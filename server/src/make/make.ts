import { hostname } from 'node:os'
import { basename, join, posix } from 'node:path'
import {
  type EncodeItem,
  type EncodePlan,
  groupBy,
  normalName,
  planEncode,
  type Recipe,
  RecipeError,
} from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { type Config, pictureFolder } from '../config.ts'
import type { HeldFolder } from '../disk/held-folder.ts'
import { copyHashed, readBack } from '../engine/copy.ts'
import { encode } from '../engine/encode.ts'
import { builtInLutPath, fontPath } from '../engine/luts.ts'
import { withHashes } from '../engine/picture-proof.ts'
import { stripBeside } from '../engine/pictures.ts'
import { explainFileError, isFileError } from '../errors.ts'
import { orWait } from '../intake/assert-volume-here.ts'
import { assertInVolume, describePlaced, lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { asKnownStills } from '../intake/stills-mark.ts'
import { recoverPlace } from '../placements/placements.ts'
import { dropUnfinished, exists, partPath } from '../placements/unfinished-files.ts'
import { ofAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { KnownClip, Material, VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { nameSourceOf } from '../store/name-source.ts'
import { placeOf, whyAway } from '../store/place-words.ts'
import { productionFormat, productionRate } from '../store/production-row.ts'
import { readRecipe } from '../store/recipes.ts'
import { files } from '../store/schema.ts'
import { lookForVolume } from '../store/volume-presence.ts'
import { betterReason } from './explain-failure.ts'
import { finishMake } from './finish-make.ts'
import { assignedLut, lutFile } from './luts.ts'
import {
  belowMade,
  holdMade,
  type MakeChoice,
  type MakeInput,
  type MakeOrder,
  openPaths,
  placeOfRecipe,
  type Verified,
} from './made-item.ts'
import { NameCounter } from './name-counter.ts'
import { Destinations } from './numbered-folders.ts'
import { SizeSamples } from './size-samples.ts'
import { soundOf, withLaidSound, withRecordings } from './synced-sound.ts'
import { verifyItem } from './verify-item.ts'
import { workedOn } from './worked-on.ts'

const thenMade = 'It is made by itself when that is back.'

/**
 * Makes items from one original in one reading: encodes under temporary names, verifies every file against the
 * original, and only then gives them their names and ties the pairs. Whatever goes wrong before that leaves nothing
 * behind.
 */
export const makeItems = (context: WorkContext, meter: ProgressMeter, input: MakeInput): Promise<void> =>
  orWait(
    context,
    () => workedOn(context, input),
    thenMade,
    () => makeFromOriginal(context, meter, input),
  )

async function makeFromOriginal(context: WorkContext, meter: ProgressMeter, input: MakeInput): Promise<void> {
  const { database } = context
  const material = await readFreshMaterial(context, input.clipId)
  const clip = material.clips.get(input.clipId)
  if (!clip) throw new JobFailure('The clip was removed before its proxy was made.')
  assertPresent(clip)
  const choices = []
  for (const choice of [input, ...(input.also ?? [])]) {
    const recipe = await readRecipe(database, choice.recipeId, choice.recipeVersion)
    if (!recipe) throw new JobFailure(`There is no recipe “${choice.recipeId}”.`)
    choices.push({ ...choice, recipe, place: placeOfRecipe(material, recipe) })
  }
  const places = [...new Set(choices.map(({ place }) => place))]
  for (const place of places) await assertSeen(database, place)
  for (const file of clip.files)
    await assertInVolume(file).catch((error) => {
      throw new JobFailure(explainFileError(error, file.fullPath))
    })
  // What a dead attempt had placed and not tied is taken back before it is looked what is there.
  for (const place of places)
    await recoverPlace(database, place).catch((error) => {
      throw isFileError(error) ? new JobFailure(explainFileError(error, place.rootPath)) : error
    })
  // What is held and lies about while it works, and must not when it has ended, well or not.
  const orders: MakeOrder[] = []
  const seats: { folder: HeldFolder; name: string }[] = []
  const roots = new Map<VolumeRow, HeldFolder>()
  try {
    for (const place of places) roots.set(place, await holdMade(place))
    for (const choice of choices) {
      const root = roots.get(choice.place) as HeldFolder
      orders.push(await prepareOrder(context, material, root, clip, choice, seats))
    }
    await makeOrders(context, meter, material, clip, orders, async (verified) => {
      for (const { folder } of orders) await folder.assertThere()
      await finishMake(context, input, verified)
    })
  } catch (error) {
    if (!isFileError(error)) throw error
    const path = (error as NodeJS.ErrnoException).path ?? places.map(({ rootPath }) => rootPath).join(', ')
    throw new JobFailure(
      explainFileError(
        error,
        [...roots.values(), ...orders.map(({ folder }) => folder)].reduce((words, held) => held.readable(words), path),
      ),
    )
  } finally {
    const unfinished = [...seats.map(({ folder, name }) => folder.at(name)), ...orders.flatMap(openPaths)]
    await dropUnfinished(...unfinished)
    for (const folder of new Set([...orders, ...seats].map((each) => each.folder))) await folder.release()
    for (const root of roots.values()) await root.release()
  }
}

/** Encodes or copies what was ordered and proves it. @param finish what becomes of it then */
async function makeOrders(
  { database, config, job, signal, pause }: WorkContext,
  meter: ProgressMeter,
  material: Material,
  clip: KnownClip,
  orders: readonly MakeOrder[],
  finish: (verified: Verified[]) => Promise<void>,
): Promise<void> {
  assertApart(orders)
  const outputs = orders.flatMap(({ place, finalPaths }) => finalPaths.map((path) => belowMade(place, path)))
  await database
    .update(jobs)
    .set({ files: { source: clip.main.fullPath, outputs } })
    .where(ofAttempt(job))
  await assertRoom(database, material, clip, orders)
  const isDecoded = orders.some(({ plan }) => plan.method === 'encode')
  const beside = isDecoded ? await stripOf(clip, config) : null
  try {
    const total = clip.main.facts?.picture?.frames ?? 0
    meter.restart(clip.main.facts?.picture?.rate ?? null)
    const verified = await withHashes(orders.length, async (hashes, readHashes) => {
      for (const order of orders.filter(({ plan }) => plan.method === 'as it is'))
        await copyAsItIs(clip, order, meter, { signal, pause })
      const [item, ...items] = orders.flatMap((order, index): EncodeItem[] =>
        order.plan.method === 'as it is'
          ? []
          : [{ plan: order.plan, outputs: openPaths(order), lut: order.lut, hashes: hashes[index] as string }],
      )
      if (item) {
        const laid = orders.find(({ plan }) => plan.isSoundLaid)
        const synced = laid && clip.main.facts ? soundOf(material, clip, clip.main.facts, laid.recipe) : null
        const outcome = await withLaidSound(clip, synced, signal, (sound) =>
          encode(
            [item, ...items],
            { inputs: clip.files, font: fontPath, sound, strip: beside?.strip ?? null },
            {
              signal,
              pause,
              onProgress: (frames) => {
                if (isDecoded) meter.report(frames, total, 'frames')
                // What is only put into another container says nothing of how fast this machine encodes.
                else
                  meter.report(
                    Math.round((clip.main.sizeBytes * frames) / Math.max(1, total)),
                    clip.main.sizeBytes,
                    'bytes',
                  )
              },
            },
          ),
        )
        if (outcome.failure !== null) {
          const readable = (text: string): string => orders.reduce((words, { folder }) => folder.readable(words), text)
          throw new JobFailure(readable(await betterReason(clip, outcome, signal)), { log: readable(outcome.log) })
        }
      }
      if (isDecoded) meter.checking(total, 'frames')
      else meter.checking(clip.main.sizeBytes, 'bytes')
      return inTurn(orders, async (order, index) =>
        verifyItem(material, clip, order, order.plan.method === 'encode' ? await readHashes(index) : [], {
          signal,
          pause,
        }),
      )
    })
    await beside?.keep()
    await meter.close()
    await pause.ended(signal)
    await finish(verified)
  } finally {
    await beside?.drop()
  }
}

/** Works on one after another, so that the second sees what the first has done. */
async function inTurn<T, R>(list: readonly T[], work: (each: T, index: number) => Promise<R>): Promise<R[]> {
  const results: R[] = []
  for (const [index, each] of list.entries()) results.push(await work(each, index))
  return results
}

/** A file that is what the recipe makes already is copied, and the copy read back. */
async function copyAsItIs(
  clip: KnownClip,
  order: MakeOrder,
  meter: ProgressMeter,
  watch: Pick<WorkContext, 'signal' | 'pause'>,
): Promise<void> {
  const [part] = openPaths(order) as [string]
  let bytes = 0
  const options = {
    kind: 'xxh64',
    ...watch,
    onBytes: (more: number) => {
      bytes += more
      meter.report(bytes, 2 * clip.main.sizeBytes, 'bytes')
    },
  } as const
  const read = await copyHashed(clip.main.fullPath, part, options)
  if ((await readBack(part, options)).hash !== read)
    throw new JobFailure(
      `The copy of ${clip.name} reads back otherwise than it was written: the disk may be failing. Nothing was kept of it.`,
    )
}

async function stripOf({ main }: KnownClip, config: Config): ReturnType<typeof stripBeside> {
  return main.facts
    ? stripBeside({ ...main, facts: main.facts }, pictureFolder(config.dataFolder), builtInLutPath)
    : null
}

/** Finds out where an item of a recipe goes, and makes sure that it may go there. */
async function prepareOrder(
  context: WorkContext,
  material: Material,
  root: HeldFolder,
  clip: KnownClip,
  { recipe, place, index }: { readonly recipe: Recipe; readonly place: VolumeRow } & MakeChoice,
  seats: { folder: HeldFolder; name: string }[],
): Promise<MakeOrder> {
  const { database, config, job } = context
  const plan = planFor(
    material,
    clip,
    recipe,
    index ?? (await NameCounter.read(database, job.productionId, recipe.id)).of(clip.id),
  )
  const destinations = new Destinations(place, recipe)
  await destinations.removeParts(root, clip, job.id)
  const { folder, below, seats: taken } = await destinations.claim(database, root, clip, plan.files.length, job)
  try {
    seats.push(...taken.map((name) => ({ folder, name })))
    const finalPaths = plan.files.map((file) => join(place.rootPath, below, file.name))
    await assertFree(database, place, clip, recipe, finalPaths)
    const partPaths = finalPaths.map((path) => partPath(path, job.id, job.attempts))
    for (const [number, path] of finalPaths.entries())
      await folder.assertTakes(basename(path), basename(partPaths[number] as string))
    const lut = await lutFile(database, config, plan.viewingLut)
    return {
      recipe,
      plan,
      lut,
      place,
      folder,
      finalPaths,
      partPaths,
    }
  } catch (error) {
    if (taken.length === 0) await folder.release()
    throw error
  }
}

/** Two recipes of one job may not call their files alike. */
function assertApart(orders: readonly MakeOrder[]): void {
  const owners = new Map<string, string>()
  for (const { recipe, finalPaths } of orders)
    for (const path of finalPaths) {
      const key = normalName(path)
      const owner = owners.get(key)
      if (owner !== undefined)
        throw new JobFailure(
          `“${owner}” and “${recipe.name}” would both write ${path}. Give one of them another suffix or other folders.`,
        )
      owners.set(key, recipe.name)
    }
}

/** @param index the clip's number, from 0, for names that count */
export function planFor(material: Material, clip: KnownClip, recipe: Recipe, index = 0): EncodePlan {
  if (!clip.main.facts)
    throw new JobFailure(`${clip.name} cannot be read: ${clip.main.problem ?? 'nothing is known of it'}`)
  const sound = soundOf(material, clip, clip.main.facts, recipe)
  try {
    return planEncode({
      ...nameSourceOf(material.production, clip),
      sourceFile: basename(clip.main.path),
      sourcePlace: { folder: posix.dirname(clip.main.path).replace(/^\.$/, ''), volume: clip.main.volume.label },
      facts: sound.facts,
      isSoundLaid: sound.laid !== null,
      recipe,
      format: productionFormat(material.production),
      viewingLut: assignedLut(material, clip),
      files: clip.main.sequence ? 2 : clip.files.length,
      index,
    })
  } catch (error) {
    if (error instanceof RecipeError) throw new JobFailure(error.message)
    throw error
  }
}

/**
 * The ledger, with the original read again when it is not as it was at the scan, so that nothing is made by old facts.
 */
async function readFreshMaterial({ database, config, job, signal }: WorkContext, clipId: string): Promise<Material> {
  const clipIds = await withRecordings(database, [clipId])
  const read = (): Promise<Material> => readMaterial(database, job.productionId, clipIds, config.pathMap)
  const material = await read()
  const clip = material.clips.get(clipId)
  if (!clip || clip.main.presence === 'away' || clip.main.isReplaced) return material
  await assertSeen(database, clip.main.volume)
  const stamp = await lookForPlaced(clip.main).catch((error) => {
    throw new JobFailure(explainFileError(error, clip.main.fullPath))
  })
  if (stamp && sameStamp(clip.main, stamp) && !clip.main.isGone) return material
  const reading = { rate: productionRate(material.production), knownAs: asKnownStills(clip.main), signal }
  const update = stamp ? { ...(await describePlaced(clip.main, stamp, reading)), isGone: false } : { isGone: true }
  await database.update(files).set(update).where(eq(files.id, clip.main.id))
  return read()
}

function assertPresent(clip: KnownClip): void {
  const away = clip.files.find(({ presence }) => presence === 'away')
  if (away) throw new JobFailure(`${whyAway(away.volume)} ${thenMade}`, { waitsForVolume: away.volume.id })
  if (clip.presence === 'gone')
    throw new JobFailure(`${placeOf(clip.main)} is gone, though that is here. Find it in Mend, and retry.`)
}

/** A worker on another machine may have the storage elsewhere, or not at all: it must not begin a second one. */
async function assertSeen(database: Database, volume: VolumeRow): Promise<void> {
  const { label, rootPath } = volume
  if (!(await lookForVolume(database, volume)))
    throw new JobFailure(
      `The worker on ${hostname()} has no ${rootPath}, where volume “${label}” lies: nothing is there, or an empty or another folder. Connect it, or tell that worker where it has it (./ennick worker --path), and retry.`,
    )
}

/** By the sizes that the plan told, so that it is not refused here what was admitted there. */
async function assertRoom(
  database: Database,
  material: Material,
  clip: KnownClip,
  orders: readonly MakeOrder[],
): Promise<void> {
  const recipes = orders.map(({ recipe }) => recipe)
  const samples = await SizeSamples.read(database, material.production.id, recipes)
  const wanted = orders.map(({ plan, recipe, folder }) => ({
    folder,
    bytes: samples.estimateItem(material, clip, recipe, plan.method)?.bytes ?? 0,
  }))
  for (const [, onDisk] of groupBy(wanted, ({ folder }) => folder.device)) {
    const [{ folder }] = onDisk as [(typeof onDisk)[number]]
    const bytes = onDisk.reduce((sum, each) => sum + each.bytes, 0)
    const free = await folder.freeBytes()
    if (free < bytes * 1.1)
      throw new JobFailure(
        `There is not enough space at ${folder.path}: about ${megabytes(bytes)} are needed and ${megabytes(free)} are free. Free some, and retry.`,
      )
  }
}

const megabytes = (bytes: number): string => `${(bytes / 1_000_000).toFixed(1)} MB`

/** A place is free when nothing is there, or only this clip's own earlier item of the recipe. */
async function assertFree(
  database: Database,
  place: VolumeRow,
  clip: KnownClip,
  recipe: Recipe,
  finalPaths: readonly string[],
): Promise<void> {
  const own = new Set(
    clip.pairs
      .filter((pair) => pair.recipeId === recipe.id && pair.origin === 'made')
      .flatMap((pair) => pair.files.map(({ file }) => file.fullPath)),
  )
  for (const path of finalPaths) {
    if (own.has(path) || !(await exists(path))) continue
    const [owner] = await database
      .select({ id: files.id })
      .from(files)
      .where(and(eq(files.volumeId, place.id), eq(files.path, belowMade(place, path))))
    throw new JobFailure(
      `${path} is already there${owner ? '' : ', and Ennick did not make it'}. Move it away, and retry: nothing is ever overwritten.`,
    )
  }
}
