import type { EvidenceRow } from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { Database } from '../store/database.ts'
import type { KnownPair } from '../store/known-material.ts'
import { pairs } from '../store/schema.ts'

/**
 * Writes rows of evidence that do not follow from facts beside what a pair, as it was read before, was proven by.
 * Looking takes long: what a check found meanwhile stays, and when it found other files under the names of this pair's, what was
 * seen says nothing of them.
 * @param aspects whose rows of before are taken away
 * @param more what else is written with them
 */
export async function keepProof(
  database: Database,
  pair: KnownPair,
  aspects: readonly EvidenceRow['aspect'][],
  rows: readonly EvidenceRow[],
  more: { readonly picturesCompared?: string[] } = {},
): Promise<void> {
  await database.transaction(async (transaction) => {
    const [now] = await transaction
      .select({ proof: pairs.proof, made: pairs.madeFingerprints })
      .from(pairs)
      .where(eq(pairs.id, pair.id))
      .for('update')
    if (!now || now.made.join() !== pair.madeFingerprints.join()) return
    const others = (now.proof ?? []).filter(({ aspect }) => !aspects.includes(aspect))
    const proof = [...others, ...rows]
    await transaction
      .update(pairs)
      .set({ proof, checkedAt: new Date(), ...more })
      .where(eq(pairs.id, pair.id))
  })
}
