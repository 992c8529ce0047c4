import { and, eq } from 'drizzle-orm'
import { isVolumeHere } from '../disk/volume-presence.ts'
import type { Queryable } from './database.ts'
import { files, type volumes } from './schema.ts'

/** Whether a volume of the ledger is in now. */
export const lookForVolume = (database: Queryable, volume: typeof volumes.$inferSelect): Promise<boolean> =>
  isVolumeHere(volume, async () =>
    (
      await database
        .select({ path: files.path, sequence: files.sequence })
        .from(files)
        .where(and(eq(files.volumeId, volume.id), eq(files.isGone, false)))
        .limit(20)
    ).map(({ path, sequence }) => (sequence ? sequence.folder : path)),
  )
