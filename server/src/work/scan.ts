import { basename, join } from 'node:path'
import { stem } from '@ennick/core'
import { and, eq, inArray, sql } from 'drizzle-orm'
import { explainFileError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Transaction } from '../store/database.ts'
import { record } from '../store/history.ts'
import { clipFiles, clips, files, type JobResult, volumes } from '../store/schema.ts'
import type { WorkContext } from './context.ts'
import { type DescribedFile, describeFile, forEachAtOnce, sameStamp, stampOf } from './describe-file.ts'
import { JobFailure } from './failure.ts'
import type { ProgressMeter } from './progress.ts'
import { walk } from './walk.ts'

/** Probing is mostly waiting for a process to start: two at a time use two cores and leave the machine usable. */
const probesAtOnce = 2
const rowsAtOnce = 50

interface Described extends DescribedFile {
  readonly path: string
}

/** Scans a volume: new and changed files are read, unchanged ones only looked at, and those that left are marked gone. */
export async function scanVolume(context: WorkContext, meter: ProgressMeter, volumeId: string): Promise<JobResult> {
  const { database, signal } = context
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!volume) throw new JobFailure('The volume was removed before it was scanned.')
  const known = new Map((await database.select().from(files).where(eq(files.volumeId, volumeId))).map((row) => [row.path, row]))
  const found: string[] = []
  let other = 0
  const unreadable: string[] = []
  try {
    for await (const file of walk(volume.rootPath, (path) => unreadable.push(path))) {
      signal.throwIfAborted()
      if (file.isMedia) found.push(file.path)
      else other++
    }
  } catch (error) {
    signal.throwIfAborted()
    throw new JobFailure(`Volume “${volume.label}” cannot be scanned: ${explainFileError(error, volume.rootPath)}`)
  }

  let looked = 0
  let unchanged = 0
  let problems = 0
  const changed: string[] = []
  const back: string[] = []
  for (const path of found) {
    const row = known.get(path)
    const stamp = row ? await stampOf(join(volume.rootPath, path)).catch(() => null) : null
    if (row && stamp && sameStamp(row, stamp)) {
      unchanged++
      if (row.problem) problems++
      if (row.isGone) back.push(row.id)
    } else changed.push(path)
  }
  if (back.length) await database.update(files).set({ isGone: false }).where(inArray(files.id, back))

  meter.restart()
  let batch: Described[] = []
  const flush = async (): Promise<void> => {
    const rows = batch
    batch = []
    if (rows.length) await database.transaction((transaction) => storeFiles(transaction, volume.productionId, volumeId, rows))
  }
  await forEachAtOnce(changed, probesAtOnce, async (path) => {
    signal.throwIfAborted()
    const fullPath = join(volume.rootPath, path)
    const described = await describe(fullPath, signal)
    if (described === null) return
    if (described.problem) problems++
    batch.push({ ...described, path })
    meter.report(++looked, changed.length, 'files')
    if (batch.length >= rowsAtOnce) await flush()
  })
  await flush()

  const foundNow = new Set(found)
  const gone = [...known.values()].filter((row) => !row.isGone && !foundNow.has(row.path))
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
  await database
    .update(volumes)
    .set({ lastScanAt: new Date(), lastSeenAt: new Date(), isHere: true, otherFiles: other })
    .where(eq(volumes.id, volumeId))
  const result: JobResult = { kind: 'scan', found: found.length, probed: changed.length, unchanged, problems, other, gone: gone.length }
  if (changed.length || gone.length)
    await record(
      database,
      volume.productionId,
      'volume',
      volumeId,
      `Scanned “${volume.label}”: ${changed.length} read, ${unchanged} unchanged, ${gone.length} gone.`,
    )
  await announce(database, volume.productionId, 'volumes', 'clips', 'pairs', 'cuts')
  return result
}

/** What stands in a name for bytes that could not be read as text: such a file cannot be opened by its name. */
const undecodable = '\uFFFD'

/** A file that leaves while it is read is simply not there any more. */
async function describe(fullPath: string, signal: AbortSignal): Promise<DescribedFile | null> {
  try {
    return await describeFile(fullPath, await stampOf(fullPath), { signal })
  } catch (error) {
    signal.throwIfAborted()
    const code = (error as NodeJS.ErrnoException).code
    if (code === 'ENOENT' && fullPath.includes(undecodable))
      return {
        sizeBytes: 0,
        mtimeMicros: 0,
        fingerprint: '',
        facts: null,
        problem: 'Its name holds bytes that are no Unicode text: rename it.',
      }
    if (code === 'ENOENT') return null
    if (code === 'EACCES' || code === 'EPERM' || code === 'EIO') {
      const stamp = await stampOf(fullPath).catch(() => ({ sizeBytes: 0, mtimeMicros: 0 }))
      return { ...stamp, fingerprint: '', facts: null, problem: explainFileError(error, fullPath) }
    }
    throw error
  }
}

/** Writes files and makes a clip for each new one that is media and is nobody's lost file. */
async function storeFiles(transaction: Transaction, productionId: string, volumeId: string, rows: readonly Described[]): Promise<void> {
  const stored = await transaction
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
        isGone: false,
        seenAt: new Date(),
      },
    })
    .returning()
  const ids = stored.map((row) => row.id)
  const attached = new Set(
    (await transaction.select({ id: clipFiles.fileId }).from(clipFiles).where(inArray(clipFiles.fileId, ids))).map((row) => row.id),
  )
  const fresh = stored.filter((row) => row.facts !== null && !attached.has(row.id))
  if (fresh.length === 0) return
  const lost = await lostFingerprints(
    transaction,
    productionId,
    fresh.map((row) => row.fingerprint),
  )
  for (const row of fresh) if (!lost.has(row.fingerprint)) await makeClip(transaction, productionId, row)
}

/**
 * Content of clips whose file is gone: the same content in a new place is that file, moved. It becomes no second clip,
 * but stays a file that a mend can point the clip to.
 */
async function lostFingerprints(transaction: Transaction, productionId: string, fingerprints: string[]): Promise<Set<string>> {
  const rows = await transaction
    .select({ file: files, root: volumes.rootPath })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(and(eq(volumes.productionId, productionId), eq(volumes.isHere, true), inArray(files.fingerprint, fingerprints)))
  const lost = new Set<string>()
  for (const { file, root } of rows) {
    if (file.isGone || !(await stampOf(join(root, file.path)).catch(() => null))) lost.add(file.fingerprint)
  }
  return lost
}

/** A clip of one whole file, named after it, with the reel that the file itself carries. */
export async function makeClip(transaction: Transaction, productionId: string, file: typeof files.$inferSelect): Promise<string> {
  const reel = file.facts?.reel ?? null
  const [clip] = await transaction
    .insert(clips)
    .values({ productionId, name: stem(basename(file.path)), reel, reelFrom: reel === null ? null : 'file' })
    .returning({ id: clips.id })
  const clipId = (clip as { id: string }).id
  await transaction.insert(clipFiles).values({ clipId, ordinal: 0, fileId: file.id, part: 'whole' })
  return clipId
}
