import { takenOutKey } from '@ennick/core'
import { sql } from 'drizzle-orm'
import type { Transaction } from '../store/database.ts'
import { writeLines } from '../store/history.ts'
import { clipFiles, clips, files, type volumes } from '../store/schema.ts'
import { isTakenOut } from '../store/taken-out.ts'

/**
 * A clip was taken out of the production for what its file held then. Where that file of a volume holds something else
 * now, nobody has said anything of it: the clip is in again.
 */
export async function bringBackOther(transaction: Transaction, volume: typeof volumes.$inferSelect): Promise<void> {
  // What was taken out before its content was kept with that says “yes”.
  const { rows } = await transaction.execute<{ id: string; name: string }>(sql`
    update ${clips} set described = described - ${takenOutKey}::text
    from ${clipFiles} link join ${files} own on own.id = link.file_id
    where link.clip_id = ${clips.id} and link.ordinal = 0 and ${isTakenOut} and own.volume_id = ${volume.id}
      and not own.is_gone and own.problem is null and own.fingerprint <> ''
      and own.fingerprint <> coalesce(nullif(${clips.described} -> ${takenOutKey}::text ->> 'value', 'yes'), own.first_fingerprint)
    returning ${clips.id} as id, ${clips.name} as name`)
  const what = 'which was taken out of the production, is in again: its file holds something else by now'
  await writeLines(
    transaction,
    volume.productionId,
    rows.map(({ id, name }) => ({ subject: 'clip', subjectId: id, what: `${name}, ${what}` })),
  )
}
