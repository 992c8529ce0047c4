import { join } from 'node:path'
import { claimsToBeMedia, findSequences, type StillSequence, sameSequence, sequencePath } from '@ennick/core'
import { eq, inArray, sql } from 'drizzle-orm'
import { explainFileError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { record } from '../store/history.ts'
import type { JobResult } from '../store/job-schema.ts'
import { files, volumes } from '../store/schema.ts'
import { productionRate, readProduction, type VolumeRow } from '../store/world.ts'
import { settleArrivals } from './arrivals.ts'
import type { WorkContext } from './context.ts'
import { type DescribedFile, describePlaced, forEachAtOnce, type PlacedFile, sameStamp, stampOfPlaced } from './describe-file.ts'
import { JobFailure, waitsIfGone } from './failure.ts'
import type { ProgressMeter } from './progress.ts'
import { pathIn, walkFolders } from './walk.ts'

/** Probing is mostly waiting for a process to start: two at a time use two cores and leave the machine usable. */
const probesAtOnce = 2
const rowsAtOnce = 50

/** In a watched folder, a file that changed this short a time ago may still be growing: it waits for the next look. */
export const restMilliseconds = 3000

interface FoundFile {
  readonly path: string
  readonly sequence: StillSequence | null
}

interface Described extends DescribedFile, FoundFile {}

type KnownFile = Pick<typeof files.$inferSelect, 'id' | 'path' | 'sizeBytes' | 'mtimeMicros' | 'problem' | 'isGone' | 'sequence'>

/** Scans a volume: new and changed files are read, unchanged ones only looked at, and those that left are marked gone. */
export async function scanVolume(context: WorkContext, meter: ProgressMeter, volumeId: string): Promise<JobResult> {
  const { database, signal } = context
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!volume) throw new JobFailure('The volume was removed before it was scanned.')
  const production = await readProduction(database, volume.productionId)
  const { id, path, sizeBytes, mtimeMicros, problem, isGone, sequence } = files
  const known: Map<string, KnownFile> = new Map(
    (
      await database.select({ id, path, sizeBytes, mtimeMicros, problem, isGone, sequence }).from(files).where(eq(files.volumeId, volumeId))
    ).map((row) => [row.path, row]),
  )
  const { found, other, unreadable } = await findFiles(context, volume)
  const looked = await lookAtFiles(context, volume, found, known)
  if (looked.back.length) await database.update(files).set({ isGone: false }).where(inArray(files.id, looked.back))

  meter.restart()
  let problems = looked.problems
  let read = 0
  let batch: Described[] = []
  const flush = async (): Promise<void> => {
    const rows = batch
    batch = []
    if (rows.length) await storeFiles(context, volumeId, rows)
  }
  const settle = async (): Promise<void> => {
    await flush()
    await database.transaction((transaction) => settleArrivals(transaction, production, volume))
  }
  try {
    await forEachAtOnce(looked.changed, probesAtOnce, async (file) => {
      signal.throwIfAborted()
      const described = await describe(volume, file, productionRate(production), signal)
      if (described === null) {
        await assertStillHere(volume, read, looked.changed.length)
        return
      }
      if (described.problem) problems++
      batch.push({ ...described, ...file })
      meter.report(++read, looked.changed.length, 'files')
      if (batch.length >= rowsAtOnce) await flush()
    })
  } catch (error) {
    // What was read is kept, whether a person stopped the scan or the volume left.
    await settle()
    await announce(database, volume.productionId, 'volumes', 'clips', 'pairs', 'cuts')
    throw error
  }
  // Also when nothing changed: an earlier scan may have been cut off between reading and settling.
  await settle()
  if (unreadable.length) await storeFiles(context, volumeId, unreadable.map(unreadableFolder))
  problems += unreadable.length
  const gone = await markGone(context, [...known.values()], new Set([...found.map((file) => file.path), ...unreadable]))
  await database
    .update(volumes)
    .set({ lastScanAt: new Date(), lastSeenAt: new Date(), isHere: true, otherFiles: other })
    .where(eq(volumes.id, volumeId))
  if (looked.changed.length || gone)
    await record(
      database,
      volume.productionId,
      'volume',
      volumeId,
      `Scanned “${volume.label}”: ${looked.changed.length} read, ${looked.unchanged} unchanged, ${gone} gone.`,
    )
  await announce(database, volume.productionId, 'volumes')
  if (looked.changed.length || gone || looked.back.length) await announce(database, volume.productionId, 'clips', 'pairs', 'cuts')
  return { kind: 'scan', found: found.length, probed: looked.changed.length, unchanged: looked.unchanged, problems, other, gone }
}

/** Every media file of a volume, numbered stills as one; what is no media is counted. */
async function findFiles({ signal }: WorkContext, volume: VolumeRow): Promise<{ found: FoundFile[]; other: number; unreadable: string[] }> {
  const found: FoundFile[] = []
  const unreadable: string[] = []
  let other = 0
  try {
    for await (const { folder, names } of walkFolders(volume.rootPath, (folder) => unreadable.push(folder))) {
      signal.throwIfAborted()
      const media = names.filter(claimsToBeMedia)
      other += names.length - media.length
      const { sequences, rest } = findSequences(folder, media)
      for (const sequence of sequences) found.push({ path: sequencePath(sequence), sequence })
      for (const name of rest) found.push({ path: pathIn(folder, name), sequence: null })
    }
  } catch (error) {
    signal.throwIfAborted()
    throw new JobFailure(
      `Volume “${volume.label}” cannot be scanned: ${explainFileError(error, volume.rootPath)}`,
      waitsIfGone(error, volume.id),
    )
  }
  return { found, other, unreadable }
}

/** A folder that may not be read stands among the files that cannot be read: what is in it is not known. */
const unreadableFolder = (path: string): Described => ({
  path,
  sequence: null,
  sizeBytes: 0,
  mtimeMicros: 0,
  fingerprint: '',
  facts: null,
  problem: 'This folder may not be read: nothing in it was seen.',
})

async function lookAtFiles({ signal }: WorkContext, volume: VolumeRow, found: readonly FoundFile[], known: ReadonlyMap<string, KnownFile>) {
  const looked = { unchanged: 0, problems: 0, changed: [] as FoundFile[], back: [] as string[] }
  const newest = volume.isWatched ? (Date.now() - restMilliseconds) * 1000 : Number.POSITIVE_INFINITY
  for (const file of found) {
    const row = known.get(file.path)
    const stamp = row || volume.isWatched ? await stampOfPlaced(placed(volume, file)).catch(() => null) : null
    if (stamp && stamp.mtimeMicros > newest) continue
    if (row && stamp && sameStamp(row, stamp) && sameSequence(row.sequence, file.sequence)) {
      looked.unchanged++
      if (row.problem) looked.problems++
      if (row.isGone) looked.back.push(row.id)
    } else looked.changed.push(file)
    if ((looked.unchanged & 255) === 0) signal.throwIfAborted()
  }
  return looked
}

const placed = (volume: VolumeRow, file: FoundFile): PlacedFile => ({
  fullPath: join(volume.rootPath, file.path),
  root: volume.rootPath,
  sequence: file.sequence,
})

/** What stands in a name for bytes that could not be read as text: such a file cannot be opened by its name. */
const undecodable = '\uFFFD'

/** A file that leaves while it is read is simply not there any more. */
async function describe(
  volume: VolumeRow,
  file: FoundFile,
  rate: { numerator: number; denominator: number },
  signal: AbortSignal,
): Promise<DescribedFile | null> {
  const place = placed(volume, file)
  try {
    return await describePlaced(place, await stampOfPlaced(place), rate, signal)
  } catch (error) {
    signal.throwIfAborted()
    const code = (error as NodeJS.ErrnoException).code
    if (code === 'ENOENT' && place.fullPath.includes(undecodable))
      return {
        sizeBytes: 0,
        mtimeMicros: 0,
        fingerprint: '',
        facts: null,
        problem: 'Its name holds bytes that are no Unicode text: rename it.',
      }
    if (code === 'ENOENT') return null
    if (code === 'EACCES' || code === 'EPERM' || code === 'EIO') {
      const stamp = await stampOfPlaced(place).catch(() => ({ sizeBytes: 0, mtimeMicros: 0 }))
      return { ...stamp, fingerprint: '', facts: null, problem: explainFileError(error, place.fullPath) }
    }
    throw error
  }
}

/** A file that is not there any more is no trouble; a volume that is not there any more ends the scan. */
async function assertStillHere(volume: VolumeRow, read: number, total: number): Promise<void> {
  try {
    await walkFolders(volume.rootPath).next()
  } catch {
    throw new JobFailure(
      `Volume “${volume.label}” left after ${read} of ${total} files were read. What was read is kept; the scan goes on when it is back.`,
      { waitsForVolume: volume.id },
    )
  }
}

async function storeFiles({ database }: WorkContext, volumeId: string, rows: readonly Described[]): Promise<void> {
  await database
    .insert(files)
    .values(rows.map((row) => ({ ...row, volumeId, isGone: false })))
    .onConflictDoUpdate({
      target: [files.volumeId, files.path],
      set: {
        sizeBytes: sql`excluded.size_bytes`,
        mtimeMicros: sql`excluded.mtime_micros`,
        fingerprint: sql`excluded.fingerprint`,
        facts: sql`excluded.facts`,
        problem: sql`excluded.problem`,
        sequence: sql`excluded.sequence`,
        isGone: false,
        seenAt: new Date(),
      },
    })
}

async function markGone({ database }: WorkContext, known: readonly KnownFile[], foundNow: ReadonlySet<string>): Promise<number> {
  const gone = known.filter((row) => !row.isGone && !foundNow.has(row.path))
  for (let index = 0; index < gone.length; index += 1000) {
    await database
      .update(files)
      .set({ isGone: true })
      .where(
        inArray(
          files.id,
          gone.slice(index, index + 1000).map((row) => row.id),
        ),
      )
  }
  return gone.length
}
