import { createHash, type Hash } from 'node:crypto'
import type { FileHandle } from 'node:fs/promises'
import { hostname } from 'node:os'
import { Readable } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import { setTimeout } from 'node:timers/promises'
import pg from 'pg'
import { type CopyToStreamQuery, to as copyTo } from 'pg-copy-streams'
import { ZipFile } from 'yazl'
import type { HeldFolder } from '../disk/held-folder.ts'
import { copyName, descriptionName, type LedgerDescription, tableEntry, tablesQuery } from './copy-format.ts'
import { hashed } from './hashed.ts'
import { placeCopy } from './place-copy.ts'

/**
 * Copies the whole ledger, as it is at one moment, into a folder: work goes on beside it.
 * @param options.signal ends it
 * @returns its name
 * @throws as the disk does when there is no room; what was begun is removed
 */
export async function writeLedgerCopy(
  pool: pg.Pool,
  folder: HeldFolder,
  { madeAt: wanted, signal }: { madeAt?: Date; signal?: AbortSignal } = {},
): Promise<string> {
  let madeAt = wanted ?? new Date()
  // Names go by the second.
  while (wanted === undefined && (await folder.look(copyName(madeAt)))) {
    await setTimeout(1000 - (Date.now() % 1000), undefined, { signal })
    madeAt = new Date()
  }
  const name = copyName(madeAt)
  await placeCopy(folder, name, (file) => writeInto(pool, file, { madeAt, signal }))
  return name
}

/** A table on its way, and the sum over its bytes. */
interface Sent {
  readonly table: { readonly name: string; readonly columns: string[] }
  readonly rows: CopyToStreamQuery
  readonly hash: Hash
}

async function writeInto(
  pool: pg.Pool,
  file: FileHandle,
  { madeAt, signal }: { madeAt: Date; signal: AbortSignal | undefined },
): Promise<void> {
  const client = await pool.connect()
  let isWell = false
  try {
    await client.query('begin isolation level repeatable read read only')
    const tables: Sent['table'][] = (await client.query(tablesQuery)).rows
    const sent: Sent[] = []
    const zip = new ZipFile()
    const stop = new AbortController()
    zip.on('error', (error: Error) => stop.abort(error))
    signal?.addEventListener('abort', () => stop.abort(signal.reason), { once: true })
    const options = { mtime: madeAt }
    for (const table of tables)
      zip.addReadStreamLazy(tableEntry(table.name), options, (give) => {
        const hash = createHash('sha256')
        const [name, ...columns] = [table.name, ...table.columns].map(pg.escapeIdentifier)
        const rows = client.query(copyTo(`copy ${name} (${columns.join(', ')}) to stdout (format csv, header)`))
        sent.push({ table, rows, hash })
        const through = hashed(hash)
        rows.on('error', (error) => through.destroy(error))
        give(null, rows.pipe(through))
      })
    zip.addReadStreamLazy(descriptionName, options, (give) => {
      describeLedger(client, sent, madeAt).then(
        (description) => give(null, Readable.from([`${JSON.stringify(description, null, 2)}\n`])),
        (error: Error) => stop.abort(error),
      )
    })
    zip.end()
    // On the disk, and closed, when it has ended.
    await pipeline(zip.outputStream, file.createWriteStream({ flush: true }), { signal: stop.signal }).catch(
      (error) => {
        throw stop.signal.aborted ? stop.signal.reason : error
      },
    )
    await client.query('commit')
    isWell = true
  } finally {
    // What a failure left half sent on it is in nobody's way when the connection is closed.
    client.release(!isWell)
  }
}

async function describeLedger(client: pg.PoolClient, sent: readonly Sent[], madeAt: Date): Promise<LedgerDescription> {
  // Answered behind all that was asked before: by now each knows how many rows it was.
  const migrations = await client.query('select created_at from drizzle.__drizzle_migrations order by created_at')
  // A ledger of an older version knows of no trials.
  const productions = await client.query(
    `select name from productions as own where to_jsonb(own) ->> 'trial_of' is null order by created_at, name`,
  )
  return {
    format: 'ennick ledger 1',
    madeAt: madeAt.toISOString(),
    host: hostname(),
    migrations: migrations.rows.map((row) => Number(row.created_at)),
    productions: productions.rows.map((row) => row.name),
    tables: sent.map(({ table, rows, hash }) => ({ ...table, rows: rows.rowCount, sha256: hash.digest('hex') })),
  }
}
