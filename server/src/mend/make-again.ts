import type { LinkChange } from '@ennick/core'
import { notFound, PlainError } from '../errors.ts'
import { addJob, makeKey, readMakesUnderWay } from '../queue/jobs.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { readMaterial } from '../store/material.ts'
import { mends } from '../store/schema.ts'
import type { MendRow } from './links.ts'

/** What an adopted proxy is made again with: nobody knows the recipe of the one that it replaces. */
const recipeForAdopted = 'half-h264-intra'

/**
 * Queues the making of some pairs' proxies again. Each is a mend of its own that is done when its job is.
 * @param cutId the cut for which it is done, if it is done for one
 */
export async function makeAgain(
  database: Database,
  cutId: string | null,
  productionId: string,
  pairIds: readonly string[],
): Promise<MendRow[]> {
  const material = await readMaterial(database, productionId)
  return database.transaction(async (transaction) => {
    const underWay = new Set(await readMakesUnderWay(transaction, productionId))
    const queued: MendRow[] = []
    for (const pairId of new Set(pairIds)) {
      const pair = material.pairs.get(pairId)
      if (!pair) throw notFound('This pair')
      const clip = material.clips.get(pair.clipId)
      if (clip?.presence !== 'here')
        throw new PlainError(
          'original-missing',
          `The proxy ${pair.name} cannot be made again: its original is not here. Mend the original first.`,
          { status: 409 },
        )
      const recipeId = pair.recipeId ?? recipeForAdopted
      if (underWay.has(makeKey(clip.id, recipeId)))
        throw new PlainError(
          'on-the-queue',
          `The proxy ${pair.name} is on the queue already: it is being made, or waits to be.`,
          {
            status: 409,
          },
        )
      underWay.add(makeKey(clip.id, recipeId))
      const change: LinkChange = {
        link: { kind: 'pair', clipId: clip.id, recipeId },
        before: pair.id,
        after: null,
        label: `${clip.name}: make the proxy again`,
      }
      const [mend] = await transaction
        .insert(mends)
        .values({
          productionId,
          cutId,
          kind: 'make again',
          title: `Make the proxy of ${clip.name} again`,
          changes: [change],
          state: 'waiting',
        })
        .returning()
      queued.push(mend as MendRow)
      await addJob(transaction, productionId, `Make ${clip.name} again`, {
        kind: 'make',
        clipId: clip.id,
        recipeId,
        mendId: (mend as MendRow).id,
      })
    }
    await announce(transaction, productionId, 'mends')
    return queued
  })
}
