import { and, eq, inArray } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { readMadePlaces, removeEmptyPlace } from '../make/made-places.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { holdIndex } from '../store/hold-index.ts'
import { jobs } from '../store/job-schema.ts'
import { files, productions } from '../store/schema.ts'

/**
 * Removes a trial: rows of the ledger alone, and the folders that were begun for it, where they are empty.
 * @param outcome for the history of the production that it was of
 * @throws PlainError while it works at something, or has made files: those are nobody's to forget
 */
export async function endTrial(database: Database, productionId: string, outcome: string): Promise<void> {
  const places = await database.transaction(async (transaction) => {
    await holdIndex(transaction, productionId)
    const [trial] = await transaction.select().from(productions).where(eq(productions.id, productionId)).for('update')
    if (!trial?.trialOf) throw new PlainError('no-trial', 'This production is no trial.', { status: 404 })
    const why = await whyNot(transaction, productionId)
    if (why) throw new PlainError('trial-in-use', why, { status: 409 })
    const own = await readMadePlaces(transaction, productionId)
    await transaction.delete(productions).where(eq(productions.id, productionId))
    const { productionId: originId, cutId } = trial.trialOf
    const [origin] = await transaction
      .select({ id: productions.id })
      .from(productions)
      .where(eq(productions.id, originId))
    if (origin) await writeHistory(transaction, originId, 'cut', cutId, `Trial “${trial.name}” ${outcome}.`)
    return own
  })
  for (const place of places) await removeEmptyPlace(place)
  await announce(database, null, 'productions')
}

/** What keeps a trial from being removed, in a sentence; null when nothing does. */
async function whyNot(database: Queryable, productionId: string): Promise<string | null> {
  const open = await database.$count(
    jobs,
    and(eq(jobs.productionId, productionId), inArray(jobs.state, ['waiting', 'running'])),
  )
  if (open > 0) return 'Something of this trial is on the queue: wait until it has ended, or stop it.'
  const places = await readMadePlaces(database, productionId)
  const known = await database.$count(
    files,
    anyOf(
      files.volumeId,
      places.map(({ id }) => id),
    ),
  )
  return known > 0
    ? 'Files were made in this trial. Release them in Pairs first: a trial forgets no file of its own.'
    : null
}
