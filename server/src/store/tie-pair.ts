import type { Transaction } from './database.ts'
import type { KnownClip } from './known-material.ts'
import { pairFiles, pairs } from './schema.ts'

type PairValues = typeof pairs.$inferInsert

/**
 * Ties the files of an item to their original, both as they are now.
 * @param files rows of the ledger, in order
 * @returns the id of the pair
 */
export async function tiePair(
  transaction: Transaction,
  clip: Pick<KnownClip, 'id' | 'files'>,
  item: Pick<PairValues, 'name' | 'kind' | 'origin'> & Partial<PairValues>,
  files: readonly { id: string; fingerprint: string; part: typeof pairFiles.$inferInsert.part }[],
): Promise<string> {
  const [row] = await transaction
    .insert(pairs)
    .values({
      ...item,
      clipId: clip.id,
      originalFingerprints: clip.files.map(({ fingerprint }) => fingerprint),
      madeFingerprints: files.map(({ fingerprint }) => fingerprint),
      isCompared: true,
      checkedAt: new Date(),
    })
    .returning({ id: pairs.id })
  const { id: pairId } = row as { id: string }
  await transaction
    .insert(pairFiles)
    .values(files.map(({ id: fileId, part }, ordinal) => ({ pairId, ordinal, fileId, part })))
  return pairId
}
