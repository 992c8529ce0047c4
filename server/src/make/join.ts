import { stat } from 'node:fs/promises'
import { basename, join } from 'node:path'
import {
  chosenNameTrouble,
  count,
  formatNumber,
  type JoinedEntry,
  joinedEntries,
  type PictureFacts,
  type Recipe,
} from '@ennick/core'
import { and, eq, isNull } from 'drizzle-orm'
import { fingerprint } from '../disk/fingerprint.ts'
import { joinFiles, proveJoined } from '../engine/join-files.ts'
import { probe } from '../engine/probe.ts'
import type { CopiedFile } from '../engine/stream-copy.ts'
import { explainFileError, isFileError, notFound, PlainError } from '../errors.ts'
import { orWait } from '../intake/assert-volume-here.ts'
import { assertInVolume, lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { NotOurs, recoverPlace, withPlacements } from '../placements/placements.ts'
import { dropUnfinished, exists, partPath, prepareFolder, removeParts } from '../placements/unfinished-files.ts'
import { holdAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { endJob } from '../queue/end-job.ts'
import { JobFailure } from '../queue/failure.ts'
import { addJob, type JobRow } from '../queue/jobs.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { joinedFiles } from '../store/job-schema.ts'
import type { JobInput } from '../store/job-types.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { KnownFile, KnownPair, Material, VolumeRow } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { type JoinItem, joinableOf, readJoinable, roomFor } from './join-plan.ts'
import { type MadeItem, madeItems } from './made-in-batch.ts'
import { belowMade, holdMade, placeOfRecipe } from './made-item.ts'
import { withMadeMoves } from './made-moves.ts'

type JoinInput = Extract<JobInput, { kind: 'join' }>

/** Where joined files go, below the place of their kind. */
const folderName = 'joined'

/** Asks for one file of all that a batch has made with a recipe. @throws PlainError when that cannot be */
export async function orderJoin(
  database: Database,
  kept: KeptMaterial,
  batchId: string,
  { recipeId, name }: { recipeId: string; name: string },
): Promise<JobRow> {
  const { productionId, material, joinable } = await readJoinable(database, kept, batchId)
  const found = joinable.find(({ recipe }) => recipe.id === recipeId)
  if (!found)
    throw new PlainError('nothing-to-join', 'This batch has no two items of that recipe that could be one file.')
  const place = placeOfRecipe(material, found.recipe)
  const trouble = found.troubles[0] ?? (await roomFor(found.items, place)).noRoom
  if (trouble) throw new PlainError('cannot-join', trouble, { status: 409 })
  const fileName = `${name}.${extensionOf(found.items)}`
  const bad = chosenNameTrouble(fileName)
  if (bad !== null) throw new PlainError('bad-name', `${fileName} is no name that goes everywhere: ${bad}.`)
  const path = join(place.rootPath, folderName, fileName)
  if (material.joined.isCalled(fileName))
    throw new PlainError(
      'name-taken',
      `A file that was joined before is called ${fileName}, or nearly so: choose another name, as a cut may name it.`,
      { status: 409 },
    )
  if (await exists(path))
    throw new PlainError('name-taken', `${path} is there already: choose another name. Nothing is ever overwritten.`, {
      status: 409,
    })
  const pairIds = found.items.map(({ pair }) => pair.id)
  return addJob(database, productionId, `Join ${formatNumber(pairIds.length)} items into ${fileName}`, {
    ...{ kind: 'join', batchId, recipeId, pairIds, fileName },
  })
}

const extensionOf = ([first]: readonly JoinItem[]): string => (first?.pair.name ?? '').split('.').at(-1) ?? 'mov'

/**
 * Makes one file of several items: under a temporary name, held against every picture of its parts, and only then
 * named. Whatever goes wrong before that leaves nothing behind.
 */
export async function joinItems(context: WorkContext, meter: ProgressMeter, input: JoinInput): Promise<null> {
  const { database, job, config } = context
  const material = await readMaterial(database, job.productionId, undefined, config.pathMap)
  const wanted = new Set(input.pairIds)
  const items = madeItems(material, (_, pair) => wanted.has(pair.id))
  return orWait(
    context,
    () => {
      const recipe = material.recipes.get(input.recipeId)
      const read = items.flatMap(({ pair }) => pair.files.map(({ file }) => file.volume))
      return [...new Set([...read, ...(recipe ? [placeOfRecipe(material, recipe)] : [])])]
    },
    'They are joined by themselves when that is back.',
    async () => joinOrder(context, meter, input, await readOrder(material, items, input)),
  )
}

async function joinOrder(
  context: WorkContext,
  meter: ProgressMeter,
  input: JoinInput,
  order: JoinOrder,
): Promise<null> {
  const { database, job } = context
  const finalPath = join(order.place.rootPath, folderName, input.fileName)
  try {
    await recoverPlace(database, order.place)
    const root = await holdMade(order.place)
    try {
      const folder = await prepareFolder(root, folderName)
      const partial = partPath(finalPath, job.id, job.attempts)
      const target = folder.at(basename(partial))
      try {
        await removeParts(folder, job.id)
        const made = await writeJoined(context, meter, order, target)
        for (const { pair } of order.items) await assertUnchanged(fileOf(pair))
        await folder.assertThere()
        await settle(context, input, order, made, { partial, finalPath })
      } finally {
        await dropUnfinished(target)
        await folder.release()
      }
    } finally {
      await root.release()
    }
  } catch (error) {
    if (error instanceof NotOurs) throw new JobFailure(error.message)
    if (isFileError(error)) throw new JobFailure(explainFileError(error, finalPath))
    throw error
  }
  return null
}

interface JoinOrder {
  readonly items: readonly JoinItem[]
  readonly entries: readonly JoinedEntry[]
  readonly recipe: Recipe
  readonly place: VolumeRow
  readonly production: string
}

/** @throws JobFailure when what was asked for is another by now */
async function readOrder(material: Material, items: readonly MadeItem[], input: JoinInput): Promise<JoinOrder> {
  const found = joinableOf(material, items).find(({ recipe }) => recipe.id === input.recipeId)
  if (found?.items.length !== new Set(input.pairIds).size)
    throw new JobFailure('What was to be joined is another by now: ask for it again.')
  const [trouble] = found.troubles
  if (trouble) throw new JobFailure(trouble)
  for (const { pair } of found.items) await assertInVolume(fileOf(pair))
  return {
    ...{ items: found.items, recipe: found.recipe, place: placeOfRecipe(material, found.recipe) },
    ...{ entries: joinedEntries(found.items.map(({ part }) => part)), production: material.production.name },
  }
}

interface Joined {
  readonly sizeBytes: number
  readonly fingerprint: string
}

/** Writes the joined file under its temporary name, and proves it. @throws JobFailure when it is not its parts */
async function writeJoined(
  { signal }: WorkContext,
  meter: ProgressMeter,
  { items, entries, recipe, production }: JoinOrder,
  target: string,
): Promise<Joined> {
  const parts = items.map(({ pair, part: { facts } }): CopiedFile => ({ fullPath: fileOf(pair).fullPath, facts }))
  const total = entries.reduce((sum, { frames }) => sum + frames, 0)
  const said = {
    ...{ production, recipe: `${recipe.name}, version ${recipe.version}` },
    joined: count(items.length, 'item'),
  }
  meter.restart(parts[0]?.facts.picture?.rate ?? null)
  const order = { parts: parts as [CopiedFile, ...CopiedFile[]], target, container: recipe.container, said }
  const { failure, soundHash } = await joinFiles(order, signal, (frames) => meter.report(frames, 2 * total, 'frames'))
  if (failure !== null) throw new JobFailure(`The items could not be joined: ${failure}.`, { log: failure })
  const { size: sizeBytes } = await stat(target)
  const facts = await probe(target, sizeBytes, { countPackets: true, signal })
  const wrong =
    facts.picture?.frames === total
      ? await proveJoined({ fullPath: target, facts }, parts, soundHash, signal, (frames) =>
          meter.report(total + frames, 2 * total, 'frames'),
        )
      : `it has ${facts.picture?.frames ?? 'no'} frames instead of ${total}`
  if (wrong !== null) throw new JobFailure(`What was joined is not its parts: ${wrong}. Nothing was kept of it.`)
  return { sizeBytes, fingerprint: await fingerprint(target, sizeBytes) }
}

/** Gives it its name, writes down what is where in it, and ends the job, all of it or nothing. */
function settle(
  { database, job }: WorkContext,
  { batchId, fileName }: JoinInput,
  { items, entries, recipe, place }: JoinOrder,
  made: Joined,
  { partial, finalPath }: { partial: string; finalPath: string },
): Promise<void> {
  const { rate } = pictureOf(items)
  const { productionId } = job
  const path = belowMade(place, finalPath)
  return withPlacements(database, [place], `job ${job.id}, attempt ${job.attempts}`, async (transaction, moves) => {
    await holdAttempt(transaction, job)
    await moves.giveName(place.id, belowMade(place, partial), path)
    const [row] = await transaction
      .insert(joinedFiles)
      .values({
        ...{ productionId, batchId, volumeId: place.id, path, recipe: recipe.name, entries, ...made },
        ...{ rateNumerator: rate.numerator, rateDenominator: rate.denominator },
      })
      .returning({ id: joinedFiles.id })
    const { id } = row as { id: string }
    const what = `Joined ${count(items.length, 'item')} into ${fileName}; every picture is that of its part.`
    await writeHistory(transaction, productionId, 'production', productionId, what)
    const frames = entries.reduce((sum, entry) => sum + entry.frames, 0)
    await endJob(transaction, job, { kind: 'join', joinedId: id, parts: items.length, frames })
    await announce(transaction, productionId, 'jobs', 'volumes')
  })
}

const pictureOf = ([first]: readonly JoinItem[]): PictureFacts => (first as JoinItem).part.facts.picture as PictureFacts

/** What can be joined is of one file. */
const fileOf = ({ files: [only] }: KnownPair): KnownFile => (only as KnownPair['files'][number]).file

async function assertUnchanged(file: KnownFile): Promise<void> {
  const stamp = await lookForPlaced(file)
  if (!stamp || !sameStamp(file, stamp))
    throw new JobFailure(`${file.fullPath} has changed or left meanwhile. Nothing was kept of what was joined.`)
}

/** Does away with a joined file that Ennick made; its parts stay. @throws PlainError when it is another file by now */
export async function removeJoined(database: Database, joinedId: string): Promise<void> {
  const [joined] = await database
    .select()
    .from(joinedFiles)
    .where(and(eq(joinedFiles.id, joinedId), isNull(joinedFiles.removedAt)))
  if (!joined) throw notFound('The joined file')
  const { productionId, path } = joined
  await withMadeMoves(database, productionId, `joined file ${joinedId}`, async (transaction, moves) => {
    await moves.discard(joined)
    await transaction.update(joinedFiles).set({ removedAt: new Date() }).where(eq(joinedFiles.id, joinedId))
    const what = `Removed the joined file ${basename(path)}; its parts stay.`
    await writeHistory(transaction, productionId, 'production', productionId, what)
    await announce(transaction, productionId, 'jobs', 'volumes')
  })
}
