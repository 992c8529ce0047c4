import { join } from 'node:path'
import { removableKinds, type StillSequence, sequenceFramePaths } from '@ennick/core'
import { and, eq } from 'drizzle-orm'
import type { WorkContext } from '../queue/context.ts'
import { clipCopies } from '../store/catalogue-schema.ts'
import type { Transaction } from '../store/database.ts'
import type { VolumeRow } from '../store/material.ts'
import { clipFiles, files } from '../store/schema.ts'
import type { VerifiedCopy } from './copier.ts'
import { lookForPlaced } from './describe-file.ts'
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
  verified: readonly VerifiedCopy[],
): Promise<void> {
  const known = await database
    .select()
    .from(files)
    .where(and(eq(files.volumeId, source.id), eq(files.isGone, false)))
  const copied = new Set(verified.map((copy) => copy.path))
  const moves = removableKinds.has(source.kind) && !removableKinds.has(destination.kind)
  await database.transaction(async (transaction) => {
    for (const file of known) {
      const isWhole = file.sequence === null ? copied.has(file.path) : isSequenceCopied(file.sequence, copied)
      if (!isWhole || file.facts === null) continue
      const copyId = await storeCopy(transaction, file, destination, folder)
      if (copyId) await tie(transaction, file.id, copyId, moves)
    }
  })
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
  const { fingerprint, facts } = file
  const values = {
    volumeId: destination.id,
    path,
    sizeBytes: stamp.sizeBytes,
    mtimeMicros: stamp.mtimeMicros,
    fingerprint,
    facts,
    sequence,
    isGone: false,
  }
  const [row] = await transaction
    .insert(files)
    .values(values)
    .onConflictDoUpdate({ target: [files.volumeId, files.path], set: { ...values, problem: null } })
    .returning({ id: files.id })
  return row?.id ?? null
}

async function tie(transaction: Transaction, fileId: string, copyId: string, moves: boolean): Promise<void> {
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
      .onConflictDoUpdate({ target: [clipCopies.clipId, clipCopies.fileId], set: { isVerified: true } })
    await transaction
      .delete(clipCopies)
      .where(and(eq(clipCopies.clipId, link.clipId), eq(clipCopies.fileId, moves ? copyId : fileId)))
  }
}
