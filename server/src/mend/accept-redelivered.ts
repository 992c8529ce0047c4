import type { Redelivered } from '@ennick/contract'
import { count, invert, type LinkChange, pixelAspectField } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database, Transaction } from '../store/database.ts'
import { mends } from '../store/schema.ts'
import { assertNothingRestsOn, type MendRow, presentMend, recordChanges } from './links.ts'

/** A file of a clip that has other content than when it was first seen. */
interface Changed extends Record<string, unknown> {
  readonly clip_id: string
  readonly name: string
  readonly file_id: string
  readonly path: string
  readonly volume_label: string
  readonly first: string
  readonly now: string
  /** Made items that are in use, all of them of what it was. */
  readonly made: number
  /** The pixel aspect that a person has set, for what it was. */
  readonly said_pixels: string | null
}

/**
 * Takes what clips hold now for their originals: a plate, a mix, a graded reel that came a second time under its name.
 * What was made of what they were is stale, and what was a copy of that is no copy of theirs any more. It is one mend,
 * and can be taken back.
 * @param apply false answers what would be accepted
 * @throws PlainError when none of the clips holds other content than when it was first seen
 */
export function acceptRedelivered(
  database: Database,
  productionId: string,
  { clipIds, reason, apply }: { clipIds: readonly string[]; reason: string; apply: boolean },
): Promise<Redelivered> {
  return database.transaction(async (transaction) => {
    const changed = await readChanged(transaction, productionId, clipIds)
    const clips = [...new Map(changed.map((row) => [row.clip_id, row])).values()]
    if (clips.length === 0)
      throw new PlainError(
        'not-changed',
        'None of these clips is here with other content than when it was first seen: there is nothing to accept.',
        { status: 409 },
      )
    return {
      clips: clips.map((row) => ({
        ...{ clipId: row.clip_id, name: row.name, path: row.path, volumeLabel: row.volume_label },
        ...{ made: row.made, saidPixelAspect: row.said_pixels },
      })),
      mend: apply ? presentMend(await accept(transaction, productionId, changed, reason)) : null,
    }
  })
}

async function accept(
  transaction: Transaction,
  productionId: string,
  changed: readonly Changed[],
  reason: string,
): Promise<MendRow> {
  const names = [...new Set(changed.map(({ name }) => name))]
  const what = names.length === 1 ? names[0] : count(new Set(changed.map(({ clip_id: id }) => id)).size, 'clip')
  const changes = changed.map(
    ({ clip_id: clipId, file_id: fileId, path, volume_label: label, first, now }): LinkChange => ({
      link: { kind: 'content', clipId, fileId },
      ...{ before: first, after: now },
      label: `${path} on “${label}” was accepted as it was delivered again: ${reason}`,
    }),
  )
  await setFirst(transaction, changes)
  // A copy of what it was is a copy of something else.
  await transaction.execute(sql`
    delete from clip_copies copy using files held where held.id = copy.file_id
      and copy.clip_id = any(${sql.param(changes.map(({ link }) => clipOf(link)))}::uuid[])
      and not exists (select from clip_files link join files own on own.id = link.file_id
        where link.clip_id = copy.clip_id and own.fingerprint = held.fingerprint)`)
  const title = `Accepted as delivered again: ${what}`
  const [row] = await transaction
    .insert(mends)
    .values({ productionId, kind: 'accept redelivery', title, changes, state: 'done' })
    .returning()
  await recordChanges(transaction, productionId, changes)
  await announce(transaction, productionId, 'mends', 'cuts', 'clips', 'pairs', 'volumes')
  return row as MendRow
}

const clipOf = (link: LinkChange['link']): string | null => ('clipId' in link ? link.clipId : null)

async function readChanged(
  transaction: Transaction,
  productionId: string,
  clipIds: readonly string[],
): Promise<Changed[]> {
  const { rows } = await transaction.execute<Changed>(sql`
    select clips.id as clip_id, clips.name, own.id as file_id, own.path, volumes.label as volume_label,
      own.first_fingerprint as first, own.fingerprint as now,
      clips.described->${pixelAspectField}::text->>'value' as said_pixels,
      (select count(*)::int from pairs where pairs.clip_id = clips.id and pairs.is_active) as made
    from clips join clip_files link on link.clip_id = clips.id join files own on own.id = link.file_id
      join volumes on volumes.id = own.volume_id
    where clips.production_id = ${productionId} and clips.id = any(${sql.param(clipIds)}::uuid[])
      and own.first_fingerprint <> own.fingerprint and own.problem is null and not own.is_gone
    order by clips.name, clips.id, link.ordinal for update of own`)
  return rows
}

/** Holds files to be what they are from now on, or were. */
async function setFirst(transaction: Transaction, changes: readonly LinkChange[]): Promise<void> {
  const of = changes.flatMap(({ link, after }) => (link.kind === 'content' ? [{ fileId: link.fileId, after }] : []))
  const [ids, marks] = [of.map(({ fileId }) => fileId), of.map(({ after }) => after)]
  await transaction.execute(sql`
    update files set first_fingerprint = wanted.after
    from unnest(${sql.param(ids)}::uuid[], ${sql.param(marks)}::text[]) as wanted (id, after)
    where files.id = wanted.id`)
}

/** Takes it back: the content is told again to be another than when it was first seen. */
export async function undoAccepted(transaction: Transaction, mend: MendRow): Promise<void> {
  await assertNothingRestsOn(transaction, mend)
  const back = invert(mend.changes)
  await setFirst(transaction, back)
  await recordChanges(transaction, mend.productionId, back)
}
