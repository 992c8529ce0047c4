import { removableKinds } from '@ennick/core'
import { and, eq, ne, sql } from 'drizzle-orm'
import { isAnyThere, isVolumeHere } from '../disk/volume-presence.ts'
import { clipCopies } from './catalogue-schema.ts'
import type { Queryable } from './database.ts'
import { clipFiles, files, volumes } from './schema.ts'
import { stays } from './stays.ts'

type VolumeRow = typeof volumes.$inferSelect

/** Paths below a volume's root at which something is known to lie; of numbered stills the folder. */
async function knownPaths(database: Queryable, volumeId: string, most: number): Promise<string[]> {
  const rows = await database
    .select({ path: files.path, sequence: files.sequence })
    .from(files)
    .where(and(eq(files.volumeId, volumeId), eq(files.isGone, false)))
    .limit(most)
  return rows.map(({ path, sequence }) => (sequence ? sequence.folder : path))
}

/** So many say well enough whether a volume is in, which is asked every other second. */
const enough = 20
/** Where another volume has the same place all that matter are asked: some may be gone from a card. */
const many = 1000

/**
 * Whether a volume of the ledger is in now, and may be used. Cards are often mounted under one name: of several at one
 * place that one is in of which something is there, and one of which nothing is known yet where that is so of no other.
 */
export async function lookForVolume(database: Queryable, volume: VolumeRow): Promise<boolean> {
  if (!volume.isAllowed) return false
  const others = await othersAtItsPlace(database, volume)
  if (others.length === 0) {
    const isHere = await isVolumeHere(volume, () => knownPaths(database, volume.id, enough))
    return isHere && !(removableKinds.has(volume.kind) && (await isAnother(database, volume)))
  }
  const own = await knownPaths(database, volume.id, many)
  if (own.length === 0)
    for (const { id } of others)
      if (await isAnyThere(volume.rootPath, await knownPaths(database, id, many))) return false
  const isHere = await isVolumeHere(volume, async () => own)
  return isHere && (own.length === 0 || isAnyThere(volume.rootPath, own))
}

/** Volumes of its production that are put in at the place of one. */
export const othersAtItsPlace = (database: Queryable, { id, productionId, rootPath }: VolumeRow) =>
  database
    .select({ id: volumes.id })
    .from(volumes)
    .where(and(eq(volumes.productionId, productionId), eq(volumes.rootPath, rootPath), ne(volumes.id, id)))

/** Whether what is at a card's place is another one, as far as can be told: nothing of what it alone holds may be lost. */
async function isAnother(database: Queryable, volume: VolumeRow): Promise<boolean> {
  const some = await knownPaths(database, volume.id, enough)
  if (some.length === 0 || (await isAnyThere(volume.rootPath, some))) return false
  return (await holdsNothing(database, volume)) && (await clipsOnItAlone(database, volume)) > 0
}

/** Whether something is known of a volume, and nothing of that is at its place. */
export async function holdsNothing(database: Queryable, { id, rootPath }: VolumeRow): Promise<boolean> {
  const known = await knownPaths(database, id, Number.MAX_SAFE_INTEGER)
  return known.length > 0 && !(await isAnyThere(rootPath, known))
}

/** How many clips live on a volume and have no copy on one that stays. */
export async function clipsOnItAlone(database: Queryable, volume: VolumeRow): Promise<number> {
  const { rows } = await database.execute<{ clips: number }>(sql`
    select count(distinct link.clip_id)::int as clips from ${clipFiles} link join ${files} on ${files.id} = link.file_id
    where ${files.volumeId} = ${volume.id} and not ${files.isGone} and not exists (
      select from ${clipCopies} copy join files other on other.id = copy.file_id
        join ${volumes} home on home.id = other.volume_id
      where copy.clip_id = link.clip_id and not other.is_gone and other.problem is null
        and ${stays(sql`home.kind`)})`)
  return rows[0]?.clips ?? 0
}
