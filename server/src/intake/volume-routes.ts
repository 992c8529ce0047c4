import { realpath } from 'node:fs/promises'
import { join } from 'node:path'
import type { Volume } from '@ennick/contract'
import { formatNumber, removableKinds } from '@ennick/core'
import { and, asc, eq, inArray, isNotNull } from 'drizzle-orm'
import { ask } from '../disk/answering.ts'
import { markerName, readMarker, writeMarker } from '../disk/marker.ts'
import { rootIdentity } from '../disk/volume-presence.ts'
import { signatureOf } from '../engine/file-system.ts'
import { explainFileError, notFound, PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob, retryWaiting } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { jobs } from '../store/job-schema.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { readProduction } from '../store/production-row.ts'
import { files, volumes } from '../store/schema.ts'
import { addVolume, assertNew } from './add-volume.ts'
import { holdsNothingKnown, noteFormatted } from './another-box.ts'
import { keptLabel, relabelClips } from './box-label.ts'
import { declareRole } from './declare-role.ts'
import { PassedOverKinds } from './passed-over.ts'
import { presentVolumes } from './present.ts'
import { removeVolume } from './remove-volume.ts'
import { surveyFolder } from './survey-folder.ts'
import { walk } from './walk.ts'

export function volumeRoutes(services: Services): void {
  const { app, database, folders } = services
  implement(app, 'browseFolder', ({ query }) => folders.list(query.path))
  implement(app, 'listAllowedFolders', async () => {
    const here = await Promise.all(folders.named.map((path) => ask(path, () => realpath(path)).catch(() => null)))
    return folders.named.map((path, index) => ({ path, isHere: here[index] !== null }))
  })
  implement(app, 'surveyFolder', async ({ query }) => surveyFolder(await folders.resolve(query.path)))
  implement(app, 'listVolumes', ({ params }) => presentVolumes(database, params.productionId))

  implement(app, 'addVolume', async ({ params, body }) => {
    await readProduction(database, params.productionId)
    const rootPath = await folders.resolve(body.rootPath)
    const row = await addVolume(database, params.productionId, { ...body, rootPath })
    return presentVolume(database, row)
  })

  implement(app, 'changeVolume', async ({ params, body }) => {
    const volume = await readVolume(database, params.volumeId)
    if (body.label !== volume.label)
      await assertNew(database, volume.productionId, { label: body.label, rootPath: null })
    const box = body.box === undefined ? volume.box : keptLabel(body.box)
    const relabelled = await database.transaction(async (transaction) => {
      await transaction
        .update(volumes)
        .set({ ...body, box })
        .where(eq(volumes.id, volume.id))
      return relabelClips(transaction, volume, { label: body.label, box })
    })
    if (relabelled.length)
      await writeHistory(
        database,
        volume.productionId,
        'volume',
        volume.id,
        `The label of “${body.label}” was changed, and with it ${formatNumber(relabelled.length)} of its clips.`,
      )
    if (body.label !== volume.label || body.kind !== volume.kind)
      await writeHistory(
        database,
        volume.productionId,
        'volume',
        volume.id,
        `Volume “${volume.label}”, ${volume.kind}, is now “${body.label}”, ${body.kind}.`,
      )
    await announce(database, volume.productionId, 'volumes', 'clips', 'pairs', 'cuts')
    return presentVolume(database, volume)
  })
  implement(app, 'removeVolume', async ({ params, body }) =>
    removeVolume(database, await readVolume(database, params.volumeId), body.apply),
  )
  implement(app, 'declareRole', async ({ params, body }) => {
    const volume = await readVolume(database, params.volumeId)
    await declareRole(database, volume, body.path, body.role)
    return presentVolume(database, volume)
  })
  placeRoutes(services)

  implement(app, 'scanVolume', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    const running = await liveScan(database, volume)
    if (running) return presentJob(running)
    if (await isPlaceOfMade(database, volume))
      throw new PlainError('made-volume', 'What Ennick made is checked, not scanned: use “Check again”.')
    return presentJob(
      await addJob(database, volume.productionId, `Scan ${volume.label}`, { kind: 'scan', volumeId: volume.id }),
    )
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

  implement(app, 'listOtherFiles', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    const paths: string[] = []
    const passedOver = new PassedOverKinds()
    let total = 0
    try {
      for await (const { path, isMedia } of walk(volume.rootPath, {
        isForMedia: true,
        onUnreadable: () => undefined,
        onPassedOver: passedOver.add,
      })) {
        if (isMedia) continue
        if (++total <= 5000) paths.push(path)
      }
    } catch (error) {
      throw new PlainError(
        'volume-away',
        `The files are listed from the volume itself: ${explainFileError(error, volume.rootPath)}`,
        {
          status: 409,
        },
      )
    }
    const rule =
      'Passed over and not counted: names that begin with a dot, the folders that systems keep for themselves ' +
      '(System Volume Information, $RECYCLE.BIN, lost+found), Thumbs.db, desktop.ini, links, ' +
      'and the data folder of Ennick.'
    return { paths, total, passedOver: passedOver.list(), rule }
  })
}

/** Where a volume lies, and how it is known when it lies elsewhere. */
function placeRoutes({ app, database, folders }: Services): void {
  implement(app, 'moveVolume', async ({ params, body }) => {
    const volume = await readVolume(database, params.volumeId)
    const rootPath = await folders.resolve(body.rootPath)
    const marker = await readMarker(rootPath)
    if (marker && volume.markerId && marker.volume !== volume.markerId)
      throw new PlainError(
        'another-volume',
        `${rootPath} carries the marker of “${marker.label}”: it is not “${volume.label}”.`,
        {
          status: 409,
        },
      )
    await assertNew(database, volume.productionId, { label: null, rootPath }, volume.id)
    await database
      .update(volumes)
      .set({
        rootPath,
        ...{ isHere: true, isAllowed: true, isAnswering: true },
        lastSeenAt: new Date(),
        signature: await signatureOf(rootPath),
        ...(await rootIdentity(rootPath)),
      })
      .where(eq(volumes.id, volume.id))
    await writeHistory(
      database,
      volume.productionId,
      'volume',
      volume.id,
      `Volume “${volume.label}” is now at ${rootPath}; it was at ${volume.rootPath}.`,
    )
    await announce(database, volume.productionId, 'volumes', 'clips', 'pairs', 'cuts')
    await retryWaiting(database)
    return presentVolume(database, volume)
  })

  implement(app, 'noteFormatted', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    if (!(await holdsNothingKnown(database, volume)))
      throw new PlainError(
        'not-formatted',
        removableKinds.has(volume.kind)
          ? `Something of what is known of “${volume.label}” is there: scan it, and what is not there is told.`
          : `“${volume.label}” is no card or drive that leaves again: scan it, and what is not there is told.`,
        { status: 409 },
      )
    await noteFormatted(database, volume)
    return presentVolume(database, volume)
  })

  implement(app, 'markVolume', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    await folders.resolve(volume.rootPath)
    const markerId = volume.markerId ?? volume.id
    try {
      await writeMarker(volume.rootPath, { volume: markerId, label: volume.label })
    } catch (error) {
      throw new PlainError(
        'read-only',
        `No marker was written. ${explainFileError(error, join(volume.rootPath, markerName))}`,
        {
          status: 409,
        },
      )
    }
    await database.update(volumes).set({ markerId }).where(eq(volumes.id, volume.id))
    await writeHistory(database, volume.productionId, 'volume', volume.id, `A marker was written to “${volume.label}”.`)
    await announce(database, volume.productionId, 'volumes')
    return presentVolume(database, volume)
  })
}

export async function readVolume(database: Database, volumeId: string): Promise<VolumeRow> {
  const [row] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!row) throw notFound('This volume')
  return row
}

export async function presentVolume(
  database: Database,
  volume: Pick<VolumeRow, 'id' | 'productionId'>,
): Promise<Volume> {
  return (await presentVolumes(database, volume.productionId)).find((candidate) => candidate.id === volume.id) as Volume
}

async function liveScan(database: Database, volume: VolumeRow) {
  const live = await database
    .select()
    .from(jobs)
    .where(and(eq(jobs.productionId, volume.productionId), inArray(jobs.state, ['waiting', 'running'])))
  return live.find((job) => job.input.kind === 'scan' && job.input.volumeId === volume.id)
}

/** A production, or one that a trial is of, has what Ennick makes there. */
const isPlaceOfMade = async (database: Database, { rootPath }: VolumeRow): Promise<boolean> =>
  (await database.$count(volumes, and(eq(volumes.kind, 'made'), eq(volumes.rootPath, rootPath)))) > 0
