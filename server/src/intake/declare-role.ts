import type { FileRole } from '@ennick/core'
import { and, eq, type SQL, sql } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { cameraProxies } from '../store/catalogue-schema.ts'
import type { Database, Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { holdIndex } from '../store/hold-index.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { readProduction } from '../store/production-row.ts'
import { declaredRoles } from '../store/schema.ts'
import { settleArrivals } from './arrivals.ts'

/**
 * Writes down what the files in a place are, or takes that back, and settles anew what nobody has worked with yet: what
 * is no original any more waits as a proxy for its original, and what is one again is a clip.
 * @param path below the volume's root; empty for all of it
 */
export async function declareRole(
  database: Database,
  volume: VolumeRow,
  path: string,
  role: FileRole | null,
): Promise<void> {
  const place = path.split('/').filter(Boolean).join('/')
  if (place.split('/').includes('..'))
    throw new PlainError('bad-place', `“${path}” is no place on “${volume.label}”: give a path below its root.`)
  if (volume.kind === 'made')
    throw new PlainError('made-volume', 'What Ennick made is what its recipes say.', { status: 409 })
  await database.transaction(async (transaction) => {
    if (role === null)
      await transaction
        .delete(declaredRoles)
        .where(and(eq(declaredRoles.volumeId, volume.id), eq(declaredRoles.path, place)))
    else
      await transaction
        .insert(declaredRoles)
        .values({ volumeId: volume.id, path: place, role })
        .onConflictDoUpdate({
          target: [declaredRoles.volumeId, declaredRoles.path],
          set: { role, declaredAt: new Date() },
        })
    await unsettle(transaction, volume, place)
    await settleArrivals(transaction, await readProduction(transaction, volume.productionId), volume)
    const where = place ? `${place} on “${volume.label}”` : `“${volume.label}”`
    const what = role === null ? 'what it is follows from evidence again' : `what it holds is: ${role}`
    await writeHistory(transaction, volume.productionId, 'volume', volume.id, `Of ${where} was said: ${what}.`)
    await announce(transaction, volume.productionId, 'volumes', 'clips', 'pairs', 'cuts')
  })
}

/** Files of a place lose what a scan has made of them by itself. What people, pairs or cuts rest on stays. */
async function unsettle(transaction: Transaction, volume: VolumeRow, place: string): Promise<void> {
  const isIn = (path: SQL): SQL =>
    place === '' ? sql`true` : sql`(${path} = ${place} or starts_with(${path}, ${`${place}/`}))`
  await holdIndex(transaction, volume.productionId)
  await transaction.execute(sql`
    delete from clips where id in (
      select clip_id from clip_files join files on files.id = file_id group by clip_id
      having bool_and(files.volume_id = ${volume.id} and ${isIn(sql`files.path`)}))
      and not exists (select 1 from pairs where pairs.clip_id = clips.id)
      and not exists (select 1 from clip_copies where clip_copies.clip_id = clips.id)
      and not exists (select 1 from events where events.chosen_clip_id = clips.id)
      and not exists (select 1 from edit_changes where edit_changes.clip_id = clips.id)`)
  await transaction.execute(sql`
    delete from ${cameraProxies} where file_id in (
      select id from files where volume_id = ${volume.id} and ${isIn(sql`files.path`)})
      and not exists (select 1 from pair_files where pair_files.file_id = ${cameraProxies}.file_id)`)
}
