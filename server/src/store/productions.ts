import { randomUUID } from 'node:crypto'
import { mkdir } from 'node:fs/promises'
import { join } from 'node:path'
import type { CustomColumn, Rate, Target } from '@ennick/core'
import { eq } from 'drizzle-orm'
import { madeFolder } from '../config.ts'
import { writeMarker } from '../disk/marker.ts'
import { PlainError } from '../errors.ts'
import type { Queryable } from './database.ts'
import { writeHistory } from './history.ts'
import type { ProductionRow } from './production-row.ts'
import { productions, volumes } from './schema.ts'

const madeLabel = 'Made by Ennick'

/** A name that people recognise, and a part of the id, for names that look alike to the file system. */
export const folderOfProduction = ({ name, id }: Pick<ProductionRow, 'name' | 'id'>): string =>
  `${nameOfFolder(name)}-${id.slice(0, 8)}`

/** A name that any disk takes. */
export const nameOfFolder = (name: string): string => name.replace(/[^\p{L}\p{N}]+/gu, '-').slice(0, 60)

/** @throws PlainError where another production than this one is called so already */
export async function assertNameFree(database: Queryable, name: string, ownId?: string): Promise<void> {
  const [taken] = await database.select({ id: productions.id }).from(productions).where(eq(productions.name, name))
  if (taken && taken.id !== ownId)
    throw new PlainError('name-taken', `There is a production “${name}” already.`, { status: 409 })
}

/** Makes a production with its own place for what Ennick makes. */
export async function addProduction(
  database: Queryable,
  dataFolder: string,
  values: {
    name: string
    rate: Rate
    width: number
    height: number
    isDemo: boolean
    proxySuffixes: string[]
    target?: Target
    customColumns?: CustomColumn[]
  },
): Promise<ProductionRow> {
  const { rate, ...rest } = values
  const [row] = await database
    .insert(productions)
    .values({ ...rest, rateNumerator: rate.numerator, rateDenominator: rate.denominator })
    .returning()
  const production = row as ProductionRow
  const rootPath = join(madeFolder(dataFolder), folderOfProduction(production))
  await mkdir(madeFolder(dataFolder), { recursive: true })
  await mkdir(rootPath)
  // By its marker the place is told from the empty folder that a disk leaves which is not in.
  const markerId = randomUUID()
  await writeMarker(rootPath, { volume: markerId, label: madeLabel }, { isOwn: true })
  await database
    .insert(volumes)
    .values({ productionId: production.id, label: madeLabel, kind: 'made', rootPath, markerId, lastSeenAt: new Date() })
  await writeHistory(database, production.id, 'production', production.id, `Production “${production.name}” made.`)
  return production
}
