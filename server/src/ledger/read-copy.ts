import { createHash } from 'node:crypto'
import type { FileHandle } from 'node:fs/promises'
import type { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { type Entry, fromFdPromise, type ZipFile } from 'yauzl'
import type { HeldFolder } from '../disk/held-folder.ts'
import { PlainError } from '../errors.ts'
import { descriptionName, type LedgerDescription, ledgerDescription, tableEntry } from './copy-format.ts'
import { hashed } from './hashed.ts'

/** What `ledger.json` may come to at most: it names tables and productions. */
const mostDescriptionBytes = 16_000_000

/** Does something with the rows of one table, as they are written in its file. */
export type TakeTable = (table: LedgerDescription['tables'][number], rows: Readable) => Promise<void>

/**
 * Reads a copy of the ledger from its first byte to its last, and holds each table against the sum that stands in it.
 * @param take what is done with each table, in the order of the file; whatever it did is void when this throws
 * @throws PlainError when it is no copy of a ledger, or not whole
 */
export async function readLedgerCopy(
  folder: HeldFolder,
  name: string,
  take: TakeTable = async (_table, rows) => void (await pipeline(rows, async (all) => drain(all))),
): Promise<LedgerDescription> {
  return opened(folder, name, (file) => readOpen(file, take))
}

async function opened<T>(folder: HeldFolder, name: string, task: (file: FileHandle) => Promise<T>): Promise<T> {
  const file = await folder.open(name)
  try {
    return await task(file)
  } catch (error) {
    if (error instanceof PlainError || (error as { code?: string }).code) throw error
    throw notWhole(name, (error as Error).message)
  } finally {
    await file.close()
  }
}

/**
 * What a copy of the ledger says of itself; its tables are not read.
 * @throws PlainError when it is no copy of a ledger
 */
export function describeLedgerCopy(folder: HeldFolder, name: string): Promise<LedgerDescription> {
  return opened(folder, name, async (file) => {
    const { zip, entries } = await openZip(file)
    return readDescription(zip, entries.get(descriptionName))
  })
}

async function drain(rows: AsyncIterable<unknown>): Promise<void> {
  for await (const _ of rows);
}

const notWhole = (name: string, reason: string): PlainError =>
  new PlainError('no-ledger-copy', `${name} is no copy of a ledger, or not all of one: ${reason}`)

async function readOpen(file: FileHandle, take: TakeTable): Promise<LedgerDescription> {
  const { zip, entries } = await openZip(file)
  const description = await readDescription(zip, entries.get(descriptionName))
  for (const table of description.tables) {
    const entry = entries.get(tableEntry(table.name))
    if (!entry) throw new Error(`table ${table.name} is not in it.`)
    const hash = createHash('sha256')
    const through = hashed(hash)
    const source = await zip.openReadStreamPromise(entry)
    await Promise.all([pipeline(source, through), take(table, through)])
    if (hash.digest('hex') !== table.sha256) throw new Error(`table ${table.name} is not what was written.`)
  }
  return description
}

async function openZip(file: FileHandle): Promise<{ zip: ZipFile; entries: Map<string, Entry> }> {
  const zip = await fromFdPromise(file.fd, { autoClose: false })
  const entries = new Map<string, Entry>()
  for await (const entry of zip.eachEntry()) entries.set(entry.fileName, entry)
  return { zip, entries }
}

async function readDescription(zip: ZipFile, entry: Entry | undefined): Promise<LedgerDescription> {
  if (!entry || entry.uncompressedSize > mostDescriptionBytes) throw new Error(`it has no ${descriptionName}.`)
  const chunks: Buffer[] = []
  for await (const chunk of await zip.openReadStreamPromise(entry)) chunks.push(chunk)
  const said = ledgerDescription.safeParse(JSON.parse(Buffer.concat(chunks).toString('utf8')))
  if (!said.success) throw new Error(`its ${descriptionName} says other things than one of this version of Ennick.`)
  return said.data
}
