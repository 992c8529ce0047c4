import type { Volume } from '@ennick/contract'
import { and, asc, eq, inArray, isNotNull, ne, sql } from 'drizzle-orm'
import { notFound, PlainError } from '../../errors.ts'
import { addJob, presentJob } from '../../queue/jobs.ts'
import { announce } from '../../store/announce.ts'
import type { Database } from '../../store/database.ts'
import { record } from '../../store/history.ts'
import { clipFiles, files, jobs, volumes } from '../../store/schema.ts'
import { readProduction, type VolumeRow } from '../../store/world.ts'
import { implement } from '../implement.ts'
import type { Services } from '../services.ts'

export function volumeRoutes({ app, database, folders }: Services): void {
  implement(app, 'browseFolder', ({ query }) => folders.list(query.path))
  implement(app, 'listVolumes', ({ params }) => presentVolumes(database, params.productionId))

  implement(app, 'addVolume', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    const rootPath = await folders.resolve(body.rootPath)
    const own = await database.select().from(volumes).where(eq(volumes.productionId, params.productionId))
    const sameLabel = own.find((volume) => volume.label === body.label)
    if (sameLabel)
      throw new PlainError(
        'label-taken',
        `There is a volume labelled “${body.label}” already, at ${sameLabel.rootPath}. Two boxes of one label cannot be told apart: write another on this one.`,
        { status: 409 },
      )
    const sameRoot = own.find((volume) => volume.rootPath === rootPath)
    if (sameRoot) throw new PlainError('folder-taken', `${rootPath} is volume “${sameRoot.label}” already.`, { status: 409 })
    const overlapping = own.find((volume) => rootPath.startsWith(`${volume.rootPath}/`) || volume.rootPath.startsWith(`${rootPath}/`))
    if (overlapping)
      throw new PlainError(
        'folder-overlaps',
        `${rootPath} and volume “${overlapping.label}” (${overlapping.rootPath}) lie inside each other: their files would count twice.`,
        { status: 409 },
      )
    const [row] = await database
      .insert(volumes)
      .values({ ...body, rootPath, productionId: params.productionId, lastSeenAt: new Date() })
      .returning()
    await record(database, params.productionId, 'volume', (row as VolumeRow).id, `Volume “${body.label}” added at ${rootPath}.`)
    await announce(database, params.productionId, 'volumes')
    return (await presentVolumes(database, params.productionId)).find((volume) => volume.id === row?.id) as Volume
  })

  implement(app, 'scanVolume', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    const running = await scanOf(database, volume)
    if (running) return presentJob(running)
    if (volume.kind === 'made') throw new PlainError('made-volume', 'What Ennick made is checked, not scanned: use “Check again”.')
    return presentJob(await addJob(database, volume.productionId, `Scan ${volume.label}`, { kind: 'scan', volumeId: volume.id }))
  })

  implement(app, 'listProblems', async ({ params }) => {
    const rows = await database
      .select()
      .from(files)
      .where(and(eq(files.volumeId, params.volumeId), isNotNull(files.problem), eq(files.isGone, false)))
      .orderBy(asc(files.path))
      .limit(5000)
    return rows.map((row) => ({ id: row.id, path: row.path, sizeBytes: row.sizeBytes, problem: row.problem as string }))
  })
}

async function readVolume(database: Database, volumeId: string): Promise<VolumeRow> {
  const [row] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!row) throw notFound('This volume')
  return row
}

async function scanOf(database: Database, volume: VolumeRow) {
  const live = await database
    .select()
    .from(jobs)
    .where(and(eq(jobs.productionId, volume.productionId), inArray(jobs.state, ['waiting', 'running'])))
  return live.find((job) => job.input.kind === 'scan' && job.input.volumeId === volume.id)
}

async function presentVolumes(database: Database, productionId: string): Promise<Volume[]> {
  await readProduction(database, productionId)
  const rows = await database
    .select({
      volume: volumes,
      files: sql<number>`count(${files.id}) filter (where not ${files.isGone})::int`,
      clips: sql<number>`count(distinct ${clipFiles.clipId})::int`,
      problems: sql<number>`count(${files.id}) filter (where ${files.problem} is not null and not ${files.isGone})::int`,
      goneFiles: sql<number>`count(${files.id}) filter (where ${files.isGone})::int`,
      bytes: sql<string>`coalesce(sum(${files.sizeBytes}) filter (where not ${files.isGone}), 0)`,
    })
    .from(volumes)
    .leftJoin(files, eq(files.volumeId, volumes.id))
    .leftJoin(clipFiles, eq(clipFiles.fileId, files.id))
    .where(and(eq(volumes.productionId, productionId), ne(volumes.kind, 'made')))
    .groupBy(volumes.id)
    .orderBy(asc(volumes.createdAt), asc(volumes.label))
  const scans = await Promise.all(rows.map(({ volume }) => scanOf(database, volume)))
  return rows.map(({ volume, bytes, ...counts }, index) => ({
    id: volume.id,
    label: volume.label,
    kind: volume.kind,
    rootPath: volume.rootPath,
    isHere: volume.isHere,
    lastSeenAt: volume.lastSeenAt?.toISOString() ?? null,
    lastScanAt: volume.lastScanAt?.toISOString() ?? null,
    ...counts,
    otherFiles: volume.otherFiles,
    bytes: Number(bytes),
    scanJobId: scans[index]?.id ?? null,
  }))
}
