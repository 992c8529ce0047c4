import { removableKinds } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { cameraProxies, clipCopies } from '../store/catalogue-schema.ts'
import type { Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { clipFiles, files, pairFiles, type volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'

/**
 * A card is formatted and used again, and its camera counts from one again: what lies at a known place is another
 * recording. It is no copy any more of a clip that was offloaded; a clip that lived on the card, and has a copy that
 * stays, lives there from now on. What lies on the card then belongs to nothing, and comes in like anything new.
 */
export async function partFromUsedAgain(transaction: Transaction, volume: typeof volumes.$inferSelect): Promise<void> {
  if (removableKinds.has(volume.kind)) {
    await moveHomes(transaction, volume)
    // A camera's own small file is that of another clip, as the large one beside it is.
    await transaction.execute(sql`
      delete from ${cameraProxies} using ${files} where ${files.id} = ${cameraProxies.fileId}
        and ${files.volumeId} = ${volume.id} and not ${files.isGone} and ${files.problem} is null
        and ${files.firstFingerprint} <> ${files.fingerprint}`)
  }
  // What a card holds is damaged, not other, where it cannot be read.
  await transaction.execute(sql`
    delete from ${clipCopies} using ${files} where ${files.id} = ${clipCopies.fileId} and ${files.volumeId} = ${volume.id}
      and not ${files.isGone} and ${files.problem} is null and ${files.firstFingerprint} <> ${files.fingerprint}
      and not exists (
        select from ${clipFiles} link join files own on own.id = link.file_id where link.clip_id = ${clipCopies.clipId}
          and ${files.fingerprint} in (own.fingerprint, own.first_fingerprint))`)
  // Nobody waits for what lay there before.
  await transaction.execute(sql`
    update ${files} set first_fingerprint = fingerprint where volume_id = ${volume.id} and fingerprint <> ''
      and first_fingerprint <> fingerprint
      and not exists (select from ${clipFiles} where file_id = ${files.id})
      and not exists (select from ${pairFiles} where file_id = ${files.id})`)
}

/** Clips whose file on a volume has other content, and that have a copy of what it was on one that stays. */
async function moveHomes(transaction: Transaction, volume: typeof volumes.$inferSelect): Promise<void> {
  const { rows } = await transaction.execute<{ clip_id: string; name: string; label: string }>(sql`
    with moved as (
      select distinct on (link.clip_id, link.ordinal) link.clip_id, link.ordinal, other.id as file_id, home.label
      from ${clipFiles} link join files own on own.id = link.file_id
        join ${clipCopies} copy on copy.clip_id = link.clip_id
        join files other on other.id = copy.file_id join volumes home on home.id = other.volume_id
      where own.volume_id = ${volume.id} and own.problem is null and own.first_fingerprint <> own.fingerprint
        and other.fingerprint = own.first_fingerprint and not other.is_gone and other.problem is null
        and ${stays(sql`home.kind`)}
      order by link.clip_id, link.ordinal, copy.is_verified desc, other.id
    ), linked as (
      update ${clipFiles} link set file_id = moved.file_id from moved
      where link.clip_id = moved.clip_id and link.ordinal = moved.ordinal
    ), parted as (
      delete from ${clipCopies} copy using moved where copy.clip_id = moved.clip_id and copy.file_id = moved.file_id
    ) select moved.clip_id, clips.name, moved.label from moved join clips on clips.id = moved.clip_id`)
  for (const { clip_id: clipId, name, label } of rows)
    await writeHistory(
      transaction,
      volume.productionId,
      'clip',
      clipId,
      `${name} lives on “${label}” now: “${volume.label}” holds something else at its place.`,
    )
}
