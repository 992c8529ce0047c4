import { basename } from 'node:path'
import { count, groupBy, type LinkChange, normalName, removableKinds } from '@ennick/core'
import { and, asc, eq, isNotNull, isNull, ne, not, notExists, type SQL, sql } from 'drizzle-orm'
import { readAllCutStates } from '../cuts/cut-state.ts'
import { fingerprint } from '../disk/fingerprint.ts'
import { PlainError } from '../errors.ts'
import { isAsKnown, stampOf } from '../intake/describe-file.ts'
import { clipCopies } from '../store/catalogue-schema.ts'
import type { Database, Queryable } from '../store/database.ts'
import { type KnownFile, placeFile, readMaterial, type VolumeRow } from '../store/material.ts'
import { placeOf } from '../store/place-words.ts'
import { clipFiles, clips, files, volumes } from '../store/schema.ts'
import { stays } from '../store/stays.ts'
import { isTakenOut } from '../store/taken-out.ts'
import { applyMend, type MendRow, noneCreated } from './links.ts'
import { keepOthers } from './repoint.ts'

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

/**
 * Points lost originals at files of their content below a folder of a volume, as one mend.
 * @returns how many originals that were
 */
export async function mendByCopies(
  database: Database,
  productionId: string,
  { volumeId, folder }: { volumeId: string; folder: string },
): Promise<number> {
  const [volume] = await database.select().from(volumes).where(eq(volumes.id, volumeId))
  const sure = volume ? await stillThere(await readLostHere(database, volume, folder)) : []
  if (sure.length === 0) return 0
  const originals = originalsOf(sure)
  const what = originals === 1 ? '1 original to its copy' : `${originals} originals to their copies`
  await pointAt(database, productionId, sure, `Repoint ${what} in ${folder}`)
  return originals
}

/**
 * Points originals that a volume knows at another place than where they are at where they are, as one mend.
 * @throws PlainError where none of them is there as the ledger knows it
 */
export async function repointMoved(database: Database, volume: VolumeRow): Promise<MendRow> {
  const sure = await stillThere(await readMoved(database, volume))
  if (sure.length === 0)
    throw new PlainError(
      'nothing-moved',
      `What the originals of “${volume.label}” could be pointed at has changed or left meanwhile. Scan again.`,
      { status: 409 },
    )
  const what = count(originalsOf(sure), 'original')
  const title = volume.isHere ? `Repoint ${what} on ${volume.label}` : `Repoint ${what} of ${volume.label} to copies`
  return pointAt(database, volume.productionId, sure, title)
}

const originalsOf = (found: readonly LostHere[]): number => new Set(found.map(({ clipId }) => clipId)).size

function pointAt(
  database: Database,
  productionId: string,
  found: readonly LostHere[],
  title: string,
): Promise<MendRow> {
  return applyMend(database, { productionId, kind: 'repoint', title }, async (transaction) => {
    const before = await readAllCutStates(transaction, await readMaterial(transaction, productionId))
    // What is only away is a copy, as soon as it is back.
    const away = found.filter(({ lost }) => lost.presence === 'away')
    if (away.length)
      await transaction
        .insert(clipCopies)
        .values(away.map(({ clipId, lost }) => ({ clipId, fileId: lost.id, isVerified: false })))
        .onConflictDoNothing()
    return {
      created: noneCreated,
      changes: found.map(({ clipId, name, ordinal, lost, there }): LinkChange => {
        const link = { kind: 'clip file' as const, clipId, ordinal }
        return { link, before: lost.id, after: there.id, label: `${name}: ${placeOf(lost)} → ${placeOf(there)}` }
      }),
      settle: () => keepOthers(transaction, productionId, before),
    }
  })
}

/** Each is read once more: what is no longer the content that the ledger knows is not pointed at. */
async function stillThere(found: readonly LostHere[]): Promise<LostHere[]> {
  const sure: LostHere[] = []
  for (const each of found) if (await isStill(each.there)) sure.push(each)
  return sure
}

async function isStill(file: KnownFile): Promise<boolean> {
  if (file.sequence) return isAsKnown(file)
  const stamp = await stampOf(file.fullPath).catch(() => null)
  if (stamp?.sizeBytes !== file.sizeBytes) return false
  return (await fingerprint(file.fullPath, file.sizeBytes).catch(() => null)) === file.fingerprint
}
