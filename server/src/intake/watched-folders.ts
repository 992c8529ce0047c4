import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, gt, inArray, or, sql } from 'drizzle-orm'
import { stampOfStats } from '../disk/fingerprint.ts'
import { addJob } from '../queue/jobs.ts'
import type { Queryable } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { volumes } from '../store/schema.ts'
import { isGrowing } from './at-rest.ts'
import { walk } from './walk.ts'

/** What a look found of each media file: its size and time. */
type Look = ReadonlyMap<string, { readonly text: string; readonly isGrowing: boolean }>

/**
 * Scans watched folders as files arrive, and after a scan of any volume what something was still writing then. A file
 * counts once nothing has changed it for some seconds, nor between two looks. One that still grows holds up no other.
 */
export class FolderWatch {
  readonly #database: Queryable
  readonly #restSeconds: number
  /** What a volume held when it was last looked at. */
  readonly #looks = new Map<string, Look>()
  /** What a volume held, at rest, when its last scan was asked for. */
  readonly #scanned = new Map<string, string>()
  /** Volumes that are being looked at: one that hangs is so until it answers. */
  readonly #looking = new Set<string>()
  /** Large folders are looked at less often: not before this time. */
  readonly #notBefore = new Map<string, number>()

  constructor(database: Queryable, restSeconds: number) {
    this.#database = database
    this.#restSeconds = restSeconds
  }

  /** Looks at every watched folder, and at every volume on which something was being written, once. */
  async lookOnce(): Promise<void> {
    const watched = await this.#database
      .select()
      .from(volumes)
      .where(and(or(eq(volumes.isWatched, true), gt(volumes.growingFiles, 0)), eq(volumes.isHere, true)))
    const ids = new Set(watched.map(({ id }) => id))
    for (const known of [this.#looks, this.#scanned, this.#notBefore])
      for (const id of known.keys()) if (!ids.has(id)) known.delete(id)
    await Promise.all(watched.map((volume) => this.#lookLater(volume)))
  }

  async #lookLater(volume: VolumeRow): Promise<void> {
    if (this.#looking.has(volume.id)) return
    const startedAt = Date.now()
    if (startedAt < (this.#notBefore.get(volume.id) ?? 0)) return
    this.#looking.add(volume.id)
    await this.#look(volume).finally(() => this.#looking.delete(volume.id))
    this.#notBefore.set(volume.id, Date.now() + 20 * (Date.now() - startedAt))
  }

  async #look(volume: VolumeRow): Promise<void> {
    const before = this.#looks.get(volume.id)
    const look = await lookInto(volume.rootPath, this.#restSeconds)
    if (look === null) return
    this.#looks.set(volume.id, look)
    const growing: string[] = []
    const resting: string[] = []
    for (const [path, { text, isGrowing: grows }] of look) {
      const last = before?.get(path)
      if (grows || (last && last.text !== text)) growing.push(path)
      else resting.push(`${path}\t${text}`)
    }
    // One that was being written and was taken away again is to be known as well.
    const held = [...resting, '', ...(volume.growingFiles > 0 ? growing : [])].join('\n')
    // What was written over may come to rest as it was: then all is as it was scanned, but for what is known of it.
    const isAsLeft = growing.length === volume.growingFiles
    if (held === this.#scanned.get(volume.id) && (isAsLeft || volume.growingFiles === 0)) return
    // The scan that has just left as many for later knows everything else.
    const isAsScanned = !volume.isWatched && before === undefined && isAsLeft
    if (!isAsScanned) {
      if (await this.#isScanned(volume)) return
      await addJob(this.#database, volume.productionId, `Scan ${volume.label}`, { kind: 'scan', volumeId: volume.id })
    }
    this.#scanned.set(volume.id, held)
  }

  /** Whether a scan of a volume is waiting or running. */
  async #isScanned(volume: VolumeRow): Promise<boolean> {
    const live = await this.#database.$count(
      jobs,
      and(
        eq(jobs.productionId, volume.productionId),
        inArray(jobs.state, ['waiting', 'running']),
        sql`${jobs.input}->>'kind' = 'scan' and ${jobs.input}->>'volumeId' = ${volume.id}`,
      ),
    )
    return live > 0
  }
}

/** The media files of a folder as they are now; null when it left. */
async function lookInto(root: string, restSeconds: number): Promise<Look | null> {
  const look = new Map<string, { text: string; isGrowing: boolean }>()
  try {
    for await (const { path, isMedia } of walk(root, { isForMedia: true, onUnreadable: () => undefined })) {
      const info = isMedia ? await stat(join(root, path), { bigint: true }).catch(() => null) : null
      if (!info) continue
      const stamp = stampOfStats(info)
      look.set(path, {
        text: `${stamp.sizeBytes}\t${stamp.mtimeMicros}`,
        isGrowing: isGrowing(stamp, restSeconds),
      })
    }
  } catch {
    return null
  }
  return look
}
