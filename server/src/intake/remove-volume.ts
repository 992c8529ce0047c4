import type { RemoveVolumePreview } from '@ennick/contract'
import { and, eq, inArray, or, type SQL, sql } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { jobs } from '../store/job-schema.ts'
import type { VolumeRow } from '../store/material.ts'
import { clips, volumes } from '../store/schema.ts'
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
      ...say(counts.mended, 'mend points at its files', 'mends point at its files'),
    ]
    if (apply) {
      if (reasons.length)
        throw new PlainError('volume-needed', `“${volume.label}” stays: ${reasons.join(' ')}`, { status: 409 })
      await transaction.delete(clips).where(inArray(clips.id, clipsOn(volume)))
      await transaction.delete(volumes).where(eq(volumes.id, volume.id))
      await writeHistory(
        transaction,
        volume.productionId,
        'volume',
        volume.id,
        `Volume “${volume.label}” at ${volume.rootPath} removed, with ${counts.clips} clips. No file was touched.`,
      )
      await announce(transaction, volume.productionId, 'volumes', 'clips', 'catalogue', 'pairs', 'cuts')
    }
    return { clips: counts.clips, described: counts.described, reasons }
  })
}

const say = (count: number, one: string, many: string): string[] =>
  count === 0 ? [] : [`${count === 1 ? `One ${one}` : `${count} ${many}`}.`]

const clipsOn = ({ id }: VolumeRow): SQL =>
  sql`(select clip_files.clip_id from clip_files join files on files.id = clip_files.file_id where files.volume_id = ${id})`

async function countOn(database: Queryable, volume: VolumeRow) {
  const own = clipsOn(volume)
  const { rows } = await database.execute<Record<'clips' | Counted, number>>(sql`
    select
      (select count(*)::int from clips where id in ${own}) as clips,
      (select count(*)::int from clips where id in ${own} and (reel_from = 'person' or exists (
        select 1 from jsonb_each(described) as said where said.value->>'from' = 'person'))) as described,
      (select count(distinct clip_id)::int from pairs where clip_id in ${own}) as paired,
      (select count(*)::int from pair_files join files on files.id = pair_files.file_id
        where files.volume_id = ${volume.id}) as serving,
      (select count(distinct clip_files.clip_id)::int from clip_files join files on files.id = clip_files.file_id
        where files.volume_id <> ${volume.id} and clip_files.clip_id in ${own}) as elsewhere,
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
  return { ...(rows[0] as Record<'clips' | Counted, number>), jobs: live }
}

type Counted = 'described' | 'paired' | 'serving' | 'elsewhere' | 'mended'
