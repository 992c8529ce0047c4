import type { Mend } from '@ennick/contract'
import { assertApplicable, invert, type LinkChange, MendConflict } from '@ennick/core'
import { and, desc, eq, sql } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { type CreatedByMend, clipFiles, clips, events, files, mends, volumes } from '../store/schema.ts'

export type MendRow = typeof mends.$inferSelect

export const noneCreated: CreatedByMend = { volumeIds: [], fileIds: [], clipIds: [] }

/** Does a mend whose links lie in the database alone: all of its changes, or none when one has moved on since. */
export async function applyMend(
  database: Database,
  mend: { productionId: string; cutId: string; kind: MendRow['kind']; title: string },
  plan: (transaction: Transaction) => Promise<{
    changes: LinkChange[]
    created: CreatedByMend
    /** What else has to change, seen once those are done. */
    settle?: () => Promise<LinkChange[]>
  }>,
): Promise<MendRow> {
  return database.transaction(async (transaction) => {
    const { changes, created, settle } = await plan(transaction)
    await changeLinks(transaction, changes)
    const settling = (await settle?.()) ?? []
    await changeLinks(transaction, settling)
    const list = [...changes, ...settling]
    const [row] = await transaction
      .insert(mends)
      .values({ ...mend, changes: list, created, state: 'done' })
      .returning()
    for (const change of list) await recordChange(transaction, mend.productionId, change)
    await announce(transaction, mend.productionId, 'mends', 'cuts', 'clips', 'pairs', 'volumes')
    return row as MendRow
  })
}

/** Takes back a mend of links alone, with all that it had brought into the ledger and that nothing else uses since. */
export async function undoLinks(transaction: Transaction, mend: MendRow): Promise<void> {
  await assertNothingRestsOn(transaction, mend)
  const changes = invert(mend.changes)
  await changeLinks(transaction, changes)
  await removeCreated(transaction, mend.id, mend.created)
  for (const change of changes) await recordChange(transaction, mend.productionId, change)
}

/**
 * A mend is taken back before those that came before it and changed the same links, or brought in what it points at:
 * the other way round the value of a link may look right by chance, and what the later one remembers never comes back.
 */
async function assertNothingRestsOn(transaction: Transaction, mend: MendRow): Promise<void> {
  const later = await transaction
    .select()
    .from(mends)
    // Compared in the database: its times are finer than those that come out of it.
    .where(
      and(
        eq(mends.productionId, mend.productionId),
        eq(mends.state, 'done'),
        sql`${mends.createdAt} > (select created_at from mends as own where own.id = ${mend.id})`,
      ),
    )
    .orderBy(desc(mends.createdAt))
  const links = new Set(mend.changes.map(({ link }) => JSON.stringify(link)))
  const created = new Set([...mend.created.clipIds, ...mend.created.fileIds])
  const rests = ({ link, before, after }: LinkChange): boolean =>
    links.has(JSON.stringify(link)) || created.has(before ?? '') || created.has(after ?? '')
  const first = later.find(({ changes }) => changes.some(rests))
  if (first)
    throw new PlainError('mend-conflict', `A later mend rests on this one: “${first.title}”. Take that back first.`, {
      status: 409,
    })
}

/** What somebody has made use of meanwhile stays: a described clip, one with proxies, a volume that was scanned. */
async function removeCreated(
  transaction: Transaction,
  mendId: string,
  { clipIds, fileIds, volumeIds }: CreatedByMend,
): Promise<void> {
  await transaction.execute(sql`
    delete from clips where ${anyOf(clips.id, clipIds)}
      and not exists (select 1 from pairs where pairs.clip_id = clips.id)
      and not exists (select 1 from events where events.chosen_clip_id = clips.id)
      and not exists (select 1 from edit_changes join edits on edits.id = edit_id where edit_changes.clip_id = clips.id and edits.state = 'done')`)
  await transaction.execute(sql`
    delete from files where ${anyOf(files.id, fileIds)}
      and not exists (select 1 from clip_files where clip_files.file_id = files.id)
      and not exists (select 1 from clip_copies where clip_copies.file_id = files.id)
      and not exists (select 1 from pair_files where pair_files.file_id = files.id)`)
  await transaction.execute(sql`
    delete from volumes where ${anyOf(volumes.id, volumeIds)} and last_scan_at is null
      and not exists (select 1 from files where files.volume_id = volumes.id)`)
  // A volume on which another mend found its file is that one's from now on, and goes with it.
  await transaction.execute(sql`
    update mends set created = jsonb_set(created, '{volumeIds}', created->'volumeIds' || to_jsonb(kept.id::text)) from (
      select distinct on (volumes.id) volumes.id, other.id as mend_id from volumes
      join files on files.volume_id = volumes.id
      join mends as other on other.state = 'done' and other.id <> ${mendId} and other.created->'fileIds' ? files.id::text
      where ${anyOf(volumes.id, volumeIds)} order by volumes.id, other.created_at) as kept
    where mends.id = kept.mend_id`)
}

async function recordChange(transaction: Transaction, productionId: string, change: LinkChange): Promise<void> {
  const { link } = change
  await writeHistory(transaction, productionId, 'mend', link.kind === 'event' ? link.cutId : link.clipId, change.label)
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
