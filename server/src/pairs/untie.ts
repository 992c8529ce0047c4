import { eq } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import { cameraProxies } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { clips, pairFiles, pairs } from '../store/schema.ts'

/** Takes an adopted pair apart. Its files stay where they are, and wait for their original again. */
export async function untiePair(database: Database, pairId: string): Promise<void> {
  await database.transaction(async (transaction) => {
    const [row] = await transaction
      .select({ pair: pairs, clip: clips })
      .from(pairs)
      .innerJoin(clips, eq(clips.id, pairs.clipId))
      .where(eq(pairs.id, pairId))
      .for('update')
    if (!row) throw notFound('This pair')
    const { pair, clip } = row
    if (pair.origin !== 'adopted')
      throw new PlainError(
        'made-pair',
        `${pair.name} was made by Ennick from ${clip.name}: it is no other clip’s. Release it to be rid of it.`,
        { status: 409 },
      )
    const tied = await transaction.select().from(pairFiles).where(eq(pairFiles.pairId, pairId))
    await transaction.delete(pairs).where(eq(pairs.id, pairId))
    if (tied.length)
      await transaction
        .insert(cameraProxies)
        .values(tied.map(({ fileId }) => ({ fileId, productionId: clip.productionId, clipId: null })))
        .onConflictDoUpdate({ target: cameraProxies.fileId, set: { clipId: null } })
    await writeHistory(
      transaction,
      clip.productionId,
      'clip',
      clip.id,
      `Untied the proxy ${pair.name} from ${clip.name}. Its files stay where they are.`,
    )
    await announce(transaction, clip.productionId, 'pairs', 'clips', 'cuts', 'volumes')
  })
}
