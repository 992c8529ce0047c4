import type { Mend } from '@ennick/contract'
import { assertApplicable, invert, keyOfLink, type LinkChange, MendConflict } from '@ennick/core'
import { and, desc, eq, sql } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import { heldContent } from '../store/backups.ts'
import type { Database, Queryable, Transaction } from '../store/database.ts'
import { writeLines } from '../store/history.ts'
import { holdIndex } from '../store/hold-index.ts'
import { type CreatedByMend, clips, files, mends, volumes } from '../store/schema.ts'

export type MendRow = typeof mends.$inferSelect

export const noneCreated: CreatedByMend = { volumeIds: [], fileIds: [], clipIds: [] }

/** Whose history a change of a link belongs to: a clip's, or that of a cut, of versions the one that it ends with. */
function subjectOf({ link, after }: LinkChange): string | null {
  if (link.kind === 'event') return link.cutId
  return link.kind === 'newest version' ? after : link.clipId
}

/** Does a mend whose links lie in the database alone: all of its changes, or none when one has moved on since. */
export async function applyMend(
  database: Database,
  mend: { productionId: string; cutId?: string; kind: MendRow['kind']; title: string },
  plan: (transaction: Transaction) => Promise<{
    changes: LinkChange[]
    created: CreatedByMend
    /** What else has to change, seen once those are done. */
    settle?: () => Promise<LinkChange[]>
  }>,
): Promise<MendRow> {
  return database.transaction(async (transaction) => {
    const { changes: planned, created, settle } = await plan(transaction)
    const changes = await rememberHeld(transaction, planned)
    await holdAsTheyAre(transaction, changes)
    await changeLinks(transaction, changes)
    const settling = (await settle?.()) ?? []
    await changeLinks(transaction, settling)
    const list = [...changes, ...settling]
    const [row] = await transaction
      .insert(mends)
      .values({ ...mend, changes: list, created, state: 'done' })
      .returning()
    await recordChanges(transaction, mend.productionId, list)
    await announce(transaction, mend.productionId, 'mends', 'cuts', 'clips', 'pairs', 'volumes')
    return row as MendRow
  })
}

/** The same changes, with the content that each file which a clip leaves was held to have. */
export async function rememberHeld(transaction: Transaction, changes: readonly LinkChange[]): Promise<LinkChange[]> {
  const ids = changes.flatMap(({ link, before }) => (link.kind === 'clip file' && before !== null ? [before] : []))
  const { id, fingerprint, firstFingerprint } = files
  const rows = await transaction.select({ id, fingerprint, firstFingerprint }).from(files).where(anyOf(id, ids))
  const held = new Map(rows.map((file) => [file.id, heldContent(file)]))
  return changes.map((change) => {
    const content = change.link.kind === 'clip file' && change.before !== null ? held.get(change.before) : undefined
    return content ? { ...change, held: content } : change
  })
}

/** Files that clips are of again are held to what they were then: another may have taken their place meanwhile. */
export async function holdAgain(transaction: Transaction, { changes }: MendRow): Promise<void> {
  const known = changes.filter(({ held, before }) => held !== undefined && before !== null)
  const [ids, contents] = [known.map(({ before }) => before), known.map(({ held }) => held)]
  await transaction.execute(sql`
    update files set first_fingerprint = wanted.held
    from unnest(${sql.param(ids)}::uuid[], ${sql.param(contents)}::text[]) as wanted (id, held)
    where files.id = wanted.id and files.first_fingerprint is distinct from wanted.held`)
}

/** What a file was before a clip was of it is nobody's: one that a clip is pointed at is held to be as it is then. */
async function holdAsTheyAre(transaction: Transaction, changes: readonly LinkChange[]): Promise<void> {
  const ids = ofKind(changes, 'clip file').flatMap(({ after }) => after ?? [])
  await transaction.execute(sql`
    update files set first_fingerprint = fingerprint where ${anyOf(files.id, ids)}
      and first_fingerprint <> fingerprint and not exists (select from clip_files link where link.file_id = files.id)`)
}

/** Takes back a mend of links alone, with all that it had brought into the ledger and that nothing else uses since. */
export async function undoLinks(transaction: Transaction, mend: MendRow): Promise<void> {
  await assertNothingRestsOn(transaction, mend)
  const changes = invert(mend.changes)
  await changeLinks(transaction, changes)
  await holdAgain(transaction, mend)
  await removeCreated(transaction, mend)
  await recordChanges(transaction, mend.productionId, changes)
}

/** Leaves a line of history for each change. */
export const recordChanges = (
  transaction: Transaction,
  productionId: string,
  changes: readonly LinkChange[],
): Promise<void> =>
  writeLines(
    transaction,
    productionId,
    changes.map((change) => ({ subject: 'mend', subjectId: subjectOf(change), what: change.label })),
  )

/**
 * A mend is taken back before those that came before it and changed the same links, or brought in what it points at:
 * the other way round the value of a link may look right by chance, and what the later one remembers never comes back.
 */
export async function assertNothingRestsOn(transaction: Transaction, mend: MendRow): Promise<void> {
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
  const links = new Set(mend.changes.map(({ link }) => keyOfLink(link)))
  const created = new Set([...mend.created.clipIds, ...mend.created.fileIds])
  // What was accepted was accepted of a file: a clip that was led away from it, or to it, is known by the other mend.
  const accepted = new Set(mend.changes.flatMap(({ link }) => (link.kind === 'content' ? [link.fileId] : [])))
  const ledTo = new Set(mend.changes.flatMap(({ link, after }) => (link.kind === 'clip file' ? (after ?? []) : [])))
  const isOfFile = ({ link, before }: LinkChange): boolean =>
    (link.kind === 'clip file' && accepted.has(before ?? '')) || (link.kind === 'content' && ledTo.has(link.fileId))
  const rests = (change: LinkChange): boolean =>
    links.has(keyOfLink(change.link)) ||
    created.has(change.before ?? '') ||
    created.has(change.after ?? '') ||
    isOfFile(change)
  const first = later.find(({ changes }) => changes.some(rests))
  if (first)
    throw new PlainError('mend-conflict', `A later mend rests on this one: “${first.title}”. Take that back first.`, {
      status: 409,
    })
}

/**
 * Does away with what a mend had brought in. What somebody has made use of meanwhile stays: a described clip, one with
 * proxies, a volume that was scanned.
 */
export async function removeCreated(
  transaction: Transaction,
  { id: mendId, productionId, created: { clipIds, fileIds, volumeIds } }: MendRow,
): Promise<void> {
  if (clipIds.length) await holdIndex(transaction, productionId)
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
  // A clip that a version shows which another mend has made is that one's from now on, and goes with it.
  await transaction.execute(sql`
    with kept as (
      select distinct on (clips.id) clips.id as clip_id, other.id as mend_id from clips
      join events on events.chosen_clip_id = clips.id
      join mends as other on other.state = 'done' and other.id <> ${mendId}
        and other.changes @> jsonb_build_array(jsonb_build_object(
          'link', jsonb_build_object('kind', 'newest version'), 'after', events.cut_id))
      where ${anyOf(clips.id, clipIds)} order by clips.id, other.created_at),
    given as (
      select mend_id, jsonb_agg(distinct kept.clip_id) as clip_ids,
        coalesce(jsonb_agg(distinct file_id) filter (where file_id is not null), '[]') as file_ids
      from kept left join clip_files link on link.clip_id = kept.clip_id and ${anyOf(sql`link.file_id`, fileIds)}
      group by mend_id)
    update mends set created = created || jsonb_build_object(
      'clipIds', created->'clipIds' || clip_ids, 'fileIds', created->'fileIds' || file_ids)
    from given where mends.id = mend_id`)
  // A volume on which another mend found its file likewise.
  await transaction.execute(sql`
    with kept as (
      select distinct on (volumes.id) volumes.id, other.id as mend_id from volumes
      join files on files.volume_id = volumes.id
      join mends as other on other.state = 'done' and other.id <> ${mendId} and other.created->'fileIds' ? files.id::text
      where ${anyOf(volumes.id, volumeIds)} order by volumes.id, other.created_at),
    given as (select mend_id, jsonb_agg(id) as volume_ids from kept group by mend_id)
    update mends set created = jsonb_set(created, '{volumeIds}', created->'volumeIds' || volume_ids)
    from given where mends.id = mend_id`)
}

const ofKind = <Kind extends LinkChange['link']['kind']>(
  changes: readonly LinkChange[],
  kind: Kind,
): { link: Extract<LinkChange['link'], { kind: Kind }>; after: string | null }[] =>
  changes.flatMap(({ link, after }) =>
    link.kind === kind ? [{ link: link as Extract<LinkChange['link'], { kind: Kind }>, after }] : [],
  )

/**
 * Sets links to their new values if all still have those that the mend starts from. However many: the links of each
 * kind are locked and read at once, and written at once.
 */
export async function changeLinks(transaction: Transaction, changes: readonly LinkChange[]): Promise<void> {
  const ofFiles = ofKind(changes, 'clip file')
  const ofEvents = ofKind(changes, 'event')
  if (ofFiles.length + ofEvents.length !== changes.length) throw new Error('A pair is no link of the database alone.')
  const fileLinks = {
    clipIds: sql.param(ofFiles.map(({ link }) => link.clipId)),
    ordinals: sql.param(ofFiles.map(({ link }) => link.ordinal)),
    after: sql.param(ofFiles.map(({ after }) => after)),
  }
  const eventLinks = {
    cutIds: sql.param(ofEvents.map(({ link }) => link.cutId)),
    positions: sql.param(ofEvents.map(({ link }) => link.position)),
    after: sql.param(ofEvents.map(({ after }) => after)),
  }
  const current = new Map<string, string | null>()
  if (ofFiles.length) {
    const { rows } = await transaction.execute<{ clip_id: string; ordinal: number; file_id: string }>(sql`
      select clip_files.clip_id, clip_files.ordinal, clip_files.file_id from clip_files
      join unnest(${fileLinks.clipIds}::uuid[], ${fileLinks.ordinals}::int[]) as wanted (clip_id, ordinal)
        using (clip_id, ordinal)
      order by clip_id, ordinal for update of clip_files`)
    for (const row of rows)
      current.set(keyOfLink({ kind: 'clip file', clipId: row.clip_id, ordinal: row.ordinal }), row.file_id)
  }
  if (ofEvents.length) {
    const { rows } = await transaction.execute<{ cut_id: string; position: number; clip_id: string | null }>(sql`
      select events.cut_id, events.position, events.chosen_clip_id as clip_id from events
      join unnest(${eventLinks.cutIds}::uuid[], ${eventLinks.positions}::int[]) as wanted (cut_id, position)
        using (cut_id, position)
      order by cut_id, position for update of events`)
    for (const row of rows)
      current.set(keyOfLink({ kind: 'event', cutId: row.cut_id, position: row.position }), row.clip_id)
  }
  try {
    assertApplicable(changes, (link) => current.get(keyOfLink(link)) ?? null)
  } catch (error) {
    if (error instanceof MendConflict) throw new PlainError('mend-conflict', error.message, { status: 409 })
    throw error
  }
  // Copies were read back beside the file that a clip had: of one elsewhere that nobody has read, nobody knows.
  if (ofFiles.length)
    await transaction.execute(sql`
      update clip_copies copy set is_verified = false
      from unnest(${fileLinks.clipIds}::uuid[], ${fileLinks.ordinals}::int[], ${fileLinks.after}::uuid[])
          as wanted (clip_id, ordinal, after)
        join clip_files link on link.clip_id = wanted.clip_id and link.ordinal = wanted.ordinal
        join files was on was.id = link.file_id join files becomes on becomes.id = wanted.after
      where copy.clip_id = wanted.clip_id and copy.is_verified and was.volume_id <> becomes.volume_id
        and not exists (select from clip_copies known
          where known.clip_id = wanted.clip_id and known.file_id = wanted.after and known.is_verified)`)
  if (ofFiles.length)
    await transaction.execute(sql`
      update clip_files set file_id = wanted.after
      from unnest(${fileLinks.clipIds}::uuid[], ${fileLinks.ordinals}::int[], ${fileLinks.after}::uuid[])
        as wanted (clip_id, ordinal, after)
      where clip_files.clip_id = wanted.clip_id and clip_files.ordinal = wanted.ordinal and wanted.after is not null`)
  if (ofEvents.length)
    await transaction.execute(sql`
      update events set chosen_clip_id = wanted.after
      from unnest(${eventLinks.cutIds}::uuid[], ${eventLinks.positions}::int[], ${eventLinks.after}::uuid[])
        as wanted (cut_id, position, after)
      where events.cut_id = wanted.cut_id and events.position = wanted.position`)
}

export async function readMend(database: Queryable, mendId: string): Promise<MendRow> {
  const [row] = await database.select().from(mends).where(eq(mends.id, mendId))
  if (!row) throw notFound('This mend')
  return row
}

/** Changes of a mend that are named one by one. */
const mostShown = 50

export const presentMend = (row: MendRow): Mend => ({
  id: row.id,
  cutId: row.cutId,
  kind: row.kind,
  title: row.title,
  changes: row.changes.slice(0, mostShown).map((change) => ({ label: change.label, before: change.before })),
  changeCount: row.changes.length,
  state: row.state,
  createdAt: row.createdAt.toISOString(),
  undoneAt: row.undoneAt?.toISOString() ?? null,
})
