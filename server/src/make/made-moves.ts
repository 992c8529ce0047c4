import { eq } from 'drizzle-orm'
import { explainFailure, isFileError, PlainError } from '../errors.ts'
import { type Moves, NotOurs, withPlacements } from '../placements/placements.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { files, pairFiles } from '../store/schema.ts'
import { readMadePlaces } from './made-places.ts'

/**
 * Moves files that Ennick made, by its journal, in one act with what that changes in the ledger.
 * @param act what the journal calls it
 * @throws PlainError when one of them is not ours any more, or the disk refuses: then nothing has changed
 */
export async function withMadeMoves(
  database: Database,
  productionId: string,
  act: string,
  change: (transaction: Transaction, moves: Moves) => Promise<void>,
): Promise<void> {
  const places = await readMadePlaces(database, productionId)
  try {
    await withPlacements(database, places, act, change)
  } catch (error) {
    if (error instanceof NotOurs) throw new PlainError('cannot-move', error.message, { status: 409 })
    if (isFileError(error)) throw new PlainError('cannot-move', explainFailure(error), { status: 409 })
    throw error
  }
}

/** The files of a made item, in order. */
export async function filesOfPair(database: Queryable, pairId: string): Promise<(typeof files.$inferSelect)[]> {
  const rows = await database
    .select({ file: files })
    .from(pairFiles)
    .innerJoin(files, eq(files.id, pairFiles.fileId))
    .where(eq(pairFiles.pairId, pairId))
    .orderBy(pairFiles.ordinal)
  return rows.map(({ file }) => file)
}
