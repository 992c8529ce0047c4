import { basename } from 'node:path'
import { type LaidSound, type LinkChange, pairKindOf, type Recipe, writeSoundLink } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { explainFileError, isFileError } from '../errors.ts'
import { type Moves, NotOurs, withPlacements } from '../placements/placements.ts'
import { keptPath } from '../placements/unfinished-files.ts'
import { holdAttempt } from '../queue/attempt.ts'
import type { WorkContext } from '../queue/context.ts'
import { endJob } from '../queue/end-job.ts'
import { JobFailure } from '../queue/failure.ts'
import type { JobRow } from '../queue/jobs.ts'
import { announce, announceClips } from '../store/announce.ts'
import type { Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { contentOf, type KnownClip, type KnownPair } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { cuts, files, mends, pairs } from '../store/schema.ts'
import { recordingsOf, soundLinkOf } from '../store/sound-link.ts'
import { tiePair } from '../store/tie-pair.ts'
import { belowMade, type MakeInput, madePlaces, type Verified } from './made-item.ts'

/** The pairs that a new one takes the place of: the one a mend names, and an earlier one of the same recipe. */
function replacedPairs(clip: KnownClip, recipe: Recipe, mend: { changes: LinkChange[] } | null): KnownPair[] {
  const named = mend?.changes[0]?.before
  return clip.pairs.filter((pair) => pair.id === named || pair.recipeId === recipe.id)
}

/**
 * Gives the verified files their names, ties the pair and ends the job, all of it or nothing. What is replaced is set
 * aside, not deleted.
 */
export async function finishMake(context: WorkContext, input: MakeInput, items: readonly Verified[]): Promise<void> {
  const { database, job, config } = context
  const [{ clip: planned, place, material: known }] = items as [Verified]
  try {
    // What is replaced may lie in another place than what replaces it.
    const places = madePlaces(known)
    await withPlacements(database, places, `job ${job.id}, attempt ${job.attempts}`, async (transaction, moves) => {
      await holdAttempt(transaction, job)
      const material = await readMaterial(transaction, job.productionId, [planned.id], config.pathMap)
      const clip = material.clips.get(planned.id)
      if (!clip) throw new JobFailure(`${planned.name} was removed from the production while its proxy was made.`)
      await settleItems(transaction, moves, { job, input, items, clip, planned })
    })
  } catch (error) {
    if (error instanceof NotOurs) throw new JobFailure(error.message)
    if (isFileError(error))
      throw new JobFailure(explainFileError(error, items[0]?.files[0]?.finalPath ?? place.rootPath))
    throw error
  }
}

async function settleItems(
  transaction: Transaction,
  moves: Moves,
  given: {
    readonly job: JobRow
    readonly input: MakeInput
    readonly items: readonly Verified[]
    readonly clip: KnownClip
    /** The clip as it was when the making began. */
    readonly planned: KnownClip
  },
): Promise<void> {
  const { job, input, items, clip, planned } = given
  const [mend = null] = input.mendId ? await transaction.select().from(mends).where(eq(mends.id, input.mendId)) : []
  const changes = items.map((item) => ({ item, replaced: replacedPairs(clip, item.recipe, mend) }))
  const known = new Set(planned.pairs.map((pair) => pair.id))
  const meanwhile = changes.flatMap(({ replaced }) => replaced).find((pair) => !known.has(pair.id))
  if (meanwhile)
    throw new JobFailure(`${meanwhile.name} was made by another job meanwhile. Nothing was kept of this one.`)
  for (const { replaced } of changes) for (const pair of replaced) await setAside(transaction, moves, pair)
  for (const { place, files: written } of items)
    for (const { partPath, finalPath } of written)
      await moves.giveName(place.id, belowMade(place, partPath), belowMade(place, finalPath))
  const pairIds: string[] = []
  for (const { item, replaced } of changes) {
    const { recipe, files: written, checks } = item
    const pairId = await tieMade(transaction, item)
    pairIds.push(pairId)
    if (replaced.length || mend) await recordMend(transaction, job, clip, recipe, replaced, pairId, mend)
    // Once, at the clip: its pairs tell what is told of it as well.
    await writeHistory(
      transaction,
      job.productionId,
      'clip',
      clip.id,
      `Made ${written.map((file) => basename(file.finalPath)).join(', ')} from ${clip.name} with “${recipe.name}”, ` +
        `version ${recipe.version}; ${checks.length} facts agree.`,
    )
  }
  const checks = items.flatMap(({ checks: ofItem, recipe }) =>
    items.length === 1 ? ofItem : ofItem.map((row) => ({ ...row, recipe: recipe.name })),
  )
  const written = items.flatMap(({ files: each }) => each.map(({ described }) => described.sizeBytes))
  const bytes = written.reduce((sum, size) => sum + size, 0)
  await endJob(transaction, job, { kind: 'make', pairId: pairIds[0] as string, checks, bytes }, checks)
  // Only a cut, whose events may name what was made by its path, makes a new pair matter to other clips.
  const hasCuts = (await transaction.$count(cuts, eq(cuts.productionId, job.productionId))) > 0
  if (hasCuts) await announce(transaction, job.productionId, 'jobs', 'pairs', 'clips', 'cuts', 'mends')
  else await announceClips(transaction, job.productionId, [clip.id], 'jobs', 'pairs', 'clips', 'mends')
}

async function tieMade(transaction: Transaction, verified: Verified): Promise<string> {
  const { clip, recipe, plan, place } = verified
  const { content } = plan.raster
  const written = []
  for (const { finalPath, described, part } of verified.files) {
    const values = {
      ...described,
      volumeId: place.id,
      path: belowMade(place, finalPath),
      isGone: false,
      seenAt: new Date(),
    }
    const [row] = await transaction.insert(files).values(values).returning({ id: files.id })
    written.push({ ...(row as { id: string }), fingerprint: described.fingerprint, part })
  }
  const item = {
    name: basename((verified.files[0] as { finalPath: string }).finalPath),
    kind: pairKindOf(recipe),
    origin: 'made' as const,
    recipeId: recipe.id,
    recipeVersion: recipe.version,
    proof: verified.proof,
    viewingLut: plan.viewingLut,
    contentWidth: content.width,
    contentHeight: content.height,
    laidSound: laidSoundOf(verified),
  }
  return tiePair(transaction, clip, item, written)
}

/** What the sound of the item was made of; null where its recipe wants no recording, or its clip had none. */
function laidSoundOf({ material, clip, recipe, plan }: Verified): LaidSound | null {
  const link = recipe.syncedSound ? soundLinkOf(clip) : null
  if (!link) return null
  return {
    soundIds: plan.isSoundLaid ? link.soundIds : [],
    sound: plan.facts.sound,
    link: writeSoundLink(link),
    fingerprints: plan.isSoundLaid ? recordingsOf(material, link).map(contentOf) : [],
  }
}

/** Takes a pair out of use; the files that Ennick made for it go to its kept folder. */
async function setAside(transaction: Transaction, moves: Moves, old: KnownPair): Promise<void> {
  await transaction.update(pairs).set({ isActive: false }).where(eq(pairs.id, old.id))
  if (old.origin !== 'made') return
  for (const { file } of old.files) {
    const kept = keptPath(old.id, file.path)
    await moves.moveOwn(file, kept)
    await transaction.update(files).set({ path: kept }).where(eq(files.id, file.id))
  }
}

async function recordMend(
  transaction: Transaction,
  job: JobRow,
  clip: KnownClip,
  recipe: Recipe,
  replaced: readonly KnownPair[],
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
    await transaction.insert(mends).values({
      productionId: job.productionId,
      kind: 'make again',
      title: `Make the proxy of ${clip.name} again`,
      changes,
      state: 'done',
    })
}
