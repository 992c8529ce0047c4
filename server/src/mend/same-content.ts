import { basename } from 'node:path'
import { groupBy, normalName } from '@ennick/core'
import { type SQL, sql } from 'drizzle-orm'
import { anyOf } from '../store/any-of.ts'
import { clipCopies } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import type { KnownFile, VolumeRow } from '../store/known-material.ts'
import { placeFile } from '../store/place-file.ts'
import { clipFiles, clips, files, volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'
import { isTakenOut } from '../store/taken-out.ts'

/** A file of an original that is gone or away, and one of the same content that is here and that no clip claims. */
export interface LostHere {
  readonly clipId: string
  readonly name: string
  readonly ordinal: number
  readonly lost: KnownFile
  readonly there: KnownFile
}

/**
 * Every file of an original that is gone or away, beside every file of its content that is here and of no clip. Its
 * content is what it was when it was first seen, or what was accepted since: how large that was is known only while it
 * is the same.
 * Of one that is gone it is told of the volume on which its content lies, of one that is away of its own.
 */
const sameContent = (productionId: string): SQL => sql`(
  select clips.name, link.clip_id, link.ordinal, own.id as own_id, other.id as other_id, other.path as other_path,
    own.is_gone, home.id as home_id, lies.id as lies_id, case when own.is_gone then lies.id else home.id end as told_of,
    ${stays(sql`lies.kind`)} as stays
  from ${clipFiles} link join ${clips} on ${clips.id} = link.clip_id
    join ${files} own on own.id = link.file_id join ${volumes} home on home.id = own.volume_id
    join ${files} other on other.fingerprint = coalesce(own.first_fingerprint, own.fingerprint)
      and (own.first_fingerprint <> own.fingerprint or other.size_bytes = own.size_bytes)
      and (other.sequence is null) = (own.sequence is null)
    join ${volumes} lies on lies.id = other.volume_id and lies.production_id = ${clips.productionId}
  where ${clips.productionId} = ${productionId} and not ${isTakenOut} and (own.is_gone or not home.is_here)
    and lies.is_here and lies.kind <> 'made' and not other.is_gone and other.facts is not null
    and other.problem is null and not exists (select from ${clipFiles} claimed where claimed.file_id = other.id)
    and not exists (select from ${clipCopies} copy where copy.file_id = other.id and copy.is_unlike)
) as found`

/**
 * What can be pointed at where it is: what stays; of a card only what it has lost itself, as all else on it is
 * offloaded.
 */
const isMoved = sql`(stays or (is_gone and lies_id = home_id))`

/** Files of originals that are gone and whose content lies on a volume, below a folder of it or anywhere on it. */
export function readLostHere(database: Queryable, volume: VolumeRow, folder: string | null): Promise<LostHere[]> {
  const isBelow = folder === null ? sql`` : sql` and starts_with(other_path, ${`${folder}/`})`
  return readFound(database, volume.productionId, sql`is_gone and lies_id = ${volume.id}${isBelow}`)
}

/**
 * Originals that a volume knows at another place than where they are: those that are gone and whose content lies on it,
 * as when a folder of it was renamed; of one that is away those whose content is on others that stay.
 */
export const readMoved = (database: Queryable, { id, productionId }: VolumeRow): Promise<LostHere[]> =>
  readFound(database, productionId, sql`told_of = ${id} and ${isMoved}`)

/** Of each volume, how many originals it knows at another place than where they are. */
export async function countMoved(database: Queryable, productionId: string): Promise<ReadonlyMap<string, number>> {
  const { rows } = await database.execute<{ volume_id: string; moved: number }>(sql`
    select told_of as volume_id, least(count(distinct clip_id), count(distinct other_id))::int as moved
    from ${sameContent(productionId)} where ${isMoved} group by told_of`)
  return new Map(rows.map((row) => [row.volume_id, row.moved]))
}

/** Each lost file with one of its content: of several any will do, and that of the same name is it. */
async function readFound(database: Queryable, productionId: string, condition: SQL): Promise<LostHere[]> {
  const { rows } = await database.execute<{
    clip_id: string
    name: string
    ordinal: number
    own_id: string
    other_id: string
  }>(sql`
    select clip_id, name, ordinal, own_id, other_id from ${sameContent(productionId)} where ${condition}
    order by name, clip_id, ordinal, other_path, other_id`)
  const fileById = await readFiles(database, [...new Set(rows.flatMap((row) => [row.own_id, row.other_id]))])
  const taken = new Set<string>()
  const ofLink = groupBy(rows, (row) => `${row.clip_id} ${row.ordinal}`)
  return [...ofLink.values()].flatMap((alike): LostHere[] => {
    const [{ clip_id: clipId, name, ordinal, own_id: ownId }] = alike as [(typeof rows)[number]]
    const lost = fileById.get(ownId)
    const free = alike.flatMap((row) => (taken.has(row.other_id) ? [] : (fileById.get(row.other_id) ?? [])))
    const there = free.find((file) => lost && nameOf(file) === nameOf(lost)) ?? free[0]
    if (!lost || !there) return []
    taken.add(there.id)
    return [{ clipId, name, ordinal, lost, there }]
  })
}

async function readFiles(database: Queryable, ids: readonly string[]): Promise<ReadonlyMap<string, KnownFile>> {
  const found = await database.select().from(files).where(anyOf(files.id, ids))
  const volumeIds = [...new Set(found.map(({ volumeId }) => volumeId))]
  const rows = await database.select().from(volumes).where(anyOf(volumes.id, volumeIds))
  const volumeById = new Map(rows.map((volume) => [volume.id, volume]))
  return new Map(found.map((file) => [file.id, placeFile(file, volumeById.get(file.volumeId) as VolumeRow)]))
}

const nameOf = ({ path }: KnownFile): string => normalName(basename(path))
