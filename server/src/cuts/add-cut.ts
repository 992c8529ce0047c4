import { type Cut, count, formatNumber, type ListContent, type Rate } from '@ennick/core'
import { sql } from 'drizzle-orm'
import { type ReadList, readList } from '../reading/read-list.ts'
import { announce } from '../store/announce.ts'
import type { Database, Queryable } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { Material } from '../store/known-material.ts'
import { productionRate, readProduction } from '../store/production-row.ts'
import { type CutBesides, cuts, events } from '../store/schema.ts'
import { type CutRow, cutColumns } from './cut-state.ts'
import { carryOver, placeInLine } from './next-version.ts'

const eventsAtOnce = 10_000

export interface NewCut {
  readonly fileName: string
  readonly content: ListContent
  /** At which a list counts that states none. */
  readonly rate?: Rate | undefined
  /** The cut of which this is the next version. */
  readonly nextOf?: string | undefined
  /** Takes the good events of a list that has bad ones. */
  readonly takeGood?: boolean | undefined
}

/** Reads a list and keeps it, whole or not at all; as the next version of a cut, with what was decided for that. */
export async function addCut(
  database: Database,
  kept: Pick<KeptMaterial, 'read'>,
  productionId: string,
  { fileName, content, rate, nextOf, takeGood = false }: NewCut,
): Promise<CutRow> {
  const production = await readProduction(database, productionId)
  const list = await readList({ fileName, content, rate: rate ?? productionRate(production), takeGood })
  const material = nextOf === undefined ? null : await kept.read(productionId)
  return database.transaction(async (transaction) => {
    const line = nextOf === undefined ? null : await placeInLine(transaction, productionId, nextOf)
    return keepList(transaction, productionId, list, line && material && { ...line, material })
  })
}

/**
 * Keeps a list as a cut.
 * @param line where it stands in its line of versions, if it is the next of one, with the material that says what of
 * the version before goes over
 */
export async function keepList(
  transaction: Queryable,
  productionId: string,
  { fileName, content, cut, format }: ReadList,
  line: { lineId: string; version: number; before: CutRow; material: Material } | null,
): Promise<CutRow> {
  const [row] = await transaction
    .insert(cuts)
    .values({
      productionId,
      name: cut.name,
      format,
      fileName,
      rateNumerator: cut.rate.numerator,
      rateDenominator: cut.rate.denominator,
      dropFrame: cut.dropFrame,
      tracks: [...cut.tracks],
      ...(typeof content === 'string' ? { sourceText: content } : { sourceBytes: content }),
      besides: besidesOf(cut),
      leftOut: [...(cut.leftOut ?? [])],
      ...(line && { lineId: line.lineId, version: line.version }),
    })
    .returning(cutColumns)
  const cutRow = row as CutRow
  // As one value: a parameter for each of a long list takes seconds to be put together, while nobody else is
  // answered.
  for (let start = 0; start < cut.events.length; start += eventsAtOnce)
    await transaction.execute(
      sql`insert into ${events} (cut_id, position, event) select ${cutRow.id}, ${start}::int + place - 1, event
        from jsonb_array_elements(${JSON.stringify(cut.events.slice(start, start + eventsAtOnce))}::jsonb)
        with ordinality as listed(event, place)`,
    )
  const carried = line && (await carryOver(transaction, line.before, cutRow, line.material))
  const asVersion = line ? ` as version ${line.version} of “${line.before.name}”` : ''
  const size = `${count(cut.events.length, 'event')} on ${count(cut.tracks.length, 'track')}`
  const told = [
    `Read “${cut.name}” from ${fileName}${asVersion}: ${size}.`,
    cut.leftOut?.length ? `${formatNumber(cut.leftOut.length)} bad lines or parts were left out.` : '',
    carried?.choices ? `${count(carried.choices, 'choice')} went over from the version before.` : '',
    carried?.decisions ? `${count(carried.decisions, 'decision')} went over from the version before.` : '',
    carried?.lapsed
      ? `${count(carried.lapsed, 'decision')} of it did not: more is used now than was decided upon.`
      : '',
  ]
  await writeHistory(transaction, productionId, 'cut', cutRow.id, told.filter(Boolean).join(' '))
  await announce(transaction, productionId, 'cuts')
  return cutRow
}

function besidesOf(cut: Cut): CutBesides {
  const { raster, markers, generators, carried, recordStartFrame, nestedSequences } = cut
  return {
    ...(raster && { raster }),
    ...(markers && { markers }),
    ...(generators && { generators }),
    ...(carried && { carried }),
    ...(recordStartFrame !== undefined && { recordStartFrame }),
    ...(nestedSequences !== undefined && { nestedSequences }),
  }
}
