import { readdir, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { eq } from 'drizzle-orm'
import { readMarker } from '../engine/file-system.ts'
import { retryWaiting } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Queryable } from '../store/database.ts'
import { record } from '../store/history.ts'
import { volumes } from '../store/schema.ts'
import type { VolumeRow } from '../store/world.ts'
import { FolderWatch } from './watched-folders.ts'

/** Looks once which volumes are in, and writes down and announces those that came, went or lie elsewhere. */
export async function watchOnce(database: Queryable): Promise<void> {
  const rows = await database.select().from(volumes)
  const taken = new Set(rows.map((row) => row.rootPath))
  for (const row of rows) {
    const isHere = await isFolder(row.rootPath)
    const elsewhere = isHere || row.markerId === null ? null : await findMarked(row, taken)
    if (elsewhere) await settle(database, row, { isHere: true, rootPath: elsewhere }, `Volume “${row.label}” is here, at ${elsewhere} now.`)
    else if (isHere !== row.isHere)
      await settle(database, row, { isHere }, isHere ? `Volume “${row.label}” is here.` : `Volume “${row.label}” went away.`)
  }
  // Also when nothing changed: a volume may have left and come back between two looks.
  await retryWaiting(database)
}

const isFolder = (path: string): Promise<boolean> =>
  stat(path).then(
    (info) => info.isDirectory(),
    () => false,
  )

/** A volume that was marked is known beside the place where it was: systems mount a second card of one name as "A001 1". */
async function findMarked(row: VolumeRow, taken: ReadonlySet<string>): Promise<string | null> {
  const parent = dirname(row.rootPath)
  const entries = await readdir(parent, { withFileTypes: true }).catch(() => [])
  for (const entry of entries) {
    const path = join(parent, entry.name)
    if (entry.isDirectory() && !taken.has(path) && (await readMarker(path))?.volume === row.markerId) return path
  }
  return null
}

async function settle(database: Queryable, row: VolumeRow, change: { isHere: boolean; rootPath?: string }, what: string): Promise<void> {
  await database
    .update(volumes)
    .set(change.isHere ? { ...change, lastSeenAt: new Date() } : change)
    .where(eq(volumes.id, row.id))
  await record(database, row.productionId, 'volume', row.id, what)
  await announce(database, row.productionId, 'volumes', 'clips', 'pairs', 'cuts')
}

/** Looks every two seconds, at the volumes and into the watched folders. @returns what stops it. */
export function watchPresence(database: Queryable): () => void {
  const folders = new FolderWatch(database)
  let looking = false
  const timer = setInterval(() => {
    if (looking) return
    looking = true
    watchOnce(database)
      .then(() => folders.lookOnce())
      .catch((error: Error) => console.error(`Could not look at the volumes: ${error.message}`))
      .finally(() => {
        looking = false
      })
  }, 2000)
  return () => clearInterval(timer)
}
