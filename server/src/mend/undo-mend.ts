import { basename } from 'node:path'
import { and, eq } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { filesOfPair, withMadeMoves } from '../make/made-moves.ts'
import type { Moves } from '../placements/placements.ts'
import { isSetAside } from '../placements/unfinished-files.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { files, mends, pairs } from '../store/schema.ts'
import { undoAccepted } from './accept-redelivered.ts'
import { type MendRow, undoLinks } from './links.ts'
import { undoPad } from './pad.ts'
import { undoRename } from './rename.ts'
import { isVersionMend, undoVersion } from './version-mend.ts'

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
  const isVersion = isVersionMend(mend)
  const isAccepted = mend.kind === 'accept redelivery'
  if (mend.kind === 'repoint' || isVersion || isAccepted) {
    await database.transaction(async (transaction) => {
      const held = await holdMend(transaction, mend)
      await (isVersion ? undoVersion : isAccepted ? undoAccepted : undoLinks)(transaction, held)
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

/** Keeps a second undo out until this one is written. @returns the mend as it is now */
async function holdMend(transaction: Transaction, mend: MendRow): Promise<MendRow> {
  const [locked] = await transaction.select().from(mends).where(eq(mends.id, mend.id)).for('update')
  if (locked?.state !== 'done') throw new PlainError('not-done', 'This mend was taken back already.', { status: 409 })
  return locked
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
  for (const file of newer) await moves.discard(file)
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
    const path = (await moves.originOf(file)) ?? home
    await moves.moveOwn(file, path)
    await transaction.update(files).set({ path }).where(eq(files.id, file.id))
  }
  await transaction.update(pairs).set({ isActive: true }).where(eq(pairs.id, pairId))
}
