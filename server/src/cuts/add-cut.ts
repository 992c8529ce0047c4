import { type CutFormat, cutFormats, type Rate } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { PlainError } from '../errors.ts'
import { NotRead, readApart } from '../reading/read-apart.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { productionRate, readProduction } from '../store/material.ts'
import { cuts, events } from '../store/schema.ts'
import type { CutRow } from './cut-state.ts'

const eventsAtOnce = 10_000

/** Reads a list and keeps it, whole or not at all. */
export async function addCut(
  database: Database,
  productionId: string,
  fileName: string,
  text: string,
  rate?: Rate,
): Promise<CutRow> {
  const production = await readProduction(database, productionId)
  const { cut, format } = await readList(fileName, text, rate ?? productionRate(production))
  return database.transaction(async (transaction) => {
    const [row] = await transaction
      .insert(cuts)
      .values({
        productionId,
        name: cut.name,
        format: format.name,
        fileName,
        rateNumerator: cut.rate.numerator,
        rateDenominator: cut.rate.denominator,
        dropFrame: cut.dropFrame,
        tracks: [...cut.tracks],
        sourceText: text,
      })
      .returning()
    const cutRow = row as CutRow
    // As one value: a parameter for each of a long list takes seconds to be put together, while nobody else is
    // answered.
    for (let start = 0; start < cut.events.length; start += eventsAtOnce)
      await transaction.execute(
        sql`insert into ${events} (cut_id, position, event) select ${cutRow.id}, ${start}::int + place - 1, event
          from jsonb_array_elements(${JSON.stringify(cut.events.slice(start, start + eventsAtOnce))}::jsonb)
          with ordinality as listed(event, place)`,
      )
    await writeHistory(
      transaction,
      productionId,
      'cut',
      cutRow.id,
      `Read “${cut.name}” from ${fileName}: ${cut.events.length} events on ${cut.tracks.length} tracks.`,
    )
    await announce(transaction, productionId, 'cuts')
    return cutRow
  })
}

async function readList(fileName: string, text: string, rate: Rate) {
  if (text.includes('\0')) throw new PlainError('bad-list', `${fileName} is no text: a list of events is needed.`)
  try {
    const { cut, format } = await readApart('cut', { fileName, text, rate })
    return { cut, format: cutFormats.find(({ id }) => id === format) as CutFormat }
  } catch (error) {
    if (error instanceof NotRead)
      throw new PlainError('bad-list', `${fileName} was not read. ${error.message}`, {
        details: { location: error.location },
      })
    throw error
  }
}
