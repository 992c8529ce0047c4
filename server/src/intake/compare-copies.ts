import { join } from 'node:path'
import { count, pathsOfFile, removableKinds } from '@ennick/core'
import { and, eq, type SQL, sql } from 'drizzle-orm'
import { alias } from 'drizzle-orm/pg-core'
import { isOneFile } from '../disk/file-identity.ts'
import { assertBeneath } from '../disk/held-folder.ts'
import { hashFile } from '../engine/copy.ts'
import { explainFileError, isFileError } from '../errors.ts'
import type { WorkContext } from '../queue/context.ts'
import { JobFailure } from '../queue/failure.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { summarise } from '../queue/summary.ts'
import { announce } from '../store/announce.ts'
import { clipCopies } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { JobResult } from '../store/job-types.ts'
import type { KnownFile } from '../store/known-material.ts'
import { placeFile } from '../store/place-file.ts'
import { placeOf } from '../store/place-words.ts'
import { clipFiles, clips, files, volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'
import { isTakenOut } from '../store/taken-out.ts'
import { lockArrivals } from './arrivals.ts'
import { assertVolumeHere } from './assert-volume-here.ts'
import { isAsKnown } from './describe-file.ts'
import { tie } from './register-copies.ts'

type CompareResult = Extract<JobResult, { kind: 'compare' }>

const own = alias(files, 'own')
const home = alias(volumes, 'home')

/** A clip's file, and one that is alike by size and fingerprint, of which nobody knows more. */
interface NotCompared {
  readonly clipId: string
  readonly own: KnownFile
  readonly copy: KnownFile
}

/** Both are here, as far as the ledger knows, and nobody has read both. */
const isNotCompared: SQL = sql`not ${clipCopies.isVerified} and not ${clipCopies.isUnlike} and not ${isTakenOut}
  and ${own.fingerprint} = ${files.fingerprint} and ${own.sizeBytes} = ${files.sizeBytes}
  and (${own.sequence} is null) = (${files.sequence} is null)
  and not ${own.isGone} and not ${files.isGone} and ${own.problem} is null and ${files.problem} is null
  and ${home.isHere} and ${volumes.isHere}`

/** Of what volume it is told: of the one with the copy; of a card also where its own copies lie elsewhere. */
const concerns = (volumeId: SQL): SQL =>
  sql`(${files.volumeId} = ${volumeId} or (${own.volumeId} = ${volumeId} and not ${stays(home.kind)}))`

/** Of each volume, how many clips have a copy that nobody has compared, and what there is to be read for that. */
export async function countNotCompared(
  database: Queryable,
  productionId: string,
): Promise<ReadonlyMap<string, { clips: number; bytes: number }>> {
  const { rows } = await database.execute<{ volume_id: string; clips: number; bytes: string }>(sql`
    select told.id as volume_id, count(distinct ${clipCopies.clipId})::int as clips,
      sum(2 * ${files.sizeBytes})::text as bytes
    from ${clipCopies} join ${clips} on ${clips.id} = ${clipCopies.clipId}
      join ${clipFiles} on ${clipFiles.clipId} = ${clips.id} join files own on ${own.id} = ${clipFiles.fileId}
      join volumes home on ${home.id} = ${own.volumeId} join ${files} on ${files.id} = ${clipCopies.fileId}
      join ${volumes} on ${volumes.id} = ${files.volumeId}
      join volumes told on ${concerns(sql`told.id`)}
    where ${clips.productionId} = ${productionId} and ${isNotCompared} group by told.id`)
  return new Map(rows.map((row) => [row.volume_id, { clips: row.clips, bytes: Number(row.bytes) }]))
}

async function readNotCompared(database: Queryable, volumeId: string): Promise<NotCompared[]> {
  const rows = await database
    .select({ clipId: clipCopies.clipId, own, home, file: files, volume: volumes })
    .from(clipCopies)
    .innerJoin(clips, eq(clips.id, clipCopies.clipId))
    .innerJoin(clipFiles, eq(clipFiles.clipId, clips.id))
    .innerJoin(own, eq(own.id, clipFiles.fileId))
    .innerJoin(home, eq(home.id, own.volumeId))
    .innerJoin(files, eq(files.id, clipCopies.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(and(isNotCompared, concerns(sql`${volumeId}`)))
    .orderBy(files.path, clips.id)
  return rows.map((row) => ({
    clipId: row.clipId,
    own: placeFile(row.own, row.home),
    copy: placeFile(row.file, row.volume),
  }))
}

/**
 * Reads what lies on a volume and its copies elsewhere whole, where both are only alike by size and fingerprint, as
 * somebody copied them by other means. What is the same, byte for byte, is a copy like one that an offload has read
 * back: a clip of a card lives where it stays from then on. What is not is told, and is no copy any more. No file is
 * written.
 */
export async function compareCopies(
  context: WorkContext,
  meter: ProgressMeter,
  volumeId: string,
): Promise<CompareResult> {
  const { database, job, signal } = context
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  if (!volume) throw new JobFailure('The volume was removed.')
  const whenBack = 'Its copies are compared when it is back.'
  await assertVolumeHere(database, volume, whenBack)
  const pairs = await readNotCompared(database, volumeId)
  const total = pairs.reduce((sum, pair) => sum + 2 * pair.copy.sizeBytes, 0)
  const lines: CompareResult['lines'][number][] = []
  let bytes = 0
  let equal = 0
  const onBytes = (read: number): void => {
    bytes += read
    meter.report(bytes, total, 'bytes')
  }
  meter.restart()
  for (const pair of pairs) {
    signal.throwIfAborted()
    const { copy } = pair
    try {
      const outcome = await compare(pair, { signal, onBytes })
      if (outcome === 'same') equal++
      else lines.push({ path: copy.fullPath, ...outcome })
      if (outcome === 'same' || outcome.state === 'differs') await keep(context, pair, outcome === 'same')
    } catch (error) {
      signal.throwIfAborted()
      for (const side of [pair.own, copy]) await assertVolumeHere(database, side.volume, whenBack)
      if (!isFileError(error)) throw error
      lines.push({ path: copy.fullPath, state: 'not compared', detail: explainFileError(error, copy.fullPath) })
    }
  }
  const result: CompareResult = { kind: 'compare', equal, lines }
  const what = `Copies of “${volume.label}” were compared: ${summarise(result)}.`
  await writeHistory(database, job.productionId, 'volume', volume.id, what)
  await announce(database, job.productionId, 'volumes', 'clips', 'pairs', 'cuts')
  if (lines.length) throw new JobFailure(whatIsAmiss(lines), { result })
  return result
}

function whatIsAmiss(lines: CompareResult['lines']): string {
  const differing = lines.filter(({ state }) => state === 'differs')
  const [first] = differing.length ? differing : lines
  const example = `${first?.path}, ${first?.detail}`
  if (differing.length === 0) return `${count(lines.length, 'copy', 'copies')} could not be compared: ${example}`
  const are = count(differing.length, 'copy is', 'copies are')
  return `${are} not what the ledger took ${differing.length === 1 ? 'it' : 'them'} for: ${example}`
}

const changed = {
  state: 'not compared' as const,
  detail: 'It or its original has changed since it was scanned: scan both again.',
}

async function compare(
  { own: original, copy }: NotCompared,
  options: { signal: AbortSignal; onBytes: (bytes: number) => void },
): Promise<'same' | Omit<CompareResult['lines'][number], 'path'>> {
  const areAsKnown = async (): Promise<boolean> => (await isAsKnown(original)) && (await isAsKnown(copy))
  if (!(await areAsKnown())) return changed
  const [frames, others] = [pathsOf(original), pathsOf(copy)]
  if (frames.length !== others.length) return changed
  for (const [index, path] of frames.entries()) {
    const other = others[index] as string
    for (const [side, place] of [
      [original, path],
      [copy, other],
    ] as const)
      await assertBeneath(side.root, place)
    if (await isOneFile(path, other))
      return {
        state: 'differs',
        detail: `the very same file as ${placeOf(original)}, by another path: no copy at all.`,
      }
    const kind = 'xxh64' as const
    const [one, two] = await Promise.all([hashFile(path, { kind, ...options }), hashFile(other, { kind, ...options })])
    if (one === two) continue
    // What was written to while it was read says nothing.
    if (!(await areAsKnown())) return changed
    return { state: 'differs', detail: `not the same as ${placeOf(original)}, read whole: one of the two is damaged.` }
  }
  return (await areAsKnown()) ? 'same' : changed
}

const pathsOf = (file: KnownFile): string[] => pathsOfFile(file).map((path) => join(file.root, path))

/** What was found of two files is kept, unless the clip has another file by now. */
async function keep(
  { database }: WorkContext,
  { clipId, own: original, copy }: NotCompared,
  isSame: boolean,
): Promise<void> {
  await database.transaction(async (transaction) => {
    await lockArrivals(transaction, original.volume.productionId)
    const ofClip = and(eq(clipFiles.clipId, clipId), eq(clipFiles.fileId, original.id))
    if ((await transaction.$count(clipFiles, ofClip)) === 0) return
    const moves = removableKinds.has(original.volume.kind) && !removableKinds.has(copy.volume.kind)
    if (isSame) await tie(transaction, original.id, copy.id, moves)
    else
      await transaction
        .update(clipCopies)
        .set({ isUnlike: true })
        .where(and(eq(clipCopies.clipId, clipId), eq(clipCopies.fileId, copy.id)))
  })
}
