import type { LinkChange } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { filesOfPair, withMadeMoves } from '../make/made-moves.ts'
import type { Moves } from '../placements/placements.ts'
import { untiedPath } from '../placements/unfinished-files.ts'
import { announce } from '../store/announce.ts'
import { cameraProxies } from '../store/catalogue-schema.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { clips, files, mends, pairFiles, pairs } from '../store/schema.ts'
import { mendRests, pairsOfMends } from './resting.ts'

interface Tied {
  readonly pair: typeof pairs.$inferSelect
  readonly clip: typeof clips.$inferSelect
}

/**
 * Takes a pair apart; no file is lost. What others made stays where it is, and waits for its original again. What
 * Ennick made goes into a folder of its own below its place, so that it is in nobody's way when the clip
 * is made again; that is a mend, which can be taken back.
 */
export async function untiePair(database: Database, pairId: string): Promise<void> {
  const { pair, clip } = await readTied(database, pairId)
  if (pair.origin === 'adopted') await database.transaction((transaction) => untieAdopted(transaction, pairId))
  else
    await withMadeMoves(database, clip.productionId, `untie of pair ${pairId}`, (transaction, moves) =>
      setApart(transaction, moves, pairId),
    )
}

async function readTied(database: Queryable, pairId: string): Promise<Tied> {
  const [row] = await database
    .select({ pair: pairs, clip: clips })
    .from(pairs)
    .innerJoin(clips, eq(clips.id, pairs.clipId))
    .where(and(eq(pairs.id, pairId), eq(pairs.isActive, true)))
    .for('update')
  if (!row) throw notFound('This pair')
  return row
}

async function untieAdopted(transaction: Transaction, pairId: string): Promise<void> {
  const { pair, clip } = await readTied(transaction, pairId)
  const tied = await transaction.select().from(pairFiles).where(eq(pairFiles.pairId, pairId))
  await transaction.delete(pairs).where(eq(pairs.id, pairId))
  if (tied.length)
    await transaction
      .insert(cameraProxies)
      .values(tied.map(({ fileId }) => ({ fileId, productionId: clip.productionId, clipId: null })))
      .onConflictDoUpdate({ target: cameraProxies.fileId, set: { clipId: null } })
  await writeHistory(
    transaction,
    clip.productionId,
    'clip',
    clip.id,
    `Untied the proxy ${pair.name} from ${clip.name}. Its files stay where they are.`,
  )
  await announce(transaction, clip.productionId, 'pairs', 'clips', 'cuts', 'volumes')
}

async function setApart(transaction: Transaction, moves: Moves, pairId: string): Promise<void> {
  const { pair, clip } = await readTied(transaction, pairId)
  if ((await pairsOfMends(transaction, clip.productionId)).has(pairId))
    throw new PlainError('mend-rests', `${pair.name}: ${mendRests}`, { status: 409 })
  for (const file of await filesOfPair(transaction, pairId)) {
    const path = untiedPath(pairId, file.path)
    await moves.moveOwn(file, path)
    await transaction.update(files).set({ path }).where(eq(files.id, file.id))
  }
  await transaction.update(pairs).set({ isActive: false }).where(eq(pairs.id, pairId))
  const label = `${clip.name}: untied from ${pair.name}, which is kept`
  const change: LinkChange = {
    link: { kind: 'pair', clipId: clip.id, recipeId: pair.recipeId ?? '' },
    ...{ before: pairId, after: null, label },
  }
  const { productionId } = clip
  const title = `Untie ${pair.name} from ${clip.name}`
  await transaction.insert(mends).values({ productionId, kind: 'untie', title, changes: [change], state: 'done' })
  await writeHistory(transaction, productionId, 'clip', clip.id, `${label}.`)
  await announce(transaction, productionId, 'mends', 'pairs', 'clips', 'cuts', 'volumes')
}
