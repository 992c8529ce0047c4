import type { Rate } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { notFound } from '../errors.ts'
import type { Queryable } from './database.ts'
import { productions } from './schema.ts'

export type ProductionRow = typeof productions.$inferSelect

/** @throws PlainError when there is no such production */
export async function readProduction(database: Queryable, productionId: string): Promise<ProductionRow> {
  const [row] = await database.select().from(productions).where(eq(productions.id, productionId))
  if (!row) throw notFound('This production')
  return row
}

export const productionRate = (production: ProductionRow): Rate => ({
  numerator: production.rateNumerator,
  denominator: production.rateDenominator,
})

export const productionFormat = (production: ProductionRow) => ({
  rate: productionRate(production),
  width: production.width,
  height: production.height,
})
