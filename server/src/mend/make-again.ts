import { basename } from 'node:path'
import type { LinkChange } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { filesOfPair, withMadeMoves } from '../pairs/made-moves.ts'
import type { Moves } from '../placements/placements.ts'
import { isSetAside } from '../placements/unfinished-files.ts'
import { addJob, makeKey, readMakesUnderWay } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { readMaterial } from '../store/material.ts'
import { files, mends, pairs } from '../store/schema.ts'
import { type MendRow, undoLinks } from './links.ts'
import { undoPad } from './pad.ts'
import { undoRename } from './rename.ts'
import { undoVersion } from './version-mend.ts'

/** What an adopted proxy is made again with: nobody knows the recipe of the one that it replaces. */
const recipeForAdopted = 'half-h264-intra'

/**
 * Queues the making of some pairs' proxies again. Each is a mend of its own that is done when its job is.
 * @param cutId the cut for which it is done, if it is done for one
 */
export async function makeAgain(
  database: Database,
  cutId: string | null,
  productionId: string,
  pairIds: readonly string[],
): Promise<MendRow[]> {
  const material = await readMaterial(database, productionId)
  return database.transaction(async (transaction) => {
    const underWay = new Set(await readMakesUnderWay(transaction, productionId))
    const queued: MendRow[] = []
    for (const pairId of new Set(pairIds)) {
      const pair = material.pairs.get(pairId)
      if (!pair) throw notFound('This pair')
      const clip = material.clips.get(pair.clipId)
      if (clip?.presence !== 'here')
        throw new PlainError(
          'original-missing',
          `The proxy ${pair.name} cannot be made again: its original is not here. Mend the original first.`,
          { status: 409 },
        )
      const recipeId = pair.recipeId ?? recipeForAdopted
      if (underWay.has(makeKey(clip.id, recipeId)))
        throw new PlainError(
          'on-the-queue',
          `The proxy ${pair.name} is on the queue already: it is being made, or waits to be.`,
          {
            status: 409,
          },
        )
      underWay.add(makeKey(clip.id, recipeId))
      const change: LinkChange = {
        link: { kind: 'pair', clipId: clip.id, recipeId },
        before: pair.id,
        after: null,
        label: `${clip.name}: make the proxy again`,
      }
      const [mend] = await transaction
        .insert(mends)
        .values({
          productionId,
          cutId,
          kind: 'make again',
          title: `Make the proxy of ${clip.name} again`,
          changes: [change],
          state: 'waiting',
        })
        .returning()
      queued.push(mend as MendRow)
      await addJob(transaction, productionId, `Make ${clip.name} again`, {
        kind: 'make',
        clipId: clip.id,
        recipeId,
        mendId: (mend as MendRow).id,
      })
    }
    await announce(transaction, productionId, 'mends')
    return queued
  })
}

/** Takes a mend back, whatever kind it is. */
export async function undoMend(database: Database, mend: MendRow): Promise<void> {
  if (mend.state !== 'done')
    throw new PlainError(
      'not-done',
      mend.state === 'undone'
        ? 'This mend was taken back already.'
        : 'This mend is not done, so there is nothing to take back.',
      { status: 409 },
    )
  const isVersion = mend.kind === 'trim' || mend.kind === 'replace from the start'
  if (mend.kind === 'repoint' || isVersion) {
    await database.transaction(async (transaction) => {
      await holdMend(transaction, mend)
      await (isVersion ? undoVersion : undoLinks)(transaction, mend)
      await settleUndo(transaction, mend)
    })
    return
  }
  await withMadeMoves(database, mend.productionId, `undo of mend ${mend.id}`, async (transaction, moves) => {
    await holdMend(transaction, mend)
    await exchangePairs(transaction, moves, mend)
    await settleUndo(transaction, mend)
  })
}

/** Keeps a second undo out until this one is written. */
async function holdMend(transaction: Transaction, mend: MendRow): Promise<void> {
  const [locked] = await transaction.select().from(mends).where(eq(mends.id, mend.id)).for('update')
  if (locked?.state !== 'done') throw new PlainError('not-done', 'This mend was taken back already.', { status: 409 })
}

async function settleUndo(transaction: Transaction, mend: MendRow): Promise<void> {
  await transaction.update(mends).set({ state: 'undone', undoneAt: new Date() }).where(eq(mends.id, mend.id))
  await announce(transaction, mend.productionId, 'mends', 'cuts', 'pairs', 'clips', 'volumes')
}

/**
 * Does away with the newer made item and puts what it replaced back in use, so that nothing of the mend is left. Only
 * files that Ennick made are moved or removed.
 */
async function exchangePairs(transaction: Transaction, moves: Moves, mend: MendRow): Promise<void> {
  if (mend.kind === 'untie') return tieAgain(transaction, moves, mend)
  if (mend.kind === 'rename') return undoRename(transaction, moves, mend)
  if (mend.kind === 'pad') return undoPad(transaction, moves, mend)
  const after = mend.changes[0]?.after
  const [now] = after
    ? await transaction
        .select()
        .from(pairs)
        .where(and(eq(pairs.id, after), eq(pairs.isActive, true)))
    : []
  if (!now)
    throw new PlainError(
      'mend-conflict',
      'The proxy that this mend made was replaced since: take that mend back first.',
      { status: 409 },
    )
  const earlier = mend.changes.flatMap((change) => (change.before === null ? [] : [change.before]))
  const newer = await filesOfPair(transaction, now.id)
  for (const file of newer) await moves.discard(file.path, file.fingerprint)
  await transaction.delete(pairs).where(eq(pairs.id, now.id))
  await transaction.delete(files).where(
    anyOf(
      files.id,
      newer.map((file) => file.id),
    ),
  )
  for (const pairId of earlier) await putBack(transaction, moves, pairId, newer)
  for (const change of mend.changes)
    await writeHistory(transaction, mend.productionId, 'mend', now.clipId, `taken back: ${change.label}`)
}

/**
 * Puts an untied item back where it was, and in use.
 * @throws PlainError when its clip was made with its recipe since
 */
async function tieAgain(transaction: Transaction, moves: Moves, mend: MendRow): Promise<void> {
  for (const { link, before, label } of mend.changes) {
    if (link.kind !== 'pair' || before === null) continue
    const [newer] = await transaction
      .select({ name: pairs.name })
      .from(pairs)
      .where(and(eq(pairs.clipId, link.clipId), eq(pairs.recipeId, link.recipeId), eq(pairs.isActive, true)))
    if (newer)
      throw new PlainError(
        'mend-conflict',
        `${newer.name} was made with the same recipe since: release or untie that one first.`,
        { status: 409 },
      )
    await putBack(transaction, moves, before, [])
    await writeHistory(transaction, mend.productionId, 'mend', link.clipId, `taken back: ${label}`)
  }
}

/** Moves the files of a pair that was set aside back to where they came from, and puts it in use. */
async function putBack(
  transaction: Transaction,
  moves: Moves,
  pairId: string,
  newer: readonly { readonly path: string }[],
): Promise<void> {
  for (const file of await filesOfPair(transaction, pairId)) {
    if (!isSetAside(pairId, file.path)) continue
    // Items of before the journal lay where the newer ones stood: both were made of one clip by one recipe.
    const home = newer.find(({ path }) => basename(path) === basename(file.path))?.path ?? basename(file.path)
    const path = (await moves.originOf(file.path)) ?? home
    await moves.moveOwn(file.path, path, file.fingerprint)
    await transaction.update(files).set({ path }).where(eq(files.id, file.id))
  }
  await transaction.update(pairs).set({ isActive: true }).where(eq(pairs.id, pairId))
}
