import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, inArray, sql } from 'drizzle-orm'
import { addJob } from '../queue/jobs.ts'
import type { Queryable } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { VolumeRow } from '../store/material.ts'
import { volumes } from '../store/schema.ts'
import { restMilliseconds } from './scan.ts'
import { walk } from './walk.ts'

/**
 * Scans watched folders as files arrive. A file counts once it has stopped growing: nothing changed it for some
 * seconds. One that still grows holds up no other.
 */
export class FolderWatch {
  readonly #database: Queryable
  /** What a volume held, at rest, when its last scan was asked for. */
  readonly #scanned = new Map<string, string>()
  /** Large folders are looked at less often: not before this time. */
  readonly #notBefore = new Map<string, number>()

  constructor(database: Queryable) {
    this.#database = database
  }

  /** Looks at every watched folder once. */
  async lookOnce(): Promise<void> {
    const watched = await this.#database
      .select()
      .from(volumes)
      .where(and(eq(volumes.isWatched, true), eq(volumes.isHere, true)))
    for (const volume of watched) {
      const startedAt = Date.now()
      if (startedAt < (this.#notBefore.get(volume.id) ?? 0)) continue
      await this.#look(volume)
      this.#notBefore.set(volume.id, Date.now() + 20 * (Date.now() - startedAt))
    }
  }

  async #look(volume: VolumeRow): Promise<void> {
    const resting = await restingFiles(volume.rootPath)
    if (resting === null || resting === this.#scanned.get(volume.id)) return
    const live = await this.#database.$count(
      jobs,
      and(
        eq(jobs.productionId, volume.productionId),
        inArray(jobs.state, ['waiting', 'running']),
        sql`${jobs.input}->>'kind' = 'scan' and ${jobs.input}->>'volumeId' = ${volume.id}`,
      ),
    )
    if (live > 0) return
    await addJob(this.#database, volume.productionId, `Scan ${volume.label}`, { kind: 'scan', volumeId: volume.id })
    this.#scanned.set(volume.id, resting)
  }
}

/** The files of a folder that have stopped growing, with their sizes and times, as one text; null when it left. */
async function restingFiles(root: string): Promise<string | null> {
  const newest = Date.now() - restMilliseconds
  const lines: string[] = []
  try {
    for await (const { path, isMedia } of walk(root, { onUnreadable: () => undefined })) {
      const info = isMedia ? await stat(join(root, path)).catch(() => null) : null
      if (info && info.mtimeMs <= newest) lines.push(`${path}\t${info.size}\t${info.mtimeMs}`)
    }
  } catch {
    return null
  }
  return lines.join('\n')
}
