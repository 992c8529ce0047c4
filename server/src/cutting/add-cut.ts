import { type CutEvent, CutFormatError, type Rate, recogniseCutFormat } from '@ennick/core'
import { PlainError } from '../errors.ts'
import { announce } from '../store/announce.ts'
import type { Database } from '../store/database.ts'
import { record } from '../store/history.ts'
import { cuts, events } from '../store/schema.ts'
import { productionRate, readProduction } from '../store/world.ts'
import type { CutRow } from './cut-state.ts'

/** Reads a list and keeps it, whole or not at all. */
export async function addCut(database: Database, productionId: string, fileName: string, text: string, rate?: Rate): Promise<CutRow> {
  const production = await readProduction(database, productionId)
  const { cut, format } = readList(fileName, text, rate ?? productionRate(production))
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
    for (let start = 0; start < cut.events.length; start += 1000) {
      await transaction
        .insert(events)
        .values(cut.events.slice(start, start + 1000).map((event, index) => ({ cutId: cutRow.id, position: start + index, event })))
    }
    await record(
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

function readList(fileName: string, text: string, rate: Rate) {
  if (text.includes('\0')) throw new PlainError('bad-list', `${fileName} is no text: a list of events is needed.`)
  try {
    const format = recogniseCutFormat(fileName, text)
    const cut = format.read(text, { rate, fileName })
    for (const event of cut.events) assertPlainText(event)
    return { format, cut }
  } catch (error) {
    if (error instanceof CutFormatError)
      throw new PlainError('bad-list', `${fileName} was not read. ${error.message}`, { details: { location: error.location } })
    throw error
  }
}

/** A list may smuggle in, by escapes, what no text is: a zero character or half of a character pair. */
function assertPlainText(event: CutEvent): void {
  for (const value of [event.clipName, event.reel, event.path, ...event.notes]) {
    if (value !== null && (value.includes('\0') || !isWellFormed(value)))
      throw new CutFormatError(event.location, 'a name or path in it holds characters that are no text.')
  }
}

/** Half a pair is replaced when a text is encoded: then it does not come back the same. */
const isWellFormed = (value: string): boolean => Buffer.from(value).toString() === value
