import { basename } from 'node:path'
import type { MakeBatch } from '@ennick/contract'
import {
  aaf,
  channelCount,
  clipFacts,
  cutFormats,
  decodeText,
  formatTimecode,
  isCompoundFile,
  type LogTable,
  logOfCut,
  type PlacedItem,
  readTakenIn,
  stem,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import { readLogFile } from '../clips/read-log.ts'
import { notFound, PlainError } from '../errors.ts'
import { readList } from '../reading/read-list.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { batchLists, makeBatches } from '../store/job-schema.ts'
import type { Material } from '../store/known-material.ts'
import { itemsOfMakes, type MadeItem } from './made-in-batch.ts'

export type BatchList = typeof batchLists.$inferSelect

/** Of long lists so many are named one by one. */
const mostNamed = 200

/**
 * Keeps a list of what a receiving room has beside a batch, in place of an earlier one.
 * @throws PlainError when it is no such list, or holds nothing
 */
export async function keepTakenIn(
  database: Database,
  batchId: string,
  file: { fileName: string; content: string },
): Promise<void> {
  const { fileName } = file
  const { columns, rows } = isCutList(fileName) ? await readCutAsLog(file) : (await readLogFile(file)).log.table
  if (rows.length === 0) throw new PlainError('bad-log', `${fileName} has no rows: it names nothing.`)
  await database.transaction(async (transaction) => {
    const productionId = await productionOf(transaction, batchId)
    const kept = { fileName, columns, rows, createdAt: new Date() }
    await transaction
      .insert(batchLists)
      .values({ batchId, ...kept })
      .onConflictDoUpdate({ target: batchLists.batchId, set: kept })
    await tell(transaction, productionId, `Read in ${fileName} what the receiving room has taken in.`)
  })
}

const isCutList = (fileName: string): boolean =>
  [...cutFormats, aaf].some(({ extension }) => fileName.toLowerCase().endsWith(extension))

/** A room that exports no list of its clips lays them out as a sequence, and exports that. */
async function readCutAsLog({ fileName, content }: { fileName: string; content: string }): Promise<LogTable> {
  const bytes = Buffer.from(content, 'base64')
  const list = isCompoundFile(bytes) ? bytes : decodeText(bytes).text
  // What a source is called is asked of it alone, whatever the rate at which it counts.
  const rate = { numerator: 25, denominator: 1 }
  return logOfCut((await readList({ fileName, content: list, rate, takeGood: true })).cut)
}

/** Forgets the list that was read for a batch. */
export async function forgetTakenIn(database: Database, batchId: string): Promise<void> {
  await database.transaction(async (transaction) => {
    const productionId = await productionOf(transaction, batchId)
    const [list] = await transaction.delete(batchLists).where(eq(batchLists.batchId, batchId)).returning()
    if (list) await tell(transaction, productionId, `Forgot what ${list.fileName} says that was taken in.`)
  })
}

type Transaction = Parameters<Parameters<Database['transaction']>[0]>[0]

async function productionOf(transaction: Transaction, batchId: string): Promise<string> {
  const [batch] = await transaction.select().from(makeBatches).where(eq(makeBatches.id, batchId))
  if (!batch) throw notFound('The batch')
  return batch.productionId
}

async function tell(transaction: Transaction, productionId: string, what: string): Promise<void> {
  await writeHistory(transaction, productionId, 'production', productionId, what)
  await announce(transaction, productionId, 'jobs')
}

/**
 * What a list says of what a batch has made and is in use, by what is known now.
 * @param makes keys of what was made
 */
export function presentTakenIn(
  material: Material,
  list: BatchList,
  makes: ReadonlySet<string>,
): NonNullable<MakeBatch['takenIn']> {
  const items = itemsOfMakes(material, makes).flatMap((made) => placedItem(made) ?? [])
  const nameOf = new Map(items.map(({ id, name }) => [id, name]))
  const table = { columns: list.columns, rows: list.rows, problems: [] }
  const found = readTakenIn(table, items, material.production.proxySuffixes)
  return {
    ...{ fileName: list.fileName, readAt: list.createdAt.toISOString() },
    ...{ of: items.length, seen: found.seen.length, others: found.others },
    differing: found.differing.slice(0, mostNamed).map(({ id, ...rest }) => ({ name: nameOf.get(id) ?? '', ...rest })),
    ...{ differingTotal: found.differing.length, missingTotal: found.missing.length },
    missing: found.missing.slice(0, mostNamed).map((id) => nameOf.get(id) ?? ''),
    unclear: found.unclear.slice(0, mostNamed),
  }
}

/** A made item as a room would list it: by the name that stands in its files, where one does. */
function placedItem({ clip, pair: { id, name, files } }: MadeItem): PlacedItem | null {
  const known = files.flatMap(({ file }) => (file.facts ? [file.facts] : []))
  const main = known.find(({ picture }) => picture !== null)
  if (!main?.picture || known.length !== files.length) return null
  const { rate } = main.picture
  return {
    ...{ id, name: main.materialPackage?.name ?? stem(name), reel: main.reel ?? clip.reel },
    start: main.startFrame === null ? null : formatTimecode(main.startFrame, rate, main.dropFrame),
    fileNames: files.map(({ file }) => basename(file.path)),
    ...{ rate, frames: main.picture.frames, dropFrame: main.dropFrame },
    channels: known.length === 1 ? channelCount(main) : channelCount(clipFacts(known)),
  }
}
