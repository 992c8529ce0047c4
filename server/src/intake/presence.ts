import { readdir } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { doesNotAnswer } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import { ask, NotAnswering, within } from '../disk/answering.ts'
import { readMarker, writeMarker } from '../disk/marker.ts'
import { rootIdentity } from '../disk/volume-presence.ts'
import type { AllowedFolders } from '../http/folders.ts'
import { retryWaiting } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { volumes } from '../store/schema.ts'
import { presenceOf } from '../store/volume-presence.ts'
import { FolderWatch } from './watched-folders.ts'

/**
 * Notes of which volumes the folders may be used: one that was allowed once may be allowed no more, and a ledger may
 * have come from another machine. What may not be used is away.
 */
export async function noteAllowed(database: Database, folders: AllowedFolders): Promise<void> {
  const allows = await folders.judge()
  const rows = await database.select().from(volumes)
  await Promise.all(
    rows.map(async (row) => {
      // Of a place that does not answer nothing new is known.
      const isAllowed = await allows(row.rootPath).catch((error) => {
        if (error instanceof NotAnswering) return row.isAllowed
        throw error
      })
      if (isAllowed === row.isAllowed) return
      const what = isAllowed ? 'may be used' : 'lies outside the folders that Ennick may use'
      await settle(
        database,
        row,
        { isAllowed, isHere: row.isHere && isAllowed },
        `Volume “${row.label}” ${what}: ${row.rootPath}.`,
      )
    }),
  )
}

/** Looks once which volumes are in, and writes down and announces those that came, went or lie elsewhere. */
export async function watchOnce(database: Database): Promise<void> {
  await lookAtVolumes(database, await database.select().from(volumes))
  // Also when nothing changed: a volume may have left and come back between two looks.
  await retryWaiting(database)
}

/** What is found of a volume is written down while it still lies where it was looked for. */
export async function lookAtVolumes(database: Database, rows: readonly VolumeRow[]): Promise<void> {
  const taken = new Set(rows.map((row) => row.rootPath))
  // Beside each other: one that hangs keeps nobody from knowing of the others.
  await Promise.all(rows.map((row) => lookAtVolume(database, row, taken)))
}

async function lookAtVolume(database: Database, row: VolumeRow, taken: ReadonlySet<string>): Promise<void> {
  const presence = await presenceOf(database, row)
  const isHere = presence === 'here'
  if (presence === 'not answering') {
    if (row.isHere || row.isAnswering)
      await settle(database, row, { isHere: false, isAnswering: false }, `Volume “${row.label}” ${doesNotAnswer}.`)
    return
  }
  if (isHere && row.kind !== 'made') await noteIdentity(database, row)
  if (isHere && row.kind === 'made' && row.markerId === null) await markPlace(database, row)
  const elsewhere = isHere || row.markerId === null || row.kind === 'made' ? null : await findMarked(row, taken)
  if (elsewhere)
    await settle(
      database,
      row,
      { isHere: true, isAnswering: true, rootPath: elsewhere },
      `Volume “${row.label}” is here, at ${elsewhere} now.`,
    )
  else if (isHere !== row.isHere || !row.isAnswering)
    await settle(
      database,
      row,
      { isHere, isAnswering: true },
      isHere ? `Volume “${row.label}” is here.` : `Volume “${row.label}” went away.`,
    )
}

const asLookedAt = ({ id, rootPath }: VolumeRow) => and(eq(volumes.id, id), eq(volumes.rootPath, rootPath))

/** What a volume's root is known by is noted while it is here, so that a bare mount point is not taken for it. */
async function noteIdentity(database: Queryable, row: VolumeRow): Promise<void> {
  const identity = await rootIdentity(row.rootPath).catch(() => null)
  if (identity && (identity.mountPath !== row.mountPath || identity.rootInode !== row.rootInode))
    await database.update(volumes).set(identity).where(asLookedAt(row))
}

/** A place for what is made that was made before places had markers gets its own. */
async function markPlace(database: Queryable, row: VolumeRow): Promise<void> {
  await writeMarker(row.rootPath, { volume: row.id, label: row.label }, { isOwn: true })
  await database.update(volumes).set({ markerId: row.id }).where(asLookedAt(row))
}

/**
 * A volume that was marked is known beside the place where it was: systems mount a second card of one name as "A001 1".
 */
async function findMarked(row: VolumeRow, taken: ReadonlySet<string>): Promise<string | null> {
  const parent = dirname(row.rootPath)
  const entries = await ask(parent, () => readdir(parent, { withFileTypes: true })).catch(() => [])
  for (const entry of entries) {
    const path = join(parent, entry.name)
    if (!entry.isDirectory() || taken.has(path)) continue
    const marker = await ask(path, () => readMarker(path)).catch(() => null)
    if (marker?.volume === row.markerId) return path
  }
  return null
}

async function settle(
  database: Queryable,
  row: VolumeRow,
  change: { isHere: boolean; isAllowed?: boolean; isAnswering?: boolean; rootPath?: string },
  what: string,
): Promise<void> {
  const changed = await database
    .update(volumes)
    .set(change.isHere ? { ...change, lastSeenAt: new Date() } : change)
    .where(asLookedAt(row))
    .returning({ id: volumes.id })
  if (changed.length === 0) return
  await writeHistory(database, row.productionId, 'volume', row.id, what)
  await announce(database, row.productionId, 'volumes', 'clips', 'pairs', 'cuts')
}

/**
 * Looks every two seconds, at the volumes and into the watched folders. What takes its time, or hangs, goes on by
 * itself, and is not begun again before it has ended: nobody waits for it.
 * @returns what ends the looking
 */
export function watchPresence(database: Database, folders: AllowedFolders, restSeconds: number): () => Promise<void> {
  const watched = new FolderWatch(database, restSeconds)
  const underWay = new Set<string>()
  const begin = async (what: string, look: () => Promise<void>): Promise<void> => {
    if (underWay.has(what)) return
    underWay.add(what)
    const looking = look()
      .catch((error: Error) => console.error(`Could not look at the volumes: ${error.message}`))
      .finally(() => underWay.delete(what))
    await within(2, looking)
  }
  const lookOnce = async (): Promise<void> => {
    await begin('allowed', () => noteAllowed(database, folders))
    const rows = await database.select().from(volumes)
    const taken = new Set(rows.map((row) => row.rootPath))
    await Promise.all(rows.map((row) => begin(row.id, () => lookAtVolume(database, row, taken))))
    await retryWaiting(database)
    await within(2, watched.lookOnce())
  }
  let looking: Promise<void> | null = null
  const timer = setInterval(() => {
    looking ??= lookOnce()
      .catch((error: Error) => console.error(`Could not look at the volumes: ${error.message}`))
      .finally(() => {
        looking = null
      })
  }, 2000)
  return async () => {
    clearInterval(timer)
    await looking
  }
}
