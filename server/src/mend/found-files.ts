import { basename, dirname, posix, relative, sep } from 'node:path'
import { groupBy, onVolume } from '@ennick/core'
import { eq, sql } from 'drizzle-orm'
import { type Arrival, makeClips } from '../intake/arrivals.ts'
import { anyOf } from '../store/any-of.ts'
import type { Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { FoundFile } from '../store/job-types.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { atPlace, type CreatedByMend, clipFiles, files, volumes } from '../store/schema.ts'

/** What a mend brings into the ledger, noted as it comes. */
export type Created = { -readonly [Kind in keyof CreatedByMend]: string[] }

/** Rows written in one statement; each has about a dozen values, and a statement has 65,535 at most. */
const atOnce = 2000

/**
 * The rows of found files by their paths, made or brought up to date. Files on no known volume bring their folders in
 * as volumes.
 * @param created is told what was brought in
 */
export async function rowsOfFound(
  transaction: Transaction,
  productionId: string,
  found: readonly FoundFile[],
  created: Created,
): Promise<Map<string, string>> {
  const all = await transaction.select().from(volumes).where(eq(volumes.productionId, productionId))
  const holding = all.filter(({ kind }) => kind !== 'made')
  const rows = []
  for (const { id: _, path: fullPath, sequence: stills = null, ...described } of found) {
    let volume = onVolume(holding, fullPath)?.volume
    if (!volume) {
      volume = await addFolderVolume(transaction, productionId, dirname(fullPath), all)
      created.volumeIds.push(volume.id)
      all.push(volume)
      holding.push(volume)
    }
    const path = relative(volume.rootPath, fullPath).split(sep).join('/')
    const folder = posix.dirname(path)
    const sequence = stills && { ...stills, folder: folder === '.' ? '' : folder }
    rows.push({ fullPath, values: { ...described, sequence, volumeId: volume.id, path, problem: null, isGone: false } })
  }
  const ids = new Map<string, string>()
  for (let index = 0; index < rows.length; index += atOnce) {
    const some = rows.slice(index, index + atOnce)
    const written = await transaction
      .insert(files)
      .values(some.map(({ values }) => ({ ...values, seenAt: new Date() })))
      .onConflictDoUpdate({
        ...atPlace,
        set: {
          ...{ sizeBytes: sql`excluded.size_bytes`, mtimeMicros: sql`excluded.mtime_micros` },
          eachStamp: sql`excluded.each_stamp`,
          ...{ fingerprint: sql`excluded.fingerprint`, facts: sql`excluded.facts`, sequence: sql`excluded.sequence` },
          ...{ problem: null, isGone: false, seenAt: new Date() },
        },
      })
      // A row that this statement made was never deleted or locked by any.
      .returning({ id: files.id, volumeId: files.volumeId, path: files.path, isNew: sql<boolean>`(xmax = 0)` })
    const byPlace = new Map(written.map((row) => [`${row.volumeId} ${row.path}`, row]))
    for (const { fullPath, values } of some) {
      const row = byPlace.get(`${values.volumeId} ${values.path}`) as (typeof written)[number]
      ids.set(fullPath, row.id)
      if (row.isNew) created.fileIds.push(row.id)
    }
  }
  return ids
}

async function addFolderVolume(
  transaction: Transaction,
  productionId: string,
  rootPath: string,
  all: readonly VolumeRow[],
): Promise<VolumeRow> {
  const labels = new Set(all.map((volume) => volume.label))
  let label = basename(rootPath)
  for (let number = 2; labels.has(label); number++) label = `${basename(rootPath)} (${number})`
  const [row] = await transaction
    .insert(volumes)
    .values({ productionId, label, kind: 'folder', rootPath, lastSeenAt: new Date() })
    .returning()
  const volume = row as VolumeRow
  await writeHistory(
    transaction,
    productionId,
    'volume',
    volume.id,
    `Volume “${label}” added at ${rootPath}: a file was found there.`,
  )
  return volume
}

/** The clips of files, by file; one that has none is made a clip. */
export async function clipsOfFound(
  transaction: Transaction,
  productionId: string,
  fileIds: readonly string[],
  created: Created,
): Promise<Map<string, string>> {
  const links = await transaction
    .select({ fileId: clipFiles.fileId, clipId: clipFiles.clipId })
    .from(clipFiles)
    .where(anyOf(clipFiles.fileId, fileIds))
  const clipIds = new Map(links.map(({ fileId, clipId }) => [fileId, clipId]))
  const rows = await transaction
    .select()
    .from(files)
    .where(
      anyOf(
        files.id,
        fileIds.filter((id) => !clipIds.has(id)),
      ),
    )
  for (const [volumeId, ofVolume] of groupBy(rows, (row) => row.volumeId)) {
    const [volume] = await transaction.select().from(volumes).where(eq(volumes.id, volumeId))
    const made = await makeClips(
      transaction,
      productionId,
      volume as VolumeRow,
      ofVolume.map((row) => [row as Arrival]),
    )
    for (const [fileId, clipId] of made) {
      clipIds.set(fileId, clipId)
      created.clipIds.push(clipId)
    }
  }
  return clipIds
}
