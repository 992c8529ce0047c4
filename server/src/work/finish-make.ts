import { rm } from 'node:fs/promises'
import { basename, join } from 'node:path'
import { type LinkChange, pairKindOf, type Recipe } from '@ennick/core'
import { and, eq, inArray } from 'drizzle-orm'
import { explainFileError } from '../errors.ts'
import { type JobRow, summarise } from '../queue/jobs.ts'
import { announce, announceClips } from '../store/announce.ts'
import type { Database, Transaction } from '../store/database.ts'
import { record } from '../store/history.ts'
import { type JobResult, jobs } from '../store/job-schema.ts'
import { cuts, files, mends, pairFiles, pairs } from '../store/schema.ts'
import type { World, WorldClip, WorldPair } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import { JobFailure } from './failure.ts'
import { belowMade, type MakeInput, madeVolume, type Verified } from './made-item.ts'
import { exists, keptFolder, moveIfThere, placeFile } from './place.ts'

/** The pairs that a new one takes the place of: the one a mend names, and an earlier one of the same recipe. */
function replacedPairs(clip: WorldClip, recipe: Recipe, mend: { changes: LinkChange[] } | null): WorldPair[] {
  const named = mend?.changes[0]?.before
  return clip.pairs.filter((pair) => pair.id === named || pair.recipeId === recipe.id)
}

const keptPath = (world: World, pair: WorldPair, path: string): string =>
  join(keptFolder(madeVolume(world).rootPath, pair.id), basename(path))

/**
 * Gives the verified files their names, ties the pair and ends the job, in one transaction with the files' moves noted
 * before they happen. What is replaced is set aside, not deleted.
 */
export async function finishMake(context: WorkContext, input: MakeInput, items: readonly Verified[]): Promise<void> {
  const { database, job } = context
  const [{ world, clip, made }] = items as [Verified]
  const [mend = null] = input.mendId ? await database.select().from(mends).where(eq(mends.id, input.mendId)) : []
  const changes = items.map((item) => ({ item, replaced: replacedPairs(clip, item.recipe, mend) }))
  const placing = items.flatMap((item) => item.files.map((file) => belowMade(made, file.finalPath)))
  await database.update(jobs).set({ placing }).where(eq(jobs.id, job.id))
  try {
    for (const pair of changes.flatMap(({ replaced }) => replaced).filter((candidate) => candidate.origin === 'made')) {
      for (const { file } of pair.files) await moveIfThere(file.fullPath, keptPath(world, pair, file.fullPath))
    }
    for (const file of items.flatMap((item) => item.files)) await placeFile(file.partPath, file.finalPath)
  } catch (error) {
    await undoHalfPlaced(
      database,
      world,
      { ...job, placing },
      clip,
      items.map(({ recipe }) => recipe.id),
    )
    throw new JobFailure(explainFileError(error, join(made.rootPath, placing[0] ?? '')))
  }
  await database.transaction(async (transaction) => {
    const pairIds: string[] = []
    for (const { item, replaced } of changes) {
      const { recipe, files: written, checks } = item
      for (const pair of replaced) await setAside(transaction, world, pair)
      const pairId = await tiePair(transaction, item)
      pairIds.push(pairId)
      if (replaced.length || mend) await recordMend(transaction, job, clip, recipe, replaced, pairId, mend)
      await record(
        transaction,
        job.productionId,
        'pair',
        pairId,
        `Made ${written.map((file) => basename(file.finalPath)).join(', ')} from ${clip.name} with “${recipe.name}”, version ${recipe.version}; ${checks.length} facts agree.`,
      )
      await record(transaction, job.productionId, 'clip', clip.id, `Made with “${recipe.name}”, version ${recipe.version}.`)
    }
    const checks = items.flatMap((item) => item.checks)
    const result: JobResult = { kind: 'make', pairId: pairIds[0] as string, checks }
    await transaction
      .update(jobs)
      .set({ state: 'done', result, summary: summarise(result), checks, placing: null, endedAt: new Date() })
      .where(eq(jobs.id, job.id))
    // Only a cut, whose events may name what was made by its path, makes a new pair matter to other clips.
    const hasCuts = (await transaction.$count(cuts, eq(cuts.productionId, job.productionId))) > 0
    if (hasCuts) await announce(transaction, job.productionId, 'jobs', 'pairs', 'clips', 'cuts', 'mends')
    else await announceClips(transaction, job.productionId, [clip.id], 'jobs', 'pairs', 'clips', 'mends')
  })
}

async function tiePair(transaction: Transaction, verified: Verified): Promise<string> {
  const { clip, recipe, plan, made } = verified
  const { content } = plan.raster
  const [pair] = await transaction
    .insert(pairs)
    .values({
      clipId: clip.id,
      name: basename((verified.files[0] as { finalPath: string }).finalPath),
      kind: pairKindOf(recipe),
      origin: 'made',
      recipeId: recipe.id,
      recipeVersion: recipe.version,
      proof: verified.proof,
      viewingLut: plan.viewingLut,
      contentWidth: content.width,
      contentHeight: content.height,
      originalFingerprints: clip.files.map((file) => file.fingerprint),
      madeFingerprints: verified.files.map((file) => file.described.fingerprint),
      comparison: verified.checks,
      checkedAt: new Date(),
    })
    .returning({ id: pairs.id })
  const pairId = (pair as { id: string }).id
  for (const [ordinal, file] of verified.files.entries()) {
    const path = belowMade(made, file.finalPath)
    const values = { ...file.described, volumeId: made.id, path, isGone: false, seenAt: new Date() }
    const [row] = await transaction.insert(files).values(values).returning({ id: files.id })
    await transaction.insert(pairFiles).values({ pairId, ordinal, fileId: (row as { id: string }).id, part: file.part })
  }
  return pairId
}

/** Takes a pair out of use; the files that Ennick made for it lie in its kept folder. */
async function setAside(transaction: Transaction, world: World, old: WorldPair): Promise<void> {
  await transaction.update(pairs).set({ isActive: false }).where(eq(pairs.id, old.id))
  if (old.origin !== 'made') return
  const made = madeVolume(world)
  for (const { file } of old.files)
    await transaction
      .update(files)
      .set({ path: belowMade(made, keptPath(world, old, file.fullPath)) })
      .where(eq(files.id, file.id))
}

async function recordMend(
  transaction: Transaction,
  job: JobRow,
  clip: WorldClip,
  recipe: Recipe,
  replaced: readonly WorldPair[],
  after: string,
  mend: { id: string } | null,
): Promise<void> {
  const link = { kind: 'pair' as const, clipId: clip.id, recipeId: recipe.id }
  const label = `${clip.name}: made again with “${recipe.name}”`
  const changes: LinkChange[] = replaced.length
    ? replaced.map((pair) => ({ link, before: pair.id, after, label: `${label}, in place of ${pair.name}` }))
    : [{ link, before: null, after, label }]
  if (mend) await transaction.update(mends).set({ changes, state: 'done' }).where(eq(mends.id, mend.id))
  else
    await transaction
      .insert(mends)
      .values({ productionId: job.productionId, kind: 'make again', title: `Make the proxy of ${clip.name} again`, changes, state: 'done' })
}

/**
 * Heals what an attempt left that died between the first move and the end of its transaction: files it had placed are
 * removed, and those it had set aside go back.
 */
export async function undoHalfPlaced(
  database: Database,
  world: World,
  job: JobRow,
  clip: WorldClip,
  recipeIds: readonly string[],
): Promise<void> {
  if (!job.placing?.length) return
  const made = madeVolume(world)
  const known = new Set(
    (
      await database
        .select({ path: files.path })
        .from(files)
        .where(and(eq(files.volumeId, made.id), inArray(files.path, job.placing)))
    ).map((row) => row.path),
  )
  const old = clip.pairs.filter((pair) => pair.origin === 'made')
  for (const below of job.placing) {
    const path = join(made.rootPath, below)
    const owned = old.flatMap((pair) => pair.files.map(({ file }) => ({ pair, file }))).find(({ file }) => file.fullPath === path)
    const kept = owned ? keptPath(world, owned.pair, path) : null
    if (kept !== null && (await exists(kept))) {
      await rm(path, { force: true })
      await moveIfThere(kept, path)
    } else if (!known.has(below)) await rm(path, { force: true })
  }
  for (const pair of old.filter((candidate) => recipeIds.includes(candidate.recipeId ?? ''))) {
    for (const { file } of pair.files)
      if (!(await exists(file.fullPath))) await moveIfThere(keptPath(world, pair, file.fullPath), file.fullPath)
  }
  await database.update(jobs).set({ placing: null }).where(eq(jobs.id, job.id))
}
