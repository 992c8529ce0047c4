import { join } from 'node:path'
import { claimsToBeMedia, pathsOfFile, removableKinds, type StillSequence, sequenceFramePaths } from '@ennick/core'
import { and, eq, sql } from 'drizzle-orm'
import type { WorkContext } from '../queue/context.ts'
import { anyOf } from '../store/any-of.ts'
import { hasChanged, heldContent } from '../store/backups.ts'
import { clipCopies } from '../store/catalogue-schema.ts'
import type { Database, Transaction } from '../store/database.ts'
import type { VolumeRow } from '../store/known-material.ts'
import { atPlace, clipFiles, files, pairFiles, volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'
import { lockArrivals } from './arrivals.ts'
import type { VerifiedCopy } from './copier.ts'
import { lookForPlaced, sameStamp } from './describe-file.ts'
import { pathIn } from './walk.ts'

/**
 * Tells the ledger of verified copies: what was known of a card's file is known of its copy, and a clip whose home
 * leaves again moves to the copy that stays. The card's file remains known as a copy.
 */
export async function registerCopies(
  { database }: WorkContext,
  source: VolumeRow,
  destination: VolumeRow,
  folder: string,
  copied: readonly CopiedRow[],
): Promise<void> {
  const moves = removableKinds.has(source.kind) && !removableKinds.has(destination.kind)
  await database.transaction(async (transaction) => {
    // Of two offloads of one card that end at once the second has to see where its clips live by then.
    await lockArrivals(transaction, source.productionId)
    for (const file of copied) {
      if (file.facts === null) continue
      const copyId = await storeCopy(transaction, file, destination, folder)
      if (copyId) await tie(transaction, file.id, copyId, moves)
    }
  })
}

/** A file of the source that was copied as a whole, as the ledger has it. */
type CopiedRow = typeof files.$inferSelect

/** Whether these are all media that were copied: a card may have been filled since its last scan. */
export function areAllMedia(copied: readonly CopiedRow[], verified: readonly VerifiedCopy[]): boolean {
  const known = new Set<string>()
  for (const file of copied) for (const each of pathsOfFile(file)) known.add(each)
  return verified.every(({ path }) => known.has(path) || !claimsToBeMedia(path))
}

/** What the ledger has of a volume as it is there now; of that what was copied as a whole. */
export async function readCopied(
  database: Database,
  source: VolumeRow,
  verified: readonly VerifiedCopy[],
): Promise<CopiedRow[]> {
  const known = await database
    .select()
    .from(files)
    .where(and(eq(files.volumeId, source.id), eq(files.isGone, false)))
  const copied = new Set(verified.map((copy) => copy.path))
  const root = source.rootPath
  const asItIs: CopiedRow[] = []
  for (const file of known) {
    const isWhole = file.sequence === null ? copied.has(file.path) : isSequenceCopied(file.sequence, copied)
    if (!isWhole) continue
    const stamp = await lookForPlaced({ ...file, fullPath: join(root, file.path), root }).catch(() => null)
    if (stamp && sameStamp(file, stamp)) asItIs.push(file)
  }
  return asItIs
}

/** Numbered stills are copied when every one of them is. */
function isSequenceCopied(sequence: StillSequence, copied: ReadonlySet<string>): boolean {
  for (const path of sequenceFramePaths(sequence)) if (!copied.has(path)) return false
  return true
}

async function storeCopy(
  transaction: Transaction,
  file: typeof files.$inferSelect,
  destination: VolumeRow,
  folder: string,
): Promise<string | null> {
  const path = pathIn(folder, file.path)
  const sequence = file.sequence && { ...file.sequence, folder: pathIn(folder, file.sequence.folder) }
  const root = destination.rootPath
  const stamp = await lookForPlaced({ fullPath: join(root, path), root, sequence }).catch(() => null)
  if (!stamp) return null
  const { fingerprint, facts, firstFingerprint } = file
  await makeWay(transaction, destination.id, path, fingerprint)
  const values = {
    volumeId: destination.id,
    path,
    sizeBytes: stamp.sizeBytes,
    mtimeMicros: stamp.mtimeMicros,
    eachStamp: stamp.eachStamp ?? null,
    fingerprint,
    facts,
    sequence,
    isGone: false,
  }
  const [row] = await transaction
    .insert(files)
    // That a card's file is another than it was at first goes along, and is told of the copy as well.
    .values({ ...values, firstFingerprint })
    .onConflictDoUpdate({ ...atPlace, set: { ...values, problem: null } })
    .returning({ id: files.id })
  return row?.id ?? null
}

/** What the ledger has at a place where something else was copied to had left: what it was is not lost with that. */
async function makeWay(transaction: Transaction, volumeId: string, path: string, fingerprint: string): Promise<void> {
  const [before] = await transaction
    .select({ id: files.id, fingerprint: files.fingerprint })
    .from(files)
    .where(and(eq(files.volumeId, volumeId), eq(files.path, path), eq(files.isReplaced, false)))
  if (!before || before.fingerprint === fingerprint) return
  const { rows } = await transaction.execute(sql`
    select from ${clipFiles} where file_id = ${before.id} union all
    select from ${pairFiles} where file_id = ${before.id}`)
  if (rows.length)
    await transaction.update(files).set({ isGone: true, isReplaced: true }).where(eq(files.id, before.id))
  else await transaction.delete(files).where(eq(files.id, before.id))
}

/**
 * A file and its copy, both read whole, are known as such.
 * @param leaves whether the file is on a volume that leaves again and its copy on one that stays: a clip lives there
 * from now on
 */
export async function tie(transaction: Transaction, fileId: string, copyId: string, leaves: boolean): Promise<void> {
  // Of a clip that lives elsewhere already the card's file is a copy, and this is one more of it.
  const others = await transaction.select().from(clipCopies).where(eq(clipCopies.fileId, fileId))
  const homes = await transaction.select().from(clipFiles).where(eq(clipFiles.fileId, copyId))
  for (const { clipId, isVerified } of others) {
    if (homes.some((home) => home.clipId === clipId)) continue
    if (leaves && (await moveFromOtherCard(transaction, clipId, { fileId, copyId }))) continue
    await transaction
      .insert(clipCopies)
      .values({ clipId, fileId: copyId, isVerified })
      .onConflictDoUpdate({
        target: [clipCopies.clipId, clipCopies.fileId],
        set: { isVerified: sql`${clipCopies.isVerified} or excluded.is_verified`, isUnlike: false },
      })
  }
  const { id, fingerprint, firstFingerprint } = files
  const rows = await transaction
    .select({ id, fingerprint, firstFingerprint })
    .from(files)
    .where(anyOf(files.id, [fileId, copyId]))
  const [file, copy] = [fileId, copyId].map((each) => rows.find((row) => row.id === each))
  if (!file || !copy) return
  // Where something else was before, what is there now is what was copied; it is no clip that was what it was before.
  const isHeldAlike = heldContent(file) === heldContent(copy)
  if (!isHeldAlike && hasChanged(file)) return
  const moves = leaves && isHeldAlike
  const links = await transaction.select().from(clipFiles).where(eq(clipFiles.fileId, fileId))
  for (const link of links) {
    if (moves) {
      await transaction
        .update(clipFiles)
        .set({ fileId: copyId })
        .where(and(eq(clipFiles.clipId, link.clipId), eq(clipFiles.ordinal, link.ordinal)))
    }
    await transaction
      .insert(clipCopies)
      .values({ clipId: link.clipId, fileId: moves ? fileId : copyId, isVerified: true })
      .onConflictDoUpdate({
        target: [clipCopies.clipId, clipCopies.fileId],
        set: { isVerified: true, isUnlike: false },
      })
    await transaction
      .delete(clipCopies)
      .where(and(eq(clipCopies.clipId, link.clipId), eq(clipCopies.fileId, moves ? copyId : fileId)))
  }
}

/**
 * A clip whose home is on another card, of one camera that wrote to two at once, lives where it stays from now on. Both
 * cards' files are copies of that: this one's was read back, the other one's is alike.
 * @returns whether it does
 */
async function moveFromOtherCard(
  transaction: Transaction,
  clipId: string,
  { fileId, copyId }: { fileId: string; copyId: string },
): Promise<boolean> {
  const { rows } = await transaction.execute<{ file_id: string }>(sql`
    with other as (
      select link.ordinal, link.file_id from ${clipFiles} link join files own on own.id = link.file_id
        join ${volumes} home on home.id = own.volume_id join files copy on copy.id = ${copyId}
      where link.clip_id = ${clipId} and not ${stays(sql`home.kind`)}
        and own.fingerprint = copy.fingerprint and own.size_bytes = copy.size_bytes
        and own.first_fingerprint = own.fingerprint and copy.first_fingerprint = copy.fingerprint
      order by link.ordinal limit 1
    ), moved as (
      update ${clipFiles} link set file_id = ${copyId} from other
      where link.clip_id = ${clipId} and link.ordinal = other.ordinal
    ), read_back as (
      update ${clipCopies} copy set is_verified = true from other
      where copy.clip_id = ${clipId} and copy.file_id = ${fileId}
    ) insert into ${clipCopies} (clip_id, file_id, is_verified) select ${clipId}, other.file_id, false from other
      returning file_id`)
  return rows.length > 0
}
