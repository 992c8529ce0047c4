import { basename } from 'node:path'
import { findReelOverlaps, type Notice, overlapNotice } from '@ennick/core'
import { eq, getTableColumns, inArray, sql } from 'drizzle-orm'
import { countUses, readAllCutStates } from '../cutting/cut-state.ts'
import { clipIndex, clipStaleness, decodeSpeeds } from '../store/catalogue-schema.ts'
import type { Database, Queryable } from '../store/database.ts'
import { productionRate, readWorld, type World } from '../store/world.ts'
import { type IndexContext, type IndexRow, indexRow } from './index-row.ts'
import { streamsAtOnce } from './streams.ts'

/** A change announced to more clips than this is as dear to follow one by one as to read all. */
const mostOneByOne = 3000

/**
 * Brings a production's index up to date: rows that a change has touched are derived anew, the rest is left alone.
 * Whoever reads the index calls this first, so that it never shows what was.
 */
export async function freshenIndex(database: Database, productionId: string): Promise<void> {
  const [waiting] = await database
    .select({ id: clipStaleness.id })
    .from(clipStaleness)
    .where(eq(clipStaleness.productionId, productionId))
    .limit(1)
  if (!waiting) return
  await database.transaction(async (transaction) => {
    // One at a time for each production: a second reader waits, and then finds nothing left to do.
    await transaction.execute(sql`select pg_advisory_xact_lock(46002, hashtext(${productionId}))`)
    const stale = await transaction
      .delete(clipStaleness)
      .where(eq(clipStaleness.productionId, productionId))
      .returning({ clipId: clipStaleness.clipId })
    if (stale.length === 0) return
    const clipIds = [...new Set(stale.map((row) => row.clipId))]
    if (clipIds.includes(null) || clipIds.length > mostOneByOne) await indexAll(transaction, productionId)
    else await indexSome(transaction, productionId, clipIds as string[])
  })
}

async function indexAll(database: Queryable, productionId: string): Promise<void> {
  const world = await readWorld(database, productionId)
  const uses = countUses(await readAllCutStates(database, world))
  const overlaps = overlapsByClip(world)
  const marks = new Map(
    (
      await database.select({ id: clipIndex.clipId, mark: clipIndex.mark }).from(clipIndex).where(eq(clipIndex.productionId, productionId))
    ).map((row) => [row.id, row.mark]),
  )
  const rows = await buildRows(database, world, (clipId) => ({ uses: uses.get(clipId) ?? 0, overlaps: overlaps.get(clipId) ?? [] }))
  await writeRows(
    database,
    rows.filter((row) => marks.get(row.clipId) !== row.mark),
  )
}

/** The clips alone; how often cuts use them and what their reels overlap with does not follow from them and stays. */
async function indexSome(database: Queryable, productionId: string, clipIds: readonly string[]): Promise<void> {
  const world = await readWorld(database, productionId, clipIds)
  const before = new Map(
    (
      await database
        .select()
        .from(clipIndex)
        .where(inArray(clipIndex.clipId, [...clipIds]))
    ).map((row) => [row.clipId, row]),
  )
  const overlap: Notice = { kind: 'reel overlap', message: '' }
  const rows = await buildRows(database, world, (clipId) => ({
    uses: before.get(clipId)?.uses ?? 0,
    overlaps: before.get(clipId)?.notice.includes(overlap.kind) ? [overlap] : [],
  }))
  await writeRows(database, rows)
}

/** What overlapping reels say to each of the clips of a world. */
export function overlapsByClip(world: World): Map<string, Notice[]> {
  const clips = [...world.clips.values()].flatMap((clip) => {
    const { facts, path } = clip.main
    return facts?.kind === 'picture' && facts.picture
      ? [
          {
            id: clip.id,
            name: basename(path),
            reel: clip.reel,
            startFrame: facts.startFrame,
            frames: facts.picture.frames,
            rate: facts.picture.rate,
            dropFrame: facts.dropFrame,
          },
        ]
      : []
  })
  const byClip = new Map<string, Notice[]>()
  for (const overlap of findReelOverlaps(clips)) {
    for (const { id } of [overlap.first, overlap.second]) byClip.set(id, [...(byClip.get(id) ?? []), overlapNotice(overlap, id)])
  }
  return byClip
}

async function buildRows(
  database: Queryable,
  world: World,
  context: (clipId: string) => Pick<IndexContext, 'uses' | 'overlaps'>,
): Promise<IndexRow[]> {
  const speeds = new Map((await database.select().from(decodeSpeeds)).map((row) => [row.fingerprint, row.framesPerSecond]))
  const rate = productionRate(world.production)
  const today = new Date().toISOString().slice(0, 10)
  return [...world.clips.values()].map((clip) => {
    const speed = speeds.get(clip.main.fingerprint)
    return indexRow(clip, { ...context(clip.id), rate, today, plays: speed === undefined ? null : streamsAtOnce(clip.main.facts, speed) })
  })
}

const columnNames = Object.entries(getTableColumns(clipIndex)).map(([key, column]) => [key as keyof IndexRow, column.name] as const)

/** A row under the names of its columns. */
function namedByColumn(row: IndexRow): Record<string, unknown> {
  const named: Record<string, unknown> = {}
  for (const [key, name] of columnNames) named[name] = row[key]
  return named
}

/** So many new rows make the planner's idea of the table wrong. */
const manyRows = 2000

async function writeRows(database: Queryable, rows: readonly IndexRow[]): Promise<void> {
  const assignments = columnNames
    .filter(([key]) => key !== 'clipId')
    .map(([, name]) => sql`${sql.identifier(name)} = excluded.${sql.identifier(name)}`)
  for (let index = 0; index < rows.length; index += 2000) {
    const records = rows.slice(index, index + 2000).map(namedByColumn)
    await database.execute(
      sql`insert into ${clipIndex} select * from jsonb_populate_recordset(null::clip_index, ${JSON.stringify(records)}::jsonb) on conflict (clip_id) do update set ${sql.join(assignments, sql`, `)}`,
    )
  }
  if (rows.length >= manyRows) await database.execute(sql`analyze ${clipIndex}`)
}
