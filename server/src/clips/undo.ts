import { and, asc, desc, eq } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { edits } from '../store/catalogue-schema.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { announceCells, type CellChange, readCells, readChanges, writeCells } from './write-values.ts'

type EditRow = typeof edits.$inferSelect

const newestDone = async (database: Queryable, productionId: string): Promise<EditRow | undefined> =>
  (
    await database
      .select()
      .from(edits)
      .where(and(eq(edits.productionId, productionId), eq(edits.state, 'done')))
      .orderBy(desc(edits.id))
      .limit(1)
  )[0]

const oldestUndone = async (database: Queryable, productionId: string): Promise<EditRow | undefined> =>
  (
    await database
      .select()
      .from(edits)
      .where(and(eq(edits.productionId, productionId), eq(edits.state, 'undone')))
      .orderBy(asc(edits.id))
      .limit(1)
  )[0]

/** What undo and redo would do, by title. */
export async function readEditStack(
  database: Queryable,
  productionId: string,
): Promise<{ undo: string | null; redo: string | null }> {
  const [done, undone] = [await newestDone(database, productionId), await oldestUndone(database, productionId)]
  return { undo: done?.title ?? null, redo: undone?.title ?? null }
}

export interface EditOutcome {
  readonly title: string
  readonly changed: number
  readonly kept: number
}

/**
 * Takes the newest edit back, or does the last one taken back again. A cell that somebody has changed since stays as
 * it is, and is counted.
 */
export async function stepEdits(
  database: Database,
  productionId: string,
  direction: 'undo' | 'redo',
): Promise<EditOutcome> {
  return database.transaction(async (transaction) => {
    const edit = await (direction === 'undo' ? newestDone : oldestUndone)(transaction, productionId)
    if (!edit)
      throw new PlainError(
        'nothing-to-do',
        direction === 'undo' ? 'There is nothing to undo.' : 'There is nothing to redo.',
        {
          status: 409,
        },
      )
    const turned = (await readChanges(transaction, edit.id)).map(
      (change): CellChange =>
        direction === 'undo' ? { ...change, before: change.after, after: change.before } : change,
    )
    const now = await readCells(transaction, turned)
    const fitting = turned.filter((change) => (now(change)?.value ?? '') === (change.before?.value ?? ''))
    await writeCells(transaction, fitting)
    await transaction
      .update(edits)
      .set({ state: direction === 'undo' ? 'undone' : 'done' })
      .where(eq(edits.id, edit.id))
    await writeHistory(
      transaction,
      productionId,
      'clips',
      null,
      `${direction === 'undo' ? 'Taken back' : 'Done again'}: ${edit.title}.`,
    )
    await announceCells(transaction, productionId, fitting)
    return { title: edit.title, changed: fitting.length, kept: turned.length - fitting.length }
  })
}
