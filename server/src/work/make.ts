import { mkdir, rm, statfs } from 'node:fs/promises'
import { basename, extname, join } from 'node:path'
import {
  compareColour,
  comparePictures,
  compareTwin,
  type EncodePlan,
  type EvidenceRow,
  estimateSize,
  formatTimecode,
  type MadePart,
  madeColour,
  type PictureFacts,
  type PictureHash,
  planEncode,
  type Recipe,
  RecipeError,
  rowsOfBurnIn,
  sampleFrames,
  sourceName,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import { findDamagedFrames } from '../engine/damage.ts'
import { type EncodeOutcome, encode } from '../engine/encode.ts'
import { fontPath } from '../engine/luts.ts'
import { hashFrames, withHashes } from '../engine/picture-proof.ts'
import { explainFileError } from '../errors.ts'
import { assignedLut, lutFile } from '../store/luts.ts'
import { readRecipe } from '../store/recipes.ts'
import { files } from '../store/schema.ts'
import { productionFormat, productionRate, readWorld, type VolumeRow, type World, type WorldClip } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import { describeFile, describePlaced, sameStamp, stampOf, stampOfPlaced } from './describe-file.ts'
import { Destinations } from './destination.ts'
import { JobFailure } from './failure.ts'
import { finishMake, undoHalfPlaced } from './finish-make.ts'
import { type MakeInput, madeVolume, type Verified, type VerifiedFile } from './made-item.ts'
import { NameCounter } from './name-counter.ts'
import { exists, partPath } from './place.ts'
import type { ProgressMeter } from './progress.ts'

/**
 * Makes one item from one original: encodes under temporary names, verifies every file against the original, and only
 * then gives them their names and ties the pair. Whatever goes wrong before that leaves nothing behind.
 */
export async function makeItem(context: WorkContext, meter: ProgressMeter, input: MakeInput): Promise<void> {
  const { database, job, signal } = context
  const recipe = await readRecipe(database, input.recipeId, input.recipeVersion)
  if (!recipe) throw new JobFailure(`There is no recipe “${input.recipeId}”.`)
  const world = await readFreshWorld(context, input.clipId)
  const clip = world.clips.get(input.clipId)
  if (!clip) throw new JobFailure('The clip was removed before its proxy was made.')
  assertPresent(clip)
  const made = madeVolume(world)
  const plan = planFor(world, clip, recipe, input.index ?? (await NameCounter.read(database, job.productionId, recipe.id)).of(clip.id))
  const destinations = new Destinations(made, recipe)
  const folderBelow = await destinations.folderOf(clip, plan.files.length)
  const folder = join(made.rootPath, folderBelow)
  const finalPaths = plan.files.map((file) => join(folder, file.name))
  await undoHalfPlaced(database, world, job, clip, recipe)
  await prepareFolder(folder)
  await destinations.removeParts(folderBelow, job.id)
  await assertRoom(folder, world, clip, recipe)
  await assertFree(world, clip, recipe, finalPaths)

  const lut = await lutFile(database, context.config, plan.viewingLut)
  const parts = finalPaths.map((path) => partPath(path, job.id, job.attempts))
  try {
    const total = clip.main.facts?.picture?.frames ?? 0
    meter.restart()
    const verified = await withHashes(async (hashes, readHashes) => {
      const outcome = await encode(
        plan,
        { inputs: clip.files, outputs: parts, lut, font: fontPath, hashes },
        {
          signal,
          onProgress: ({ frames, framesPerSecond }) => meter.report(frames, total, 'frames', framesPerSecond),
        },
      )
      if (outcome.failure !== null) throw new JobFailure(await betterReason(clip, outcome, signal), { log: outcome.log })
      return verify(world, clip, recipe, plan, made, parts, finalPaths, await readHashes(), signal)
    })
    await meter.close()
    await finishMake(context, input, verified)
  } finally {
    await Promise.all(parts.map((path) => rm(path, { force: true })))
  }
}

/** Stills and takes of several files are called by their clip; one file by itself. */
const originalName = (clip: WorldClip): string =>
  clip.main.sequence || clip.files.length > 1 ? `${clip.name}${extname(clip.main.path)}` : basename(clip.main.path)

/** @param index the clip's number, from 0, for names that count */
export function planFor(world: World, clip: WorldClip, recipe: Recipe, index = 0): EncodePlan {
  if (!clip.main.facts) throw new JobFailure(`${clip.name} cannot be read: ${clip.main.problem ?? 'nothing is known of it'}`)
  try {
    return planEncode({
      name: originalName(clip),
      facts: clip.main.facts,
      reel: clip.reel,
      recipe,
      format: productionFormat(world.production),
      production: world.production.name,
      scene: clip.described.scene?.value ?? null,
      take: clip.described.take?.value ?? null,
      camera: clip.described.camera?.value ?? null,
      day: clip.described.day?.value ?? null,
      viewingLut: assignedLut(world, clip),
      index,
    })
  } catch (error) {
    if (error instanceof RecipeError) throw new JobFailure(error.message)
    throw error
  }
}

/** The ledger, with the original read again when it is not as it was at the scan, so that nothing is made by old facts. */
async function readFreshWorld({ database, job, signal }: WorkContext, clipId: string): Promise<World> {
  const world = await readWorld(database, job.productionId)
  const clip = world.clips.get(clipId)
  if (!clip || clip.main.presence === 'away') return world
  const stamp = await stampOfPlaced(clip.main).catch(() => null)
  if (stamp && sameStamp(clip.main, stamp) && !clip.main.isGone) return world
  const update = stamp
    ? { ...(await describePlaced(clip.main, stamp, productionRate(world.production), signal)), isGone: false }
    : { isGone: true }
  await database.update(files).set(update).where(eq(files.id, clip.main.id))
  return readWorld(database, job.productionId)
}

function assertPresent(clip: WorldClip): void {
  const label = clip.main.volume.label
  if (clip.presence === 'away') throw new JobFailure(`${clip.name} is on volume “${label}”, which is away. Put it in, and retry.`)
  if (clip.presence === 'gone')
    throw new JobFailure(`${clip.main.fullPath} is gone, though volume “${label}” is here. Find it in Mend, and retry.`)
}

/** When the encoder fails because the volume left under it, or because frames are damaged, that is the reason to tell. */
async function betterReason(clip: WorldClip, outcome: EncodeOutcome, signal: AbortSignal): Promise<string> {
  if (await stampOfPlaced(clip.main).catch(() => null))
    return (outcome.mayBeDamaged && (await damageOf(clip, signal))) || String(outcome.failure)
  return `${clip.main.fullPath} disappeared while it was read: was volume “${clip.main.volume.label}” taken out? Put it in, and retry.`
}

/** Names the damaged frames of a clip of one file, or null when none are found. */
async function damageOf(clip: WorldClip, signal: AbortSignal): Promise<string | null> {
  const { facts, sequence, fullPath } = clip.main
  if (!facts?.picture || sequence || clip.files.length > 1) return null
  const damaged = await findDamagedFrames(fullPath, facts.picture, signal)
  if (damaged.length === 0) return null
  const { rate } = facts.picture
  const label = (frame: number): string =>
    facts.startFrame === null ? String(frame) : `${frame} (${formatTimecode(facts.startFrame + frame, rate, facts.dropFrame)})`
  const shown = damaged.slice(0, mostDamagedShown).map(label).join(', ')
  const more = damaged.length > mostDamagedShown ? ` and ${damaged.length - mostDamagedShown} more` : ''
  return `${fullPath} is damaged: ${damaged.length === 1 ? 'frame' : 'frames'} ${shown}${more} cannot be decoded. Nothing was made of it. Take the file from its card or another copy again.`
}

const mostDamagedShown = 6

async function prepareFolder(folder: string): Promise<void> {
  try {
    await mkdir(folder, { recursive: true })
  } catch (error) {
    throw new JobFailure(explainFileError(error, folder))
  }
}

async function assertRoom(folder: string, world: World, clip: WorldClip, recipe: Recipe): Promise<void> {
  const estimate = clip.main.facts ? estimateSize(clip.main.facts, recipe, productionFormat(world.production)) : null
  const { bavail, bsize } = await statfs(folder)
  const free = Number(bavail) * Number(bsize)
  if (estimate && free < estimate.bytes * 1.1) {
    throw new JobFailure(
      `There is not enough space at ${folder}: about ${megabytes(estimate.bytes)} are needed and ${megabytes(free)} are free. Free some, and retry.`,
    )
  }
}

const megabytes = (bytes: number): string => `${(bytes / 1_000_000).toFixed(1)} MB`

/** A place is free when nothing is there, or only this clip's own earlier item of the recipe. */
async function assertFree(world: World, clip: WorldClip, recipe: Recipe, finalPaths: readonly string[]): Promise<void> {
  const own = new Set(
    clip.pairs
      .filter((pair) => pair.recipeId === recipe.id && pair.origin === 'made')
      .flatMap((pair) => pair.files.map(({ file }) => file.fullPath)),
  )
  for (const path of finalPaths) {
    if (own.has(path) || !(await exists(path))) continue
    const owner = [...world.files.values()].find((file) => file.fullPath === path)
    throw new JobFailure(
      `${path} is already there${owner ? '' : ', and Ennick did not make it'}. Move it away, and retry: nothing is ever overwritten.`,
    )
  }
}

async function verify(
  world: World,
  clip: WorldClip,
  recipe: Recipe,
  plan: EncodePlan,
  made: VolumeRow,
  parts: readonly string[],
  finalPaths: readonly string[],
  hashes: readonly PictureHash[],
  signal: AbortSignal,
): Promise<Verified> {
  const verified: VerifiedFile[] = []
  const madeParts: MadePart[] = []
  for (const [index, file] of plan.files.entries()) {
    const path = parts[index] as string
    const stamp = await stampOf(path).catch(() => null)
    if (!stamp) throw new JobFailure(`The encoder ended without writing ${file.name}.`)
    // Packets of the picture are counted: a container's own account is no proof.
    const described = await describeFile(path, stamp, { countPackets: file.part !== 'sound', signal })
    if (!described.facts) throw new JobFailure(`What was made of ${clip.name} cannot be read back: ${described.problem}`)
    verified.push({ partPath: path, finalPath: finalPaths[index] as string, part: file.part, described })
    madeParts.push({ part: file.part, name: file.name, facts: described.facts })
  }
  const { content } = plan.raster
  const facts = { ...plan.facts, sound: plan.tracks }
  const named = recipe.namePattern === sourceName ? {} : { plannedName: `${plan.base}${recipe.suffix}` }
  const checks = compareTwin({ name: originalName(clip), ...named, facts, reel: clip.reel }, madeParts, world.production.proxySuffixes, {
    width: content.width,
    height: content.height,
  })
  const colour = madeParts[0]?.facts.picture?.colour
  const proof = [
    await provePictures(clip, plan, parts[0] as string, hashes, signal),
    ...(colour ? [compareColour(madeColour(plan), colour)] : []),
  ]
  const wrong = [...checks, ...proof].filter((row) => !row.agrees)
  if (wrong.length) {
    const list = wrong
      .map((row) => `${row.aspect}: ${row.aspect === 'pictures' ? row.difference : `${row.found} instead of ${row.expected}`}`)
      .join('; ')
    throw new JobFailure(`What was made of ${clip.name} is not its twin — ${list}. Nothing was kept of it.`, {
      checks: [...wrong, ...checks.filter((row) => row.agrees)],
    })
  }
  return { world, clip, recipe, plan, made, files: verified, checks: [...checks, ...proof], proof }
}

/** Looks at pictures of what was made beside those that went into the encoder: none may be wrong, shifted, black or frozen. */
async function provePictures(
  clip: WorldClip,
  plan: EncodePlan,
  path: string,
  hashes: readonly PictureHash[],
  signal: AbortSignal,
): Promise<EvidenceRow> {
  const picture = plan.facts.picture as PictureFacts
  const made = await hashFrames(plan, path, sampleFrames(picture.frames, picture.rate), signal)
  if (typeof made === 'string')
    throw new JobFailure(`What was made of ${clip.name} does not decode cleanly: ${made}. Nothing was kept of it.`)
  return comparePictures(hashes, made, rowsOfBurnIn(plan.recipe.burnIn?.heightPercent ?? null))
}
