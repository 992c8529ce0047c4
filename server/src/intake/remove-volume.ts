import type { RemoveVolumePreview } from '@ennick/contract'
import { count, soundLinkKey, takenOutKey } from '@ennick/core'
import { and, eq, inArray, or, type SQL, sql } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { holdIndex } from '../store/hold-index.ts'
import { jobs } from '../store/job-schema.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { placements } from '../store/placement-schema.ts'
import { clips, volumes } from '../store/schema.ts'
import { syncedWith } from '../store/sound-link.ts'
import { clipsOfVolumes } from './present.ts'

/**
 * Removes a volume that was added by mistake, with its files and clips, from the ledger; on disk nothing is touched.
 * What cuts, pairs and mends rest on stays, and the answer says what that is.
 * @param apply false answers with what it comes to
 * @throws PlainError when it would be removed and something rests on it
 */
export async function removeVolume(
  database: Database,
  volume: VolumeRow,
  apply: boolean,
): Promise<RemoveVolumePreview> {
  const used = (await clipsOfVolumes.given(database, volume.productionId)).get(volume.id)?.used ?? 0
  return database.transaction(async (transaction) => {
    await transaction.select().from(volumes).where(eq(volumes.id, volume.id)).for('update')
    const counts = await countOn(transaction, volume)
    const reasons = [
      ...(volume.kind === 'made' ? ['It is the place of what Ennick makes.'] : []),
      ...(counts.jobs ? ['Something is being done with it: wait until that has ended, or stop it.'] : []),
      ...say(used, 'of its clips is used in a cut', 'of its clips are used in cuts'),
      ...say(counts.paired, 'of its clips has a proxy or another copy', 'of its clips have proxies or other copies'),
      ...say(counts.serving, 'of its files is a proxy of a clip', 'of its files are proxies of clips'),
      ...say(counts.elsewhere, 'of its clips has files elsewhere too', 'of its clips have files elsewhere too'),
      ...say(
        counts.verified,
        'of its files is a verified copy of a clip elsewhere',
        'of its files are verified copies of clips elsewhere',
      ),
      ...say(
        counts.synced,
        'picture elsewhere is synced with its sound',
        'pictures elsewhere are synced with its sound',
      ),
      ...say(counts.mended, 'mend points at its files', 'mends point at its files'),
    ]
    if (apply) {
      if (reasons.length)
        throw new PlainError('volume-needed', `“${volume.label}” stays: ${reasons.join(' ')}`, { status: 409 })
      await holdIndex(transaction, volume.productionId)
      await transaction.delete(clips).where(inArray(clips.id, clipsOn(volume)))
      await transaction.delete(volumes).where(eq(volumes.id, volume.id))
      await writeHistory(
        transaction,
        volume.productionId,
        'volume',
        volume.id,
        `Volume “${volume.label}” at ${volume.rootPath} removed, with ${count(counts.clips, 'clip')}. No file was touched.`,
      )
      await announce(transaction, volume.productionId, 'volumes', 'clips', 'catalogue', 'pairs', 'cuts')
    }
    return { clips: counts.clips, described: counts.described, copies: counts.copies, reasons }
  })
}

const say = (number: number, one: string, many: string): string[] =>
  number === 0 ? [] : [`${number === 1 ? `One ${one}` : `${number} ${many}`}.`]

const clipsOn = ({ id }: VolumeRow): SQL => sql`(
  select clip_files.clip_id from clip_files join files on files.id = clip_files.file_id where files.volume_id = ${id})`

async function countOn(database: Queryable, volume: VolumeRow) {
  const own = clipsOn(volume)
  const links = (table: 'clip_files' | 'clip_copies', condition: SQL): SQL => {
    const link = sql.identifier(table)
    return sql`select ${link}.clip_id from ${link} join files on files.id = ${link}.file_id where ${condition}`
  }
  const elsewhere = sql`files.volume_id <> ${volume.id} and clip_id in ${own}`
  const copies = links('clip_copies', sql`files.volume_id = ${volume.id} and clip_id not in ${own}`)
  // What a scan says by itself comes back with the next one: only what was written by an edit is gone for good.
  const said = sql`jsonb_each(
    described || jsonb_build_object('reel', jsonb_build_object('value', reel, 'from', reel_from))) as said`
  const { rows } = await database.execute<Record<Counted, number>>(sql`
    select
      (select count(*)::int from clips where id in ${own}) as clips,
      (select count(*)::int from clips where id in ${own} and (
        exists (select 1 from view_notes where view_notes.clip_id = clips.id)
        or exists (select 1 from ${said} where said.key <> ${takenOutKey} and (said.value->>'from' = 'person'
          or exists (select 1 from edit_changes as change
            where change.clip_id = clips.id and change.field = said.key and change.after = said.value))))) as described,
      (select count(distinct clip_id)::int from pairs where clip_id in ${own}) as paired,
      (select count(*)::int from pair_files join files on files.id = pair_files.file_id
        where files.volume_id = ${volume.id}) as serving,
      (select count(distinct clip_id)::int
        from (${links('clip_files', elsewhere)} union ${links('clip_copies', elsewhere)}) as links) as elsewhere,
      (select count(distinct clip_id)::int from (${copies}) as links) as copies,
      (select count(distinct clip_id)::int from (${copies} and clip_copies.is_verified) as links) as verified,
      (select count(*)::int from mends where production_id = ${volume.productionId} and state <> 'undone' and exists (
        select 1 from jsonb_array_elements(changes) as change where
          change->>'before' in (select id::text from files where volume_id = ${volume.id})
          or change->>'after' in (select id::text from files where volume_id = ${volume.id})
          or change->>'after' in (select id::text from clips where id in ${own}))) as mended`)
  const live = await database.$count(
    jobs,
    and(
      inArray(jobs.state, ['waiting', 'running']),
      or(
        eq(sql`${jobs.input}->>'volumeId'`, volume.id),
        eq(sql`${jobs.input}->>'destinationId'`, volume.id),
        sql`(${jobs.input}->>'clipId')::uuid in ${own}`,
      ),
    ),
  )
  const unsettled = await database.$count(
    placements,
    and(eq(placements.volumeId, volume.id), eq(placements.state, 'open')),
  )
  const synced = await syncedElsewhere(database, volume)
  return { ...(rows[0] as Record<Counted, number>), jobs: live + unsettled, synced }
}

type Counted = 'clips' | 'described' | 'paired' | 'serving' | 'elsewhere' | 'copies' | 'verified' | 'mended'

async function syncedElsewhere(database: Queryable, volume: VolumeRow): Promise<number> {
  const isLinked = sql`jsonb_exists(${clips.described}, ${soundLinkKey}::text)`
  const linked = await database
    .select({ id: clips.id, described: clips.described })
    .from(clips)
    .where(and(eq(clips.productionId, volume.productionId), isLinked))
  if (linked.length === 0) return 0
  const own = await database
    .select({ id: clips.id })
    .from(clips)
    .where(inArray(clips.id, clipsOn(volume)))
  return syncedWith(linked, new Set(own.map(({ id }) => id))).length
}
