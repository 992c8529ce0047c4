import { mkdir, statfs } from 'node:fs/promises'
import { join } from 'node:path'
import type { HashKind } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { explainFileError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { record } from '../store/history.ts'
import type { JobResult } from '../store/job-schema.ts'
import { volumes } from '../store/schema.ts'
import type { VolumeRow } from '../store/world.ts'
import type { WorkContext } from './context.ts'
import { Copier, dropJournal, type Journal, Refused, readJournal, type SourceFile, type VerifiedCopy } from './copier.ts'
import { stampOf } from './describe-file.ts'
import { JobFailure, waitsIfGone } from './failure.ts'
import { writeManifest } from './manifest.ts'
import { exists } from './place.ts'
import type { ProgressMeter } from './progress.ts'
import { registerCopies } from './register-copies.ts'
import { walk } from './walk.ts'

export interface OffloadInput {
  readonly volumeId: string
  readonly destinationId: string
  readonly folder: string
  readonly hash: HashKind
}

/**
 * Copies everything on a volume to storage. Each file is hashed while it is read, written under a hidden name, read back
 * and compared, and only then given its name. What is there already is compared and never overwritten. A run that was
 * stopped goes on where it was. At the end a manifest is written beside the copies, and clips know their new home.
 */
export async function offload(context: WorkContext, meter: ProgressMeter, input: OffloadInput): Promise<JobResult> {
  const { database, job, signal } = context
  const source = await readVolume(context, input.volumeId)
  const destination = await readVolume(context, input.destinationId)
  const target = join(destination.rootPath, input.folder)
  const files = await listFiles(source)
  const totalBytes = files.reduce((sum, file) => sum + file.sizeBytes, 0)
  await prepare(source, destination, target)
  const journal = await readJournal(target, input.hash)
  await assertRoom(target, source, files, journal)

  const verified: VerifiedCopy[] = []
  const refused: { path: string; reason: string }[] = []
  let already = 0
  let doneBytes = 0
  meter.restart()
  const report = (): void => meter.report(doneBytes, totalBytes, 'bytes')
  /** One step of one file: what fails is written down and the rest goes on, unless a volume left or is full. */
  const attempt = async <T>(file: SourceFile, step: () => Promise<T>): Promise<T | null> => {
    try {
      return await step()
    } catch (error) {
      signal.throwIfAborted()
      await assertVolumesHere(source, destination, verified.length, files.length)
      refused.push({ path: file.path, reason: error instanceof Refused ? error.message : explainFileError(error, file.path) })
      if ((error as NodeJS.ErrnoException).code === 'ENOSPC')
        throw new JobFailure(
          `${destination.rootPath} is full after ${verified.length} of ${files.length} files. Those are verified; free some space and retry, and it goes on from there.`,
        )
      return null
    }
  }
  const copier = new Copier({ from: source.rootPath, to: target, kind: input.hash, journal, job, signal })
  // One file is read back while the next is copied.
  let finishing: Promise<unknown> = Promise.resolve()
  try {
    for (const file of files) {
      signal.throwIfAborted()
      let fileBytes = 0
      const count = (bytes: number): void => {
        fileBytes += bytes
        doneBytes += bytes
        report()
      }
      // Half of a file's work is reading the copy back.
      const finish = await attempt(file, () => copier.begin(file, (bytes) => count(bytes / 2)))
      await finishing
      finishing = attempt(file, async () => {
        if (finish) {
          const { copy, wasThere } = await finish()
          verified.push(copy)
          if (wasThere) already++
        }
        count(file.sizeBytes - fileBytes)
      })
      // A failure is met at the next await; until then it must not count as unhandled.
      finishing.catch(() => undefined)
    }
    await finishing
  } finally {
    await finishing.catch(() => undefined)
  }
  const manifest = await writeManifest(context, destination, input.folder, source.label, input.hash, verified)
  await registerCopies(context, source, destination, input.folder, verified)
  // The journal is Ennick's own; the manifest says from now on what it said.
  await dropJournal(target)
  const bytes = verified.reduce((sum, copy) => sum + copy.sizeBytes, 0)
  await record(
    database,
    job.productionId,
    'volume',
    source.id,
    `Offloaded “${source.label}” to ${target}: ${verified.length} of ${files.length} files verified by ${input.hash}${refused.length ? `, ${refused.length} refused` : ''}.`,
  )
  await announce(database, job.productionId, 'volumes', 'clips', 'pairs', 'cuts')
  return { kind: 'offload', copied: verified.length - already, already, bytes, manifest, refused }
}

async function readVolume({ database }: WorkContext, volumeId: string): Promise<VolumeRow> {
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!volume) throw new JobFailure('One of the two volumes was removed.')
  return volume
}

async function listFiles(source: VolumeRow): Promise<SourceFile[]> {
  const found: SourceFile[] = []
  try {
    for await (const { path } of walk(source.rootPath)) found.push({ path, ...(await stampOf(join(source.rootPath, path))) })
  } catch (error) {
    throw new JobFailure(
      `Volume “${source.label}” cannot be read: ${explainFileError(error, source.rootPath)} The offload goes on when it is back.`,
      waitsIfGone(error, source.id),
    )
  }
  if (found.length === 0) throw new JobFailure(`There is nothing on volume “${source.label}” to copy.`)
  return found
}

async function prepare(source: VolumeRow, destination: VolumeRow, target: string): Promise<void> {
  if (!(await exists(destination.rootPath)))
    throw new JobFailure(`Volume “${destination.label}” is away. The offload goes on when it is back.`, { waitsForVolume: destination.id })
  if (target === source.rootPath || target.startsWith(`${source.rootPath}/`))
    throw new JobFailure(`${target} lies inside of what is to be copied: choose a destination on another volume.`)
  try {
    await mkdir(target, { recursive: true })
  } catch (error) {
    throw new JobFailure(explainFileError(error, target))
  }
}

async function assertRoom(target: string, source: VolumeRow, files: readonly SourceFile[], journal: Journal): Promise<void> {
  let needed = 0
  for (const file of files) if (!journal.has(file.path) && !(await exists(join(target, file.path)))) needed += file.sizeBytes
  const { bavail, bsize } = await statfs(target)
  const free = Number(bavail) * Number(bsize)
  const inGigabytes = (bytes: number): string => `${(bytes / 1e9).toFixed(2)} GB`
  if (needed > free)
    throw new JobFailure(
      `“${source.label}” does not fit: ${inGigabytes(needed)} are to be copied and ${inGigabytes(free)} are free at ${target}. Nothing was copied.`,
    )
}

/** A file that cannot be read is one file; a volume that left ends the run until it is back. */
async function assertVolumesHere(source: VolumeRow, destination: VolumeRow, done: number, total: number): Promise<void> {
  for (const volume of [source, destination]) {
    if (await exists(volume.rootPath)) continue
    throw new JobFailure(
      `Volume “${volume.label}” left after ${done} of ${total} files were copied and read back. Those are safe; put it in again and the offload goes on.`,
      { waitsForVolume: volume.id },
    )
  }
}
