import { basename } from 'node:path'
import { describePictureCodec, findReelOverlaps, latestDate, type Notice, overlapNotice } from '@ennick/core'
import { eq, getTableColumns, sql } from 'drizzle-orm'
import { anyOf } from '../store/any-of.ts'
import { clipIndex, clipStaleness, decodeSpeeds } from '../store/catalogue-schema.ts'
import type { Database, Queryable } from '../store/database.ts'
import { holdIndex } from '../store/hold-index.ts'
import type { KeptMaterial } from '../store/kept-material.ts'
import type { Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { productionRate } from '../store/production-row.ts'
import { clips } from '../store/schema.ts'
import { type IndexContext, type IndexRow, indexRow } from './index-row.ts'
import { streamsAtOnce } from './streams.ts'
import { usesOfClips } from './uses.ts'

/** A change announced to more clips than this is as dear to follow one by one as to read all. */
const mostOneByOne = 3000

/**
 * Brings a production's index up to date: rows that a change has touched are derived anew, the rest is left alone.
 * Whoever reads the index calls this first, so that it never shows what was.
 * @param kept where the material of all of the production may be taken from
 */
export async function refreshIndex(database: Database, productionId: string, kept?: KeptMaterial): Promise<void> {
  const [waiting] = await database
    .select({ id: clipStaleness.id })
    .from(clipStaleness)
    .where(eq(clipStaleness.productionId, productionId))
    .limit(1)
  if (!waiting) return
  await database.transaction(async (transaction) => {
    // One at a time for each production: a second reader waits, and then finds nothing left to do.
    await holdIndex(transaction, productionId)
    const stale = await transaction
      .delete(clipStaleness)
      .where(eq(clipStaleness.productionId, productionId))
      .returning({ clipId: clipStaleness.clipId })
    if (stale.length === 0) return
    const clipIds = [...new Set(stale.map((row) => row.clipId))]
    if (clipIds.includes(null) || clipIds.length > mostOneByOne) await indexAll(transaction, productionId, kept)
    else await indexSome(transaction, productionId, clipIds as string[])
  })
}

/** The index of a production as it is now. */
export async function readIndex(database: Database, productionId: string): Promise<IndexRow[]> {
  await refreshIndex(database, productionId)
  return database.select().from(clipIndex).where(eq(clipIndex.productionId, productionId))
}

async function indexAll(database: Queryable, productionId: string, kept?: KeptMaterial): Promise<void> {
  const material = await (kept?.read(productionId) ?? readMaterial(database, productionId))
  const uses = await usesOfClips.given(database, material)
  const overlaps = overlapsByClip(material)
  const marks = new Map(
    (
      await database
        .select({ id: clipIndex.clipId, mark: clipIndex.mark })
        .from(clipIndex)
        .where(eq(clipIndex.productionId, productionId))
    ).map((row) => [row.id, row.mark]),
  )
  const rows = await buildRows(database, material, (clipId) => ({
    uses: uses.count(clipId),
    overlaps: overlaps.get(clipId) ?? [],
  }))
  await writeRows(
    database,
    rows.filter((row) => marks.get(row.clipId) !== row.mark),
  )
  await dropRows(
    database,
    [...marks.keys()].filter((id) => !material.clips.has(id)),
  )
}

/** The clips alone; how often cuts use them and what their reels overlap with does not follow from them and stays. */
async function indexSome(database: Queryable, productionId: string, clipIds: readonly string[]): Promise<void> {
  const material = await readMaterial(database, productionId, clipIds)
  const before = new Map(
    (await database.select().from(clipIndex).where(anyOf(clipIndex.clipId, clipIds))).map((row) => [row.clipId, row]),
  )
  const overlap: Notice = { kind: 'reel overlap', message: '' }
  const rows = await buildRows(database, material, (clipId) => ({
    uses: before.get(clipId)?.uses ?? 0,
    overlaps: before.get(clipId)?.notice.includes(overlap.kind) ? [overlap] : [],
  }))
  await writeRows(database, rows)
  await dropRows(
    database,
    clipIds.filter((id) => !material.clips.has(id)),
  )
}

/** Clips that were taken out of the production are listed no more. */
const dropRows = (database: Queryable, clipIds: readonly string[]): Promise<unknown> =>
  clipIds.length ? database.delete(clipIndex).where(anyOf(clipIndex.clipId, clipIds)) : Promise.resolve()

/** What overlapping reels say to each of the clips of a production. */
export function overlapsByClip(material: Material): Map<string, Notice[]> {
  const clips = [...material.clips.values()].flatMap((clip) => {
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
            look: `${facts.picture.width}×${facts.picture.height} ${describePictureCodec(facts.picture)}`,
          },
        ]
      : []
  })
  const byClip = new Map<string, Notice[]>()
  for (const overlap of findReelOverlaps(clips)) {
    for (const { id } of [overlap.first, overlap.second])
      byClip.set(id, [...(byClip.get(id) ?? []), overlapNotice(overlap, id)])
  }
  return byClip
}

async function buildRows(
  database: Queryable,
  material: Material,
  context: (clipId: string) => Pick<IndexContext, 'uses' | 'overlaps'>,
): Promise<IndexRow[]> {
  const speeds = new Map(
    (await database.select().from(decodeSpeeds)).map((row) => [row.fingerprint, row.framesPerSecond]),
  )
  const rate = productionRate(material.production)
  const today = latestDate(new Date())
  return [...material.clips.values()].map((clip) => {
    const speed = speeds.get(clip.main.fingerprint)
    return indexRow(clip, {
      ...context(clip.id),
      rate,
      today,
      plays: speed === undefined ? null : streamsAtOnce(clip.main.facts, speed),
    })
  })
}

const columnNames = Object.entries(getTableColumns(clipIndex)).map(
  ([key, column]) => [key as keyof IndexRow, column.name] as const,
)

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
    const some = rows.slice(index, index + 2000)
    const ids = some.map((row) => row.clipId)
    // A clip may have been removed since it was read, as the undo of a mend does: it is not listed any more.
    await database.execute(
      sql`with living as (select id from clips where ${anyOf(clips.id, ids)} for key share) insert into ${clipIndex}
        select * from jsonb_populate_recordset(null::clip_index, ${JSON.stringify(some.map(namedByColumn))}::jsonb)
        where clip_id in (select id from living) on conflict (clip_id) do update set ${sql.join(assignments, sql`, `)}`,
    )
  }
  if (rows.length >= manyRows) await database.execute(sql`analyze ${clipIndex}`)
}
