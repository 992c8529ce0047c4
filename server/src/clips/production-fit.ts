import { type AlikeClips, type FitProperty, productionFit } from '@ennick/core'
import { eq, sql } from 'drizzle-orm'
import { clipIndex } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { productionRate, readProduction } from '../store/production-row.ts'
import { refreshIndex } from './index-refresh.ts'

/** Does what came fit the production? The database counts what is alike. */
export async function readFit(database: Database, productionId: string): Promise<FitProperty[]> {
  const production = await readProduction(database, productionId)
  await refreshIndex(database, productionId)
  const columns = {
    kind: clipIndex.kind,
    rateNumerator: clipIndex.rateNumerator,
    rateDenominator: clipIndex.rateDenominator,
    width: clipIndex.width,
    height: clipIndex.height,
    squeeze: clipIndex.squeeze,
    scan: clipIndex.scan,
    colour: clipIndex.colour,
    sampleRate: clipIndex.sampleRate,
  }
  const rows = await database
    .select({ ...columns, clips: sql<number>`count(*)::int` })
    .from(clipIndex)
    .where(eq(clipIndex.productionId, productionId))
    .groupBy(...Object.values(columns))
  const came = rows.map(
    ({ kind, rateNumerator, rateDenominator, squeeze, ...row }): AlikeClips => ({
      ...row,
      kind: kind as AlikeClips['kind'],
      rate:
        kind === 'picture' && rateNumerator !== null && rateDenominator !== null
          ? { numerator: rateNumerator, denominator: rateDenominator }
          : null,
      pixelAspect: squeeze,
    }),
  )
  return productionFit({ rate: productionRate(production), width: production.width, height: production.height }, came)
}
