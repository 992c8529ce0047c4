import { groupBy, pixelAspectField, soundLinkKey, takenOutKey } from '@ennick/core'
import { eq, inArray, sql } from 'drizzle-orm'
import { announce, announceClips } from '../store/announce.ts'
import { type DescribedValue, editChanges, edits } from '../store/catalogue-schema.ts'
import type { Transaction } from '../store/database.ts'
import { writeHistory } from '../store/history.ts'
import { clips } from '../store/schema.ts'

/** One cell before and after; null for an empty one. */
export interface CellChange {
  readonly clipId: string
  readonly field: string
  readonly before: DescribedValue | null
  readonly after: DescribedValue | null
}

const cellsAtOnce = 5000

/** Writes cells, and nothing else. */
export async function writeCells(transaction: Transaction, changes: readonly CellChange[]): Promise<void> {
  for (const [field, ofField] of groupBy(changes, (change) => change.field)) {
    for (let index = 0; index < ofField.length; index += cellsAtOnce) {
      const cells = JSON.stringify(
        ofField.slice(index, index + cellsAtOnce).map(({ clipId, after }) => ({ clip_id: clipId, after })),
      )
      const rows = sql`jsonb_to_recordset(${cells}::jsonb) as cell(clip_id uuid, after jsonb)`
      // A JSON null arrives as one, not as a missing value.
      const isEmpty = sql`(cell.after is null or cell.after = 'null'::jsonb)`
      await transaction.execute(
        field === 'reel'
          ? sql`update ${clips} set reel = cell.after->>'value', reel_from = cell.after->>'from' from ${rows}
            where ${clips.id} = cell.clip_id`
          : sql`update ${clips}
            set described = case when ${isEmpty} then ${clips.described} - ${field}::text else jsonb_set(${clips.described}, array[${field}::text], cell.after) end
            from ${rows} where ${clips.id} = cell.clip_id`,
      )
    }
  }
}

/** What some cells hold now. */
export async function readCells(
  transaction: Transaction,
  cells: readonly { clipId: string; field: string }[],
): Promise<(cell: { clipId: string; field: string }) => DescribedValue | null> {
  const ids = [...new Set(cells.map((cell) => cell.clipId))]
  const rows = new Map<string, Pick<typeof clips.$inferSelect, 'reel' | 'reelFrom' | 'described'>>()
  for (let index = 0; index < ids.length; index += cellsAtOnce) {
    const some = await transaction
      .select({ id: clips.id, reel: clips.reel, reelFrom: clips.reelFrom, described: clips.described })
      .from(clips)
      .where(inArray(clips.id, ids.slice(index, index + cellsAtOnce)))
    for (const row of some) rows.set(row.id, row)
  }
  return ({ clipId, field }) => {
    const row = rows.get(clipId)
    if (!row) return null
    if (field === 'reel') return row.reel === null ? null : { value: row.reel, from: row.reelFrom ?? 'person' }
    return row.described[field] ?? null
  }
}

/**
 * Writes cells as one edit that can be taken back. A new edit ends what could have been done again.
 */
export async function writeEdit(
  transaction: Transaction,
  productionId: string,
  title: string,
  changes: readonly CellChange[],
): Promise<void> {
  if (changes.length === 0) return
  await transaction.delete(edits).where(sql`${edits.productionId} = ${productionId} and ${edits.state} = 'undone'`)
  const [edit] = await transaction.insert(edits).values({ productionId, title }).returning({ id: edits.id })
  await writeCells(transaction, changes)
  for (let index = 0; index < changes.length; index += cellsAtOnce) {
    await transaction
      .insert(editChanges)
      .select(
        sql`select ${edit?.id}::bigint, cell.clip_id, cell.field, nullif(cell.before, 'null'::jsonb), nullif(cell.after, 'null'::jsonb) from jsonb_to_recordset(${JSON.stringify(
          changes
            .slice(index, index + cellsAtOnce)
            .map(({ clipId, field, before, after }) => ({ clip_id: clipId, field, before, after })),
        )}::jsonb) as cell(clip_id uuid, field text, before jsonb, after jsonb)`,
      )
  }
  await writeHistory(transaction, productionId, 'clips', null, `${title}.`)
  await announceCells(transaction, productionId, changes)
}

/** What changes how pairs compare and what cuts need: a synced recording, and the shape of pixels. */
const changingLinks = new Set([soundLinkKey, pixelAspectField])
/** What changes what cuts and pairs find: reels, and whether a clip is there at all. */
const changingAll = new Set(['reel', takenOutKey])

export async function announceCells(
  transaction: Transaction,
  productionId: string,
  changes: readonly CellChange[],
): Promise<void> {
  if (changes.some(({ field }) => changingAll.has(field)))
    await announce(transaction, productionId, 'clips', 'catalogue', 'pairs', 'cuts', 'volumes')
  else
    await announceClips(
      transaction,
      productionId,
      [...new Set(changes.map((change) => change.clipId))],
      'clips',
      'catalogue',
      ...(changes.some(({ field }) => changingLinks.has(field)) ? (['pairs', 'cuts'] as const) : []),
    )
}

/** Every cell that an edit changed. */
export async function readChanges(transaction: Transaction, editId: number): Promise<CellChange[]> {
  const rows = await transaction.select().from(editChanges).where(eq(editChanges.editId, editId))
  return rows.map(({ clipId, field, before, after }) => ({ clipId, field, before, after }))
}
