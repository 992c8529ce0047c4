import { decodeText, type LogMatch, type LogTable, matchLog } from '@ennick/core'
import { PlainError } from '../errors.ts'
import { NotRead, readApart } from '../reading/read-apart.ts'
import type { ProductionRow } from '../store/production-row.ts'
import type { IndexRow } from './index-row.ts'

/** A log from the bytes of its file. @throws PlainError when it is none */
export async function readLogFile({ fileName, content }: { fileName: string; content: string }) {
  const decoded = decodeText(Buffer.from(content, 'base64'))
  return { decoded, log: await readLog(fileName, decoded.text) }
}

async function readLog(fileName: string, text: string) {
  try {
    return await readApart('log', { fileName, text })
  } catch (error) {
    if (error instanceof NotRead) throw new PlainError('bad-log', `${fileName} cannot be read: ${error.message}`)
    throw error
  }
}

/** Which clip each row of a log is about, as far as they are known. */
export const matchRows = (table: LogTable, rows: readonly IndexRow[], production: ProductionRow): LogMatch[] =>
  matchLog(
    table,
    rows.map((row) => ({
      id: row.clipId,
      name: row.name,
      reel: row.reel || null,
      start: row.start || null,
      fileNames: [row.fileName],
    })),
    production.proxySuffixes,
  )
