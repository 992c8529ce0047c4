import { readdir, unlink } from 'node:fs/promises'
import { join } from 'node:path'
import { mapPath } from '@ennick/core'
import { and, eq, inArray, sql } from 'drizzle-orm'
import type { Config } from '../config.ts'
import { type HeldFolder, withFolder, withHeld } from '../disk/held-folder.ts'
import { clearScratch } from '../engine/scratch.ts'
import { isFileError } from '../errors.ts'
import { isWorkerAlive } from '../queue/lease.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import { volumes } from '../store/schema.ts'
import { recoverPlaces } from './placements.ts'
import { isPart, partOwner } from './unfinished-files.ts'

/**
 * Puts in order what dead processes have left: moves that were half done, what lay in their scratch folders, and
 * unfinished files that no living attempt writes. Whatever began it, the next start ends it.
 */
export async function clearAfterTheDead(database: Database, config: Config): Promise<void> {
  await recoverPlaces(database, config.pathMap)
  await clearScratch(config.dataFolder).catch((error: Error) =>
    console.error(`Scratch could not be cleared: ${error.message}`),
  )
  const made = await database.select({ rootPath: volumes.rootPath }).from(volumes).where(eq(volumes.kind, 'made'))
  for (const { rootPath } of made) await clearParts(database, mapPath(rootPath, config.pathMap) ?? rootPath, '')
  const copied = await database
    .select({ rootPath: volumes.rootPath, input: jobs.input })
    .from(jobs)
    .innerJoin(volumes, sql`${volumes.id}::text = ${jobs.input}->>'destinationId'`)
    .where(and(sql`${jobs.input}->>'kind' in ('offload', 'fetch')`, inArray(jobs.state, ['failed', 'cancelled'])))
  for (const { rootPath, input } of copied)
    if (input.kind === 'offload' || input.kind === 'fetch') await clearParts(database, rootPath, input.folder)
  const pulls = await database
    .select({ input: jobs.input })
    .from(jobs)
    .where(and(sql`${jobs.input}->>'kind' = 'pull'`, inArray(jobs.state, ['failed', 'cancelled'])))
  for (const { input } of pulls)
    if (input.kind === 'pull') await clearParts(database, join(input.folder, input.name), '')
}

async function clearParts(database: Database, rootPath: string, below: string): Promise<void> {
  try {
    await withHeld(rootPath, (root) => withFolder(root, below, (folder) => clearFolder(database, folder)), {
      isOwn: true,
    })
  } catch (error) {
    // A place that is not there, or may not be read, is cleared when it is.
    if (!isFileError(error)) throw error
  }
}

async function clearFolder(database: Database, folder: HeldFolder): Promise<void> {
  for (const entry of await readdir(folder.at('.'), { withFileTypes: true })) {
    if (entry.isDirectory())
      await withFolder(folder, entry.name, (next) => clearFolder(database, next)).catch(passOver(folder, entry.name))
    else if (entry.isFile() && isPart(entry.name) && !(await isBeingWritten(database, entry.name)))
      await unlink(folder.at(entry.name)).catch(passOver(folder, entry.name))
  }
}

const passOver = (folder: HeldFolder, name: string) => (error: unknown) => {
  if (!isFileError(error)) throw error
  if ((error as NodeJS.ErrnoException).code !== 'ENOENT')
    console.error(`${join(folder.path, name)} could not be cleared: ${(error as Error).message}`)
}

/** Asked of each file after it was seen: an attempt that begins meanwhile is known by then. */
async function isBeingWritten(database: Database, name: string): Promise<boolean> {
  const { job, attempt } = partOwner(name)
  const [live] = await database
    .select({ id: jobs.id })
    .from(jobs)
    .where(
      and(
        sql`${jobs.id}::text like ${`${job}%`}`,
        eq(jobs.attempts, attempt),
        eq(jobs.state, 'running'),
        isWorkerAlive(sql`coalesce(${jobs.workerId}::text, '')`),
      ),
    )
  return live !== undefined
}
