import { allFields, type Field } from '@ennick/core'
import type { Queryable } from '../store/database.ts'
import { readProduction } from '../store/production-row.ts'
import type { IndexRow } from './index-row.ts'

/** The fields of a production by their ids, in order. */
export async function readFields(database: Queryable, productionId: string): Promise<ReadonlyMap<string, Field>> {
  const production = await readProduction(database, productionId)
  return new Map(allFields(production.customColumns).map((field) => [field.id, field]))
}

/** Fields that people add and that live together, rather than in a column of their own. */
export const isLoose = (field: Field): boolean =>
  field.from === 'described' && field.id !== 'name' && field.id !== 'reel'

/** The value of a field as text; empty where there is none. */
export function fieldText(row: IndexRow, field: Field): string {
  if (isLoose(field)) return row.described[field.id] ?? ''
  const value = row[field.id as keyof IndexRow]
  if (field.id === 'rate')
    return row.rateNumerator === null
      ? ''
      : `${row.rateNumerator}${row.rateDenominator === 1 ? '' : `/${row.rateDenominator}`}`
  return value === null || value === undefined ? '' : String(value)
}
