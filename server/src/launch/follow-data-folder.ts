import { join } from 'node:path'
import { eq, sql } from 'drizzle-orm'
import { readMarker } from '../disk/marker.ts'
import { isFolder, rootIdentity } from '../disk/volume-presence.ts'
import type { Database } from '../store/database.ts'
import { handoffs } from '../store/handoff-schema.ts'
import { writeHistory } from '../store/history.ts'
import { volumes } from '../store/schema.ts'

/**
 * A data folder that was moved, or is a copy of another, knows what lies in it where it lies now: places of made files
 * and volumes keep their links, and a copy touches nothing of the folder that it was copied from.
 * @param before where it lay
 * @returns the labels of what has another path now
 */
export async function followDataFolder(database: Database, before: string, dataFolder: string): Promise<string[]> {
  return database.transaction(async (transaction) => {
    const followed: string[] = []
    for (const volume of await transaction.select().from(volumes)) {
      if (!volume.rootPath.startsWith(`${before}/`)) continue
      const rootPath = join(dataFolder, volume.rootPath.slice(before.length))
      const isThere = await isFolder(rootPath)
      const marker = isThere ? await readMarker(rootPath) : null
      // Something else that lies there by now.
      if (marker && marker.volume !== volume.markerId) continue
      // Material that stayed where it was. Of what Ennick made nothing is used that is another folder's.
      if (!isThere && volume.kind !== 'made' && (await isFolder(volume.rootPath))) continue
      const identity = isThere ? await rootIdentity(rootPath) : { mountPath: null, rootInode: null }
      await transaction
        .update(volumes)
        .set({ rootPath, ...identity })
        .where(eq(volumes.id, volume.id))
      const what = `“${volume.label}” is now at ${rootPath}, as the data folder was moved there from ${before}.`
      await writeHistory(transaction, volume.productionId, 'volume', volume.id, what)
      followed.push(volume.label)
    }
    const start = `${before}/`
    await transaction
      .update(handoffs)
      .set({ folder: sql`${`${dataFolder}/`} || substr(${handoffs.folder}, ${start.length + 1})` })
      .where(sql`starts_with(${handoffs.folder}, ${start})`)
    return followed
  })
}
