import { stat } from 'node:fs/promises'
import { join } from 'node:path'
import { removableKinds } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { freeBytes } from '../disk/free-space.ts'
import { whyNoRoom } from '../disk/room.ts'
import { explainFileError, notFound, PlainError } from '../errors.ts'
import { implement } from '../http/implement.ts'
import type { Services } from '../http/services.ts'
import { addJob, presentJob } from '../queue/jobs.ts'
import { manifests } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { readHeldElsewhere } from './held-elsewhere.ts'
import { readJobDetails } from './job-details.ts'
import { findManifests, isManifest, kindsOfManifests } from './manifest.ts'
import { PassedOverKinds } from './passed-over.ts'
import { pathsOfClips, readVolumeClips } from './volume-clips.ts'
import { presentVolume, readVolume } from './volume-routes.ts'
import { walk } from './walk.ts'

/** Offloading, and verifying what was offloaded. */
export function offloadRoutes({ app, database }: Services): void {
  implement(app, 'planOffload', async ({ params, body }) => {
    const source = await readVolume(database, params.volumeId)
    const destination = await readDestination(database, source, body.destinationId)
    return planOffload(source, destination, body.folder, await pathsOfClips(database, source.id, body.leave))
  })
  implement(app, 'listVolumeClips', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    return readVolumeClips(database, volume.id)
  })
  implement(app, 'offloadVolume', async ({ params, body }) => {
    const source = await readVolume(database, params.volumeId)
    const destination = await readDestination(database, source, body.destinationId)
    const left = await pathsOfClips(database, source.id, body.leave)
    const plan = await planOffload(source, destination, body.folder, left)
    if (plan.blocked) throw new PlainError('offload-blocked', plan.blocked, { status: 409 })
    return presentJob(
      await addJob(database, source.productionId, `Offload ${source.label} to ${destination.label}`, {
        kind: 'offload',
        volumeId: source.id,
        destinationId: destination.id,
        folder: body.folder,
        hash: body.hash,
        leave: body.leave,
        mendsLost: body.mendsLost,
      }),
    )
  })

  implement(app, 'readHeldElsewhere', async ({ params }) =>
    readHeldElsewhere(database, await readVolume(database, params.volumeId)),
  )
  implement(app, 'compareCopies', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    return presentJob(
      await addJob(database, volume.productionId, `Compare copies of ${volume.label}`, {
        ...{ kind: 'compare', volumeId: volume.id },
      }),
    )
  })
  implement(app, 'findManifests', async ({ params }) => {
    const volume = await readVolume(database, params.volumeId)
    try {
      await findManifests({ database }, volume)
    } catch (error) {
      throw new PlainError('volume-away', explainFileError(error, volume.rootPath), { status: 409 })
    }
    return presentVolume(database, volume)
  })
  implement(app, 'verifyManifest', async ({ params }) => {
    const [manifest] = await database.select().from(manifests).where(eq(manifests.id, params.manifestId))
    if (!manifest) throw notFound('This manifest')
    const volume = await readVolume(database, manifest.volumeId)
    return presentJob(
      await addJob(
        database,
        volume.productionId,
        `Verify ${volume.label} against ${manifest.path.slice(manifest.path.lastIndexOf('/') + 1)}`,
        {
          kind: 'verify',
          manifestId: manifest.id,
        },
      ),
    )
  })
  implement(app, 'readJobDetails', ({ params }) => readJobDetails(database, params.jobId))
}

async function readDestination(database: Database, source: VolumeRow, destinationId: string): Promise<VolumeRow> {
  const destination = await readVolume(database, destinationId)
  if (destination.productionId !== source.productionId) throw notFound('This destination')
  if (destination.id === source.id)
    throw new PlainError('same-volume', `“${source.label}” cannot be offloaded onto itself.`, { status: 409 })
  assertTakesCopies(destination)
  return destination
}

/** @throws PlainError for a volume that leaves again, or that is for what Ennick makes */
export function assertTakesCopies(destination: VolumeRow): void {
  if (removableKinds.has(destination.kind))
    throw new PlainError(
      'removable-destination',
      `“${destination.label}” is a ${destination.kind}, which leaves again: choose a volume that stays.`,
      {
        status: 409,
      },
    )
  if (destination.kind === 'made')
    throw new PlainError(
      'made-destination',
      'The place of what Ennick makes holds no originals: choose another volume.',
      { status: 409 },
    )
}

async function planOffload(source: VolumeRow, destination: VolumeRow, folder: string, left: ReadonlySet<string>) {
  const target = join(destination.rootPath, folder)
  let files = 0
  let bytes = 0
  let already = 0
  let leftFiles = 0
  let blocked: string | null = null
  const unreadable: { path: string; reason: string }[] = []
  const passedOver = new PassedOverKinds()
  const lists: string[] = []
  try {
    for await (const { path } of walk(source.rootPath, {
      onUnreadable: ({ path, reason }) => unreadable.push({ path, reason }),
      onPassedOver: passedOver.add,
    })) {
      if (left.has(path)) {
        leftFiles++
        continue
      }
      const info = await stat(join(source.rootPath, path)).catch((error) => {
        unreadable.push({ path, reason: explainFileError(error, path) })
        return null
      })
      if (!info) continue
      const { size } = info
      files++
      if (isManifest(path)) lists.push(path)
      if (destination.isHere && (await stat(join(target, path)).catch(() => null))) already++
      else bytes += size
    }
  } catch (error) {
    blocked = `“${source.label}” cannot be read: ${explainFileError(error, source.rootPath)}`
  }
  const free = await freeBytes(destination.rootPath).catch(() => 0)
  if (!destination.isHere) blocked ??= `“${destination.label}” is away.`
  else if (bytes > free) blocked ??= whyNoRoom('It', bytes, free, `on “${destination.label}”`)
  else if (files === 0)
    blocked ??= leftFiles ? 'Choose at least one clip.' : `There is nothing on “${source.label}” to copy.`
  return {
    files,
    bytes,
    already,
    left: leftFiles,
    freeBytes: free,
    leftBytes: free - bytes,
    target,
    unreadable,
    passedOver: passedOver.list(),
    listedBy: await kindsOfManifests(source.rootPath, lists),
    blocked,
  }
}
