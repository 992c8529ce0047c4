import { basename } from 'node:path'
import { groupBy, normalName, removableKinds } from '@ennick/core'
import { and, asc, eq, isNotNull, isNull, ne, not, notExists, type SQL, sql } from 'drizzle-orm'
import { clipCopies } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import { type KnownFile, placeFile, type VolumeRow } from '../store/material.ts'
import { clipFiles, clips, files, volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'
import { isTakenOut } from '../store/taken-out.ts'

/** A file of an original that is gone or away, and one of the very same content that is here and that no clip claims. */
export interface LostHere {
  readonly clipId: string
  readonly name: string
  readonly ordinal: number
  readonly lost: KnownFile
  readonly there: KnownFile
}

/** Files of originals that are gone and whose content lies on a volume, below a folder of it or anywhere on it. */
export async function readLostHere(
  database: Queryable,
  { id, productionId }: VolumeRow,
  folder: string | null,
): Promise<readonly LostHere[]> {
  const onIt = folder === null ? eq(volumes.id, id) : (and(eq(volumes.id, id), below(folder)) as SQL)
  return readSameContent(database, productionId, eq(files.isGone, true), onIt)
}

const below = (folder: string): SQL => sql`starts_with(${files.path}, ${`${folder}/`})`

/**
 * Originals that a volume knows at another place than where they are: those that are gone and whose content lies on it,
 * as when a folder of it was renamed; of one that is away those whose content is on others that stay. What only a card
 * holds is offloaded, not pointed at.
 */
export async function readMoved(database: Queryable, volume: VolumeRow): Promise<readonly LostHere[]> {
  const { id, productionId, isHere, kind } = volume
  if (!isHere) {
    const onIt = and(eq(files.volumeId, id), eq(files.isGone, false)) as SQL
    return readSameContent(database, productionId, onIt, and(ne(volumes.id, id), stays(volumes.kind)) as SQL)
  }
  const found = await readLostHere(database, volume, null)
  return removableKinds.has(kind) ? found.filter(({ lost }) => lost.volumeId === id) : found
}

/** Files of clips that fulfil a condition, each with one of its content on a volume that is here and fulfils another. */
async function readSameContent(
  database: Queryable,
  productionId: string,
  isLost: SQL,
  isThere: SQL,
): Promise<LostHere[]> {
  const lost = await database
    .select({ clip: clips, ordinal: clipFiles.ordinal, file: files, volume: volumes })
    .from(clipFiles)
    .innerJoin(clips, eq(clips.id, clipFiles.clipId))
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(and(eq(clips.productionId, productionId), not(isTakenOut), isLost))
    .orderBy(asc(clips.name), asc(clips.id), asc(clipFiles.ordinal))
  if (lost.length === 0) return []
  const wanted = sql.param([...new Set(lost.map(({ file }) => file.fingerprint))])
  const there = await database
    .select({ file: files, volume: volumes })
    .from(files)
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(
      and(
        ...[eq(volumes.productionId, productionId), eq(volumes.isHere, true), ne(volumes.kind, 'made'), isThere],
        ...[
          eq(files.isGone, false),
          isNotNull(files.facts),
          isNull(files.problem),
          sql`${files.fingerprint} = any(${wanted}::text[])`,
        ],
        notExists(database.select({ id: clipFiles.fileId }).from(clipFiles).where(eq(clipFiles.fileId, files.id))),
        sql`not exists (select from ${clipCopies} where file_id = ${files.id} and is_unlike)`,
      ),
    )
    .orderBy(asc(files.path), asc(files.id))
  const free = groupBy(there, ({ file }) => file.fingerprint)
  return lost.flatMap(({ clip, ordinal, file, volume }): LostHere[] => {
    const alike = free.get(file.fingerprint) ?? []
    const fits = alike.filter((other) => isAlike(other.file, file))
    // Of several files of one content any will do; that of the same name is it.
    const next = fits.find((other) => nameOf(other.file) === nameOf(file)) ?? fits[0]
    if (!next) return []
    alike.splice(alike.indexOf(next), 1)
    return [
      {
        ...{ clipId: clip.id, name: clip.name, ordinal, lost: placeFile(file, volume) },
        there: placeFile(next.file, next.volume),
      },
    ]
  })
}

/** Of each volume, how many originals it knows at another place than where they are. */
export async function countMoved(database: Queryable, productionId: string): Promise<ReadonlyMap<string, number>> {
  const lies = sql`lies.id`
  const { rows } = await database.execute<{ volume_id: string; moved: number }>(sql`
    select volume_id, least(count(distinct clip_id), count(distinct file_id))::int as moved from (
      select case when own.is_gone then ${lies} else home.id end as volume_id, link.clip_id, other.id as file_id
      from ${clipFiles} link join ${clips} on ${clips.id} = link.clip_id
        join files own on own.id = link.file_id join volumes home on home.id = own.volume_id
        join files other on other.fingerprint = own.fingerprint and other.size_bytes = own.size_bytes
          and (other.sequence is null) = (own.sequence is null)
        join volumes lies on ${lies} = other.volume_id and lies.production_id = ${clips.productionId}
      where ${clips.productionId} = ${productionId} and not ${isTakenOut} and (own.is_gone or not home.is_here)
        and lies.is_here and lies.kind <> 'made' and not other.is_gone and other.facts is not null
        and other.problem is null and not exists (select from clip_files claimed where claimed.file_id = other.id)
        and not exists (select from ${clipCopies} copy where copy.file_id = other.id and copy.is_unlike)
        and (case when own.is_gone then ${stays(sql`lies.kind`)} or ${lies} = home.id
          else ${stays(sql`lies.kind`)} and ${lies} <> home.id end)
    ) found group by volume_id`)
  return new Map(rows.map((row) => [row.volume_id, row.moved]))
}

type FileRow = typeof files.$inferSelect
const nameOf = ({ path }: FileRow): string => normalName(basename(path))
const isAlike = (a: FileRow, b: FileRow): boolean =>
  a.sizeBytes === b.sizeBytes && (a.sequence === null) === (b.sequence === null)
