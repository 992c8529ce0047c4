import { and, eq, ne } from 'drizzle-orm'
import { isAnyThere, isVolumeHere } from '../disk/volume-presence.ts'
import type { Queryable } from './database.ts'
import { files, volumes } from './schema.ts'

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
 * Whether a volume of the ledger is in now. Cards are often mounted under one name: of several at one place that one is
 * in of which something is there, and one of which nothing is known yet where that is so of no other.
 */
export async function lookForVolume(database: Queryable, volume: VolumeRow): Promise<boolean> {
  const others = await database
    .select({ id: volumes.id })
    .from(volumes)
    .where(
      and(
        ...[eq(volumes.productionId, volume.productionId), eq(volumes.rootPath, volume.rootPath)],
        ne(volumes.id, volume.id),
      ),
    )
  if (others.length === 0) return isVolumeHere(volume, () => knownPaths(database, volume.id, enough))
  const own = await knownPaths(database, volume.id, many)
  if (own.length === 0)
    for (const { id } of others)
      if (await isAnyThere(volume.rootPath, await knownPaths(database, id, many))) return false
  return isVolumeHere({ ...volume, isPlaceShared: true }, async () => own)
}

/** Whether something is known of a volume, and nothing of that is at its place. */
export async function holdsNothing(database: Queryable, { id, rootPath }: VolumeRow): Promise<boolean> {
  const known = await knownPaths(database, id, Number.MAX_SAFE_INTEGER)
  return known.length > 0 && !(await isAnyThere(rootPath, known))
}
