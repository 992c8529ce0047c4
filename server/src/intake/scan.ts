import { join } from 'node:path'
import { formatNumber, sameSequence } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import type { FileStamp } from '../disk/fingerprint.ts'
import { LedAway } from '../disk/held-folder.ts'
import { isVolumeHere } from '../disk/volume-presence.ts'
import { explainFileError, isFileError, isUnkeepable } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { announce } from '../store/announce.ts'
import { anyOf } from '../store/any-of.ts'
import { clipCopies } from '../store/catalogue-schema.ts'
import { writeHistory } from '../store/history.ts'
import type { JobResult } from '../store/job-types.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { productionRate, readProduction } from '../store/production-row.ts'
import { atPlace, clipFiles, files, volumes } from '../store/schema.ts'
import { assertSameBox } from './another-box.ts'
import { settleArrivals } from './arrivals.ts'
import { assertVolumeHere } from './assert-volume-here.ts'
import { isGrowing } from './at-rest.ts'
import {
  type DescribedFile,
  describePlaced,
  forEachAtOnce,
  isGrownFrom,
  lookForPlaced,
  type PlacedFile,
  sameStamp,
  stampOfPlaced,
} from './describe-file.ts'
import { type FoundFile, findFiles } from './find-files.ts'
import { followSpelling } from './follow-spelling.ts'
import { asKnownStills } from './stills-mark.ts'
import { nameUnreadable, type Unreadable } from './walk.ts'

/** Probing is mostly waiting for a process to start: two at a time use two cores and leave the machine usable. */
const probesAtOnce = 2
const rowsAtOnce = 50

type ScanResult = Extract<JobResult, { kind: 'scan' }>

interface Described extends DescribedFile, FoundFile {
  /** Numbered stills to which others were added since they were seen. */
  readonly hasGrown: boolean
}

type KnownFile = Pick<
  typeof files.$inferSelect,
  | ('id' | 'path' | 'sizeBytes' | 'mtimeMicros' | 'eachStamp')
  | ('fingerprint' | 'firstFingerprint' | 'problem' | 'isGone' | 'sequence')
> & {
  readonly hasFacts: boolean
  readonly toReadAgain: boolean
}

/**
 * Scans a volume: new and changed files are read, unchanged ones only looked at, and those that left are marked gone.
 * What something is still writing is left as it is known, and scanned once it is at rest (`watched-folders.ts`).
 */
export async function scanVolume(context: WorkContext, meter: ProgressMeter, volumeId: string): Promise<ScanResult> {
  const { database, config, signal } = context
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!volume) throw new JobFailure('The volume was removed before it was scanned.')
  await assertSameBox(database, volume)
  await assertVolumeHere(database, volume, 'It is scanned when it is back.')
  const production = await readProduction(database, volume.productionId)
  const { id, path, sizeBytes, mtimeMicros, eachStamp, fingerprint, firstFingerprint } = files
  const { problem, isGone, sequence, toReadAgain } = files
  const hasFacts = sql<boolean>`${files.facts} is not null`
  const known: Map<string, KnownFile> = new Map(
    (
      await database
        .select({
          ...{ id, path, sizeBytes, mtimeMicros, eachStamp, fingerprint, firstFingerprint },
          ...{ problem, isGone, sequence, hasFacts, toReadAgain },
        })
        .from(files)
        .where(and(eq(files.volumeId, volumeId), eq(files.isReplaced, false)))
    ).map((row) => [row.path, row]),
  )
  const { found, other, unreadKinds, unreadable } = await findFiles(context, volume)
  const isSpelledAnew = await followSpelling(context, volume, found, known)
  const looked = await lookAtFiles(context, volume, found, known)
  if (looked.back.length) await database.update(files).set({ isGone: false }).where(anyOf(files.id, looked.back))

  const there = new Set(found.map((file) => file.path))
  const knownAs = [...known.values()].flatMap(asKnownStills)

  meter.restart()
  let problems = looked.problems
  // What is there and cannot be read keeps what is known of it.
  const hidden: Unreadable[] = [...unreadable, ...looked.unreadable]
  let growing = looked.growing
  let read = 0
  let batch: Described[] = []
  const flush = async (): Promise<void> => {
    const rows = batch
    batch = []
    if (rows.length) hidden.push(...(await storeFiles(context, volumeId, rows)))
  }
  const settle = async (): Promise<boolean> => {
    await flush()
    return database.transaction((transaction) => settleArrivals(transaction, production, volume, there))
  }
  try {
    await forEachAtOnce(looked.changed, probesAtOnce, async ({ file, stamp }) => {
      signal.throwIfAborted()
      const described = await describe(volume, file, stamp, {
        ...{ rate: productionRate(production), knownAs, signal, restSeconds: config.restSeconds },
      })
      if (described === 'growing') {
        growing++
        return
      }
      if (described === null || 'reason' in described) await assertStillHere(volume, read, looked.changed.length)
      if (described === null) return
      if ('reason' in described) {
        hidden.push(described)
        return
      }
      if (described.problem) problems++
      const row = known.get(file.path)
      batch.push({ ...described, ...file, hasGrown: row !== undefined && (await hasOnlyGrown(volume, file, row)) })
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
  const hasSettled = await settle()
  await storeUnreadable(context, volumeId, hidden)
  problems += hidden.length
  await assertStillHere(volume, read, looked.changed.length)
  const isHidden = (path: string): boolean => unreadable.some((folder) => path.startsWith(`${folder.path}/`))
  const seen = new Set([...found, ...hidden].map((file) => file.path))
  const gone = await markGone(
    context,
    [...known.values()].filter((row) => !seen.has(row.path) && !isHidden(row.path)),
  )
  await database
    .update(volumes)
    .set({
      lastScanAt: new Date(),
      lastSeenAt: new Date(),
      isHere: true,
      isAnswering: true,
      growingFiles: growing,
      otherFiles: other,
      unreadKinds,
    })
    .where(eq(volumes.id, volumeId))
  if (looked.changed.length || gone)
    await writeHistory(
      database,
      volume.productionId,
      'volume',
      volumeId,
      `Scanned “${volume.label}”: ${formatNumber(looked.changed.length)} read, ` +
        `${formatNumber(looked.unchanged)} unchanged, ${formatNumber(gone)} gone.`,
    )
  await announce(database, volume.productionId, 'volumes')
  if (looked.changed.length || gone || looked.back.length || hasSettled || isSpelledAnew)
    await announce(database, volume.productionId, 'clips', 'pairs', 'cuts')
  const probed = looked.changed.length
  const result: ScanResult = {
    kind: 'scan',
    found: found.length,
    probed,
    unchanged: looked.unchanged,
    problems,
    other,
    gone,
    ...(growing && { growing }),
  }
  if (hidden.length)
    throw new JobFailure(
      `${nameUnreadable(hidden)} What is known of it stays as it was; everything else was scanned. ` +
        'Scan again when it can be read.',
      { result },
    )
  return result
}

/** What cannot be read stands among the files with problems, with all that was known of it. */
async function storeUnreadable(
  { database }: WorkContext,
  volumeId: string,
  hidden: readonly Unreadable[],
): Promise<void> {
  for (const { path, reason } of hidden) {
    const problem = `It cannot be read: ${reason}`
    await database
      .insert(files)
      .values({ volumeId, path, sizeBytes: 0, mtimeMicros: 0, fingerprint: '', problem })
      .onConflictDoUpdate({ ...atPlace, set: { problem } })
  }
}

async function lookAtFiles(
  { config, signal }: WorkContext,
  volume: VolumeRow,
  found: readonly FoundFile[],
  known: ReadonlyMap<string, KnownFile>,
) {
  const looked = {
    unchanged: 0,
    problems: 0,
    growing: 0,
    changed: [] as { file: FoundFile; stamp: FileStamp | null }[],
    back: [] as string[],
    unreadable: [] as Unreadable[],
  }
  for (const file of found) {
    const row = known.get(file.path)
    let stamp: FileStamp | null = null
    try {
      stamp = await lookForPlaced(placed(volume, file))
    } catch (error) {
      looked.unreadable.push({ path: file.path, reason: explainFileError(error, join(volume.rootPath, file.path)) })
      continue
    }
    // What could not be read the last time, and is known from before, is tried again.
    const isTrusted = row !== undefined && !(row.problem && row.hasFacts) && !row.toReadAgain
    if (isTrusted && stamp && sameStamp(row, stamp) && sameSequence(row.sequence, file.sequence)) {
      looked.unchanged++
      if (row.problem) looked.problems++
      if (row.isGone) looked.back.push(row.id)
    } else if (stamp && isGrowing(stamp, config.restSeconds)) looked.growing++
    else looked.changed.push({ file, stamp })
    if ((looked.unchanged & 255) === 0) signal.throwIfAborted()
  }
  return looked
}

const placed = (volume: VolumeRow, file: FoundFile): PlacedFile => ({
  fullPath: join(volume.rootPath, file.path),
  root: volume.rootPath,
  sequence: file.sequence,
})

/** A file that leaves while it is read is simply not there any more; one that is written meanwhile is read later. */
async function describe(
  volume: VolumeRow,
  file: FoundFile,
  stamp: FileStamp | null,
  { restSeconds, ...reading }: Parameters<typeof describePlaced>[2] & { restSeconds: number },
): Promise<DescribedFile | Unreadable | 'growing' | null> {
  if (stamp === null) return null
  const place = placed(volume, file)
  try {
    const described = await describePlaced(place, stamp, reading)
    // Of tens of thousands of stills each would be asked once more; those that come are more of them.
    if (restSeconds === 0 || file.sequence) return described
    return sameStamp(stamp, await stampOfPlaced(place)) ? described : 'growing'
  } catch (error) {
    reading.signal.throwIfAborted()
    const code = (error as NodeJS.ErrnoException).code
    if (code === 'ENOENT') return null
    // A link that took a file's place meanwhile is passed over like any other.
    if (error instanceof LedAway) return null
    if (isFileError(error)) return { path: file.path, reason: explainFileError(error, place.fullPath) }
    throw error
  }
}

/** A file that is not there any more is no trouble; a volume that is not there any more ends the scan. */
async function assertStillHere(volume: VolumeRow, read: number, total: number): Promise<void> {
  if (await isVolumeHere(volume, async () => [])) return
  throw new JobFailure(
    `Volume “${volume.label}” left after ${formatNumber(read)} of ${formatNumber(total)} files were read. ` +
      'What was read is kept; the scan goes on when it is back.',
    { waitsForVolume: volume.id },
  )
}

/** Whether numbered stills are those that were known, as far as is known of them as they were, and more. */
async function hasOnlyGrown({ rootPath }: VolumeRow, { sequence }: FoundFile, known: KnownFile): Promise<boolean> {
  if (!sequence || !known.sequence || known.fingerprint !== known.firstFingerprint) return false
  return isGrownFrom(rootPath, sequence, { ...known, sequence: known.sequence })
}

/** A file that the database will not take is one file: the others are kept, and it is named. */
async function storeFiles(context: WorkContext, volumeId: string, rows: readonly Described[]): Promise<Unreadable[]> {
  try {
    await insertFiles(context, volumeId, rows)
    return []
  } catch (error) {
    if (rows.length > 1) {
      const refused: Unreadable[] = []
      for (const row of rows) refused.push(...(await storeFiles(context, volumeId, [row])))
      return refused
    }
    if (!isUnkeepable(error)) throw error
    return rows.map(({ path }) => ({
      path,
      reason: 'its name, or what it says of itself, cannot be kept in the ledger.',
    }))
  }
}

async function insertFiles({ database }: WorkContext, volumeId: string, rows: readonly Described[]): Promise<void> {
  const stored = await database
    .insert(files)
    .values(rows.map(({ hasGrown: _, ...row }) => ({ ...row, volumeId, isGone: false })))
    .onConflictDoUpdate({
      ...atPlace,
      set: {
        sizeBytes: sql`excluded.size_bytes`,
        mtimeMicros: sql`excluded.mtime_micros`,
        eachStamp: sql`excluded.each_stamp`,
        fingerprint: sql`excluded.fingerprint`,
        // What was known of an original stays known when it is damaged: it keeps its place in the ledger.
        facts: sql`coalesce(excluded.facts, ${files.facts})`,
        problem: sql`excluded.problem`,
        sequence: sql`excluded.sequence`,
        isGone: false,
        toReadAgain: false,
        seenAt: new Date(),
      },
    })
    .returning({ id: files.id, path: files.path })
  const grown = new Set(rows.filter(({ hasGrown }) => hasGrown).map(({ path }) => path))
  const grownIds = stored.filter(({ path }) => grown.has(path)).map(({ id }) => id)
  // Stills that came one by one are no other content than the first of them.
  if (grownIds.length)
    await database.update(files).set({ firstFingerprint: files.fingerprint }).where(anyOf(files.id, grownIds))
  // What was written anew is to be compared anew.
  const ids = sql.param(stored.map(({ id }) => id))
  await database.execute(sql`
    update ${clipCopies} set is_unlike = false where is_unlike and (file_id = any(${ids}::uuid[])
      or clip_id in (select clip_id from ${clipFiles} where file_id = any(${ids}::uuid[])))`)
}

async function markGone({ database }: WorkContext, missing: readonly KnownFile[]): Promise<number> {
  // A folder that could not be read stood among the files, and was none.
  const placeholders = missing.filter((row) => row.fingerprint === '' && !row.hasFacts)
  if (placeholders.length)
    await database.delete(files).where(
      anyOf(
        files.id,
        placeholders.map((row) => row.id),
      ),
    )
  const gone = missing.filter((row) => !row.isGone && !placeholders.includes(row))
  if (gone.length)
    await database
      .update(files)
      .set({ isGone: true })
      .where(
        anyOf(
          files.id,
          gone.map((row) => row.id),
        ),
      )
  return gone.length
}
