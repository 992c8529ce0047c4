import type { Mend } from '@ennick/contract'
import { assertApplicable, invert, type LinkChange, MendConflict } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { record } from '../store/history.ts'
import { clipFiles, events, mends } from '../store/schema.ts'

export type MendRow = typeof mends.$inferSelect

/** Does a mend whose links lie in the database alone: all of its changes, or none when one has moved on since. */
export async function applyMend(
  database: Database,
  mend: { productionId: string; cutId: string; kind: MendRow['kind']; title: string },
  changes: (transaction: Transaction) => Promise<LinkChange[]>,
): Promise<MendRow> {
  return database.transaction(async (transaction) => {
    const list = await changes(transaction)
    await changeLinks(transaction, list)
    const [row] = await transaction
      .insert(mends)
      .values({ ...mend, changes: list, state: 'done' })
      .returning()
    for (const change of list) await recordChange(transaction, mend.productionId, change)
    await announce(transaction, mend.productionId, 'mends', 'cuts', 'clips', 'pairs', 'volumes')
    return row as MendRow
  })
}

/** Takes back a mend of links alone. */
export async function undoLinks(transaction: Transaction, mend: MendRow): Promise<void> {
  const changes = invert(mend.changes)
  await changeLinks(transaction, changes)
  for (const change of changes) await recordChange(transaction, mend.productionId, change)
}

async function recordChange(transaction: Transaction, productionId: string, change: LinkChange): Promise<void> {
  const { link } = change
  await record(transaction, productionId, 'mend', link.kind === 'event' ? link.cutId : link.clipId, change.label)
}

async function changeLinks(transaction: Transaction, changes: readonly LinkChange[]): Promise<void> {
  const current = new Map<string, string | null>()
  for (const { link } of changes) current.set(JSON.stringify(link), await readLink(transaction, link))
  try {
    assertApplicable(changes, (link) => current.get(JSON.stringify(link)) ?? null)
  } catch (error) {
    if (error instanceof MendConflict) throw new PlainError('mend-conflict', error.message, { status: 409 })
    throw error
  }
  for (const change of changes) await writeLink(transaction, change)
}

async function readLink(database: Queryable, link: LinkChange['link']): Promise<string | null> {
  if (link.kind === 'clip file') {
    const [row] = await database
      .select({ id: clipFiles.fileId })
      .from(clipFiles)
      .where(and(eq(clipFiles.clipId, link.clipId), eq(clipFiles.ordinal, link.ordinal)))
    return row?.id ?? null
  }
  if (link.kind === 'event') {
    const [row] = await database
      .select({ id: events.chosenClipId })
      .from(events)
      .where(and(eq(events.cutId, link.cutId), eq(events.position, link.position)))
    return row?.id ?? null
  }
  throw new Error('A pair is no link of the database alone.')
}

async function writeLink(transaction: Transaction, change: LinkChange): Promise<void> {
  const { link, after } = change
  if (link.kind === 'clip file' && after !== null) {
    await transaction
      .update(clipFiles)
      .set({ fileId: after })
      .where(and(eq(clipFiles.clipId, link.clipId), eq(clipFiles.ordinal, link.ordinal)))
  } else if (link.kind === 'event') {
    await transaction
      .update(events)
      .set({ chosenClipId: after })
      .where(and(eq(events.cutId, link.cutId), eq(events.position, link.position)))
  }
}

export async function readMend(database: Queryable, mendId: string): Promise<MendRow> {
  const [row] = await database.select().from(mends).where(eq(mends.id, mendId))
  if (!row) throw notFound('This mend')
  return row
}

export const presentMend = (row: MendRow): Mend => ({
  id: row.id,
  cutId: row.cutId,
  kind: row.kind,
  title: row.title,
  changes: row.changes.map((change) => ({ label: change.label, before: change.before })),
  state: row.state,
  createdAt: row.createdAt.toISOString(),
  undoneAt: row.undoneAt?.toISOString() ?? null,
})
