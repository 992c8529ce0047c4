import { readdir } from 'node:fs/promises'
import type { Volume } from '@ennick/contract'
import { groupBy, removableKinds } from '@ennick/core'
import { and, asc, desc, eq, inArray, isNull, ne, sql } from 'drizzle-orm'
import { Contribution } from '../contribution.ts'
import { ask, ifSoon } from '../disk/answering.ts'
import { freeBytes } from '../disk/free-space.ts'
import { cameraProxies, manifests } from '../store/catalogue-schema.ts'
import type { Database, Queryable } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import { readProduction } from '../store/production-row.ts'
import { clipFiles, declaredRoles, files, volumes } from '../store/schema.ts'
import { isAnother } from '../store/volume-presence.ts'
import { countNotCompared } from './compare-copies.ts'

/** Of each volume, how many of its clips are nowhere else, and how many are used. Clips are a later stop. */
export const clipsOfVolumes = new Contribution<
  (database: Database, productionId: string) => Promise<ReadonlyMap<string, { onlyHere: number; used: number }>>
>('the clips of volumes')

/** Of each volume, how many originals it knows at another place than where they are. Mends are a later stop. */
export const movedOfVolumes = new Contribution<
  (database: Database, productionId: string) => Promise<ReadonlyMap<string, number>>
>('what was moved on volumes')

/** The volumes of a production, with what is on each and what waits there. */
export async function presentVolumes(database: Database, productionId: string): Promise<Volume[]> {
  await readProduction(database, productionId)
  const rows = await database
    .select({
      volume: volumes,
      files: sql<number>`count(${files.id}) filter (where not ${files.isGone})::int`,
      clips: sql<number>`count(distinct ${clipFiles.clipId})::int`,
      problems: sql<number>`count(${files.id}) filter (where ${files.problem} is not null and not ${files.isGone})::int`,
      goneFiles: sql<number>`count(${files.id}) filter (where ${files.isGone})::int`,
      toReadAgain: sql<number>`count(${files.id}) filter (where ${files.toReadAgain} and not ${files.isGone})::int`,
      bytes: sql<string>`coalesce(sum(${files.sizeBytes}) filter (where not ${files.isGone}), 0)`,
    })
    .from(volumes)
    .leftJoin(files, eq(files.volumeId, volumes.id))
    .leftJoin(clipFiles, eq(clipFiles.fileId, files.id))
    .where(and(eq(volumes.productionId, productionId), ne(volumes.kind, 'made')))
    .groupBy(volumes.id)
    .orderBy(asc(volumes.createdAt), asc(volumes.label))
  const found = await readAround(database, productionId)
  const fetchesOf = (volumeId: string): string[] => {
    const all = found.jobs.filter(({ input }) => input.kind === 'fetch' && input.destinationId === volumeId)
    const live = all.filter(({ state }) => state === 'waiting' || state === 'running')
    return (live.length ? live : all.slice(0, 1)).map((job) => job.id)
  }
  const taken = new Set(rows.flatMap(({ volume }) => (volume.isHere ? [volume.rootPath] : [])))
  const isAllThere = rows.every(({ volume, goneFiles }) => volume.isHere && goneFiles === 0)
  const moved = isAllThere ? null : await movedOfVolumes.given(database, productionId)
  return Promise.all(
    rows.map(async ({ volume, bytes, ...counts }) => ({
      id: volume.id,
      label: volume.label,
      kind: volume.kind,
      rootPath: volume.rootPath,
      notes: volume.notes,
      box: volume.box,
      isRemovable: removableKinds.has(volume.kind),
      hasMarker: volume.markerId !== null,
      isWatched: volume.isWatched,
      isHere: volume.isHere,
      isAllowed: volume.isAllowed,
      isAnswering: volume.isAnswering,
      isTaken: !taken.has(volume.rootPath) && (await isTaken(database, volume)),
      lastSeenAt: volume.lastSeenAt?.toISOString() ?? null,
      lastScanAt: volume.lastScanAt?.toISOString() ?? null,
      ...counts,
      moved: moved?.get(volume.id) ?? 0,
      growingFiles: volume.growingFiles,
      otherFiles: volume.otherFiles,
      unreadKinds: volume.unreadKinds,
      bytes: Number(bytes),
      onlyHere: found.index.get(volume.id)?.onlyHere ?? 0,
      usedClips: found.index.get(volume.id)?.used ?? 0,
      roles: (found.roles.get(volume.id) ?? []).map(({ path, role }) => ({ path, role })),
      notCompared: found.notCompared.get(volume.id) ?? { clips: 0, bytes: 0 },
      compareJobId:
        found.jobs.find((job) => job.input.kind === 'compare' && job.input.volumeId === volume.id)?.id ?? null,
      waitingProxies: found.waiting.get(volume.id) ?? 0,
      freeBytes: volume.isHere ? await ifSoon(freeBytes(volume.rootPath)) : null,
      manifests: (found.manifests.get(volume.id) ?? []).map(({ manifest }) => ({
        id: manifest.id,
        path: manifest.path,
        files: manifest.files,
        createdAt: manifest.createdAt.toISOString(),
        verifyJobId:
          found.jobs.find((job) => job.input.kind === 'verify' && job.input.manifestId === manifest.id)?.id ?? null,
      })),
      scanJobId:
        found.jobs.find(
          (job) =>
            job.input.kind === 'scan' && job.input.volumeId === volume.id && ['waiting', 'running'].includes(job.state),
        )?.id ?? null,
      offloadJobId:
        found.jobs.find((job) => job.input.kind === 'offload' && job.input.volumeId === volume.id)?.id ?? null,
      fetchJobIds: fetchesOf(volume.id),
    })),
  )
}

/** Whether a box is away as another is in its place, or as it was formatted. */
const isTaken = async (database: Queryable, volume: typeof volumes.$inferSelect): Promise<boolean> => {
  const { isHere, isAllowed, isAnswering, kind, rootPath } = volume
  if (isHere || !isAllowed || !isAnswering || !removableKinds.has(kind)) return false
  const names = await ifSoon(ask(rootPath, () => readdir(rootPath)))
  return names !== null && names.length > 0 && isAnother(database, volume)
}

async function readAround(database: Database, productionId: string) {
  const waiting = await database
    .select({ volumeId: files.volumeId, count: sql<number>`count(*)::int` })
    .from(cameraProxies)
    .innerJoin(files, eq(files.id, cameraProxies.fileId))
    .where(and(eq(cameraProxies.productionId, productionId), isNull(cameraProxies.clipId), eq(files.isGone, false)))
    .groupBy(files.volumeId)
  const listed = await database
    .select({ manifest: manifests })
    .from(manifests)
    .innerJoin(volumes, eq(volumes.id, manifests.volumeId))
    .where(eq(volumes.productionId, productionId))
    .orderBy(desc(manifests.createdAt))
  const newest = await database
    .select({ id: jobs.id, input: jobs.input, state: jobs.state })
    .from(jobs)
    .where(
      and(
        eq(jobs.productionId, productionId),
        inArray(sql`${jobs.input}->>'kind'`, ['scan', 'offload', 'fetch', 'verify', 'compare']),
      ),
    )
    .orderBy(desc(jobs.createdAt))
    .limit(1000)
  return {
    notCompared: await countNotCompared(database, productionId),
    index: await clipsOfVolumes.given(database, productionId),
    waiting: new Map(waiting.map((row) => [row.volumeId, row.count])),
    manifests: groupBy(listed, ({ manifest }) => manifest.volumeId),
    jobs: newest,
    roles: groupBy(await database.select().from(declaredRoles).orderBy(asc(declaredRoles.path)), (row) => row.volumeId),
  }
}
