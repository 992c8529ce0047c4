import type { VolumeClip } from '@ennick/contract'
import { formatTimecode, pathsOfFile } from '@ennick/core'
import { and, eq, isNull } from 'drizzle-orm'
import { anyOf } from '../store/any-of.ts'
import { cameraProxies, clipCopies } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import { clipFiles, clips, files, volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'

/**
 * The files of clips on a volume: where the clip lives there, where the volume holds a copy of it, and the small proxies
 * that its camera made.
 */
async function filesOn(database: Queryable, volumeId: string) {
  const there = and(eq(files.volumeId, volumeId), eq(files.isGone, false))
  const [own, copies, proxies] = await Promise.all([
    database
      .select({ clipId: clipFiles.clipId, file: files })
      .from(clipFiles)
      .innerJoin(files, eq(files.id, clipFiles.fileId))
      .where(there),
    database
      .select({ clipId: clipCopies.clipId, file: files })
      .from(clipCopies)
      .innerJoin(files, eq(files.id, clipCopies.fileId))
      .where(there),
    database
      .select({ clipId: cameraProxies.clipId, file: files })
      .from(cameraProxies)
      .innerJoin(files, eq(files.id, cameraProxies.fileId))
      .where(there),
  ])
  return [...own, ...copies, ...proxies].flatMap(({ clipId, file }) => (clipId === null ? [] : [{ clipId, file }]))
}

/** What can be chosen of a volume to be offloaded, in the order of its folders, and what lies safe already. */
export async function readVolumeClips(database: Queryable, volumeId: string): Promise<VolumeClip[]> {
  const rows = await filesOn(database, volumeId)
  const found = new Map<string, VolumeClip & { path: string }>()
  for (const { clipId, file } of rows) {
    const { facts } = file
    const start =
      facts?.picture && facts.startFrame !== null
        ? formatTimecode(facts.startFrame, facts.picture.rate, facts.dropFrame)
        : null
    const known = found.get(clipId)
    if (known) {
      known.bytes += file.sizeBytes
      if (file.path < known.path) Object.assign(known, { path: file.path, startTimecode: start })
    } else
      found.set(clipId, {
        clipId,
        name: '',
        path: file.path,
        startTimecode: start,
        bytes: file.sizeBytes,
        isSafe: false,
      })
  }
  const ids = [...found.keys()]
  const names = await database.select({ id: clips.id, name: clips.name }).from(clips).where(anyOf(clips.id, ids))
  const safe = await clipsThatStay(database, ids)
  for (const { id, name } of names) {
    const clip = found.get(id)
    if (clip) Object.assign(clip, { name, isSafe: safe.has(id) })
  }
  return [...found.values()].sort((a, b) => (a.path < b.path ? -1 : 1))
}

/** Those of some clips that are on a volume which does not leave again; a copy counts where it was read back. */
async function clipsThatStay(database: Queryable, clipIds: readonly string[]): Promise<ReadonlySet<string>> {
  const isSafe = and(eq(files.isGone, false), isNull(files.problem), stays(volumes.kind))
  const own = await database
    .selectDistinct({ id: clipFiles.clipId })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(and(anyOf(clipFiles.clipId, clipIds), isSafe))
  const copies = await database
    .selectDistinct({ id: clipCopies.clipId })
    .from(clipCopies)
    .innerJoin(files, eq(files.id, clipCopies.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(and(anyOf(clipCopies.clipId, clipIds), isSafe, eq(clipCopies.isVerified, true)))
  return new Set([...own, ...copies].map(({ id }) => id))
}

/** The paths on a volume of clips that are left there. */
export async function pathsOfClips(
  database: Queryable,
  volumeId: string,
  clipIds: readonly string[],
): Promise<ReadonlySet<string>> {
  if (clipIds.length === 0) return new Set()
  const wanted = new Set(clipIds)
  const rows = (await filesOn(database, volumeId)).filter(({ clipId }) => wanted.has(clipId))
  return new Set(rows.flatMap(({ file }) => pathsOfFile(file)))
}
