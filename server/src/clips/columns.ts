import type { FieldInfo } from '@ennick/contract'
import { allFields, type CustomColumn, count } from '@ennick/core'
import { eq, sql } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { type ProductionRow, readProduction } from '../store/production-row.ts'
import { clips, productions } from '../store/schema.ts'

const mostColumns = 200

/** A key that none of the columns has. */
export const newColumnKey = (columns: readonly CustomColumn[]): string =>
  `x${Math.max(0, ...columns.map((column) => Number(column.key.slice(1)) || 0)) + 1}`

/** The fields of a production as the API shows them. */
export const presentFields = (production: Pick<ProductionRow, 'customColumns'>): FieldInfo[] => {
  const custom = new Set(production.customColumns.map((column) => column.key))
  return allFields(production.customColumns).map(({ id, title, kind, from, choices }) => ({
    id,
    title,
    kind,
    from,
    ...(choices ? { choices: [...choices] } : {}),
    isCustom: custom.has(id),
  }))
}

export async function addColumn(
  database: Database,
  productionId: string,
  column: { title: string; kind: CustomColumn['kind']; choices: string[] },
): Promise<FieldInfo[]> {
  const production = await readProduction(database, productionId)
  const taken = allFields(production.customColumns).find(
    (field) => field.title.toLowerCase() === column.title.toLowerCase(),
  )
  if (taken) throw new PlainError('title-taken', `There is a column “${taken.title}” already.`, { status: 409 })
  if (production.customColumns.length >= mostColumns)
    throw new PlainError('too-many-columns', `A production may have ${mostColumns} columns of its own.`, {
      status: 409,
    })
  const customColumns = [...production.customColumns, { ...column, key: newColumnKey(production.customColumns) }]
  return save(database, productionId, customColumns)
}

/** Removes a column that is empty everywhere: what somebody wrote is never thrown away with its column. */
export async function removeColumn(database: Database, productionId: string, key: string): Promise<FieldInfo[]> {
  const production = await readProduction(database, productionId)
  const column = production.customColumns.find((candidate) => candidate.key === key)
  if (!column) throw notFound('This column')
  const filled = await database.$count(
    clips,
    sql`${clips.productionId} = ${productionId} and ${clips.described} ? ${key}`,
  )
  if (filled)
    throw new PlainError(
      'column-filled',
      `“${column.title}” has a value in ${count(filled, 'clip')}: empty it first, then remove it.`,
      {
        status: 409,
      },
    )
  return save(
    database,
    productionId,
    production.customColumns.filter((candidate) => candidate.key !== key),
  )
}

async function save(database: Database, productionId: string, customColumns: CustomColumn[]): Promise<FieldInfo[]> {
  await database.update(productions).set({ customColumns }).where(eq(productions.id, productionId))
  await announce(database, productionId, 'catalogue')
  return presentFields({ customColumns })
}
