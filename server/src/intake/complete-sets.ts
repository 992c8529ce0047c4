import { basename, dirname } from 'node:path'
import { findTrackSets, groupBy, type MediaFacts, nameOfSet, stem } from '@ennick/core'
import { and, eq, isNotNull, or, type SQL, sql } from 'drizzle-orm'
import { anyOf } from '../store/any-of.ts'
import type { Transaction } from '../store/database.ts'
import { writeLines } from '../store/history.ts'
import { holdIndex } from '../store/hold-index.ts'
import { clipFiles, clips, files } from '../store/schema.ts'

interface ReadFile {
  readonly id: string
  readonly path: string
  readonly facts: MediaFacts
}

interface Member extends ReadFile {
  /** Null while it belongs to nothing. */
  readonly clipId: string | null
}

/** What became of files that are tracks of clips that were there before. */
interface Completed {
  /** Fresh files that belong to a clip now. */
  readonly joined: ReadonlySet<string>
  /** Files that were clips of their own, and belong to nothing now: what they are tracks of is made of all together. */
  readonly freed: readonly string[]
}

/**
 * Gives files that are tracks of a clip, and came later than its others, to that clip: behind those that it has, so that
 * whoever chose some of its tracks still has chosen those. Tracks that came in one by one, as a copy that goes on while
 * it is scanned has them, were clips of their own until now: those that nobody has made use of are given up. Where two of
 * one set are in use, each of them stays what it is.
 */
export async function completeSets(
  transaction: Transaction,
  productionId: string,
  volumeId: string,
  fresh: readonly ReadFile[],
): Promise<Completed> {
  const settled = await readSettled(transaction, productionId, volumeId, fresh)
  const joined = new Set<string>()
  const freed: string[] = []
  const lines: Parameters<typeof writeLines>[2][number][] = []
  if (settled.length === 0) return { joined, freed }
  const all: Member[] = [...settled, ...fresh.map(({ id, path, facts }) => ({ id, path, facts, clipId: null }))]
  for (const set of findTrackSets(all)) {
    const clipIds = [...new Set(set.flatMap(({ clipId }) => clipId ?? []))]
    // A picture is the first of its clip's files, and cannot come behind its sound.
    const isPictureLate = set[0]?.facts.picture !== null && set[0]?.clipId === null
    const isWhole = set.every((file) => file.clipId !== null)
    if (clipIds.length === 0 || (clipIds.length === 1 && isWhole)) continue
    const members = new Map(set.map((file) => [file.id, file]))
    const tied = await transaction.select().from(clipFiles).where(anyOf(clipFiles.clipId, clipIds))
    if (!tied.every(({ fileId }) => members.has(fileId))) continue
    const inUse =
      clipIds.length === 1 && !isPictureLate ? clipIds : await clipsInUse(transaction, productionId, clipIds)
    const [clipId] = inUse
    if (inUse.length > 1 || (clipId && isPictureLate)) continue
    const givenUp = clipIds.filter((id) => id !== clipId)
    if (givenUp.length) {
      await holdIndex(transaction, productionId)
      await transaction.delete(clips).where(anyOf(clips.id, givenUp))
    }
    if (!clipId) {
      freed.push(...tied.map(({ fileId }) => fileId))
      continue
    }
    const own = tied.filter((link) => link.clipId === clipId)
    const late = set.filter((file) => file.clipId !== clipId)
    if (own.length === 1) await makeSet(transaction, clipId, members.get(own[0]?.fileId ?? '') as Member)
    const next = Math.max(...own.map(({ ordinal }) => ordinal)) + 1
    await transaction
      .insert(clipFiles)
      .values(late.map(({ id }, index) => ({ clipId, ordinal: next + index, fileId: id, part: 'sound' as const })))
    for (const { id, path } of late) {
      joined.add(id)
      lines.push({ subject: 'clip', subjectId: clipId, what: `${basename(path)} came later, as a track of it.` })
    }
  }
  await writeLines(transaction, productionId, lines)
  return { joined, freed }
}

/** Tables whose rows of a clip say that somebody has made use of it. */
const inUseBy = [
  ...['pairs', 'clip_copies', 'camera_proxies', 'edit_changes', 'lut_assignments', 'clip_views', 'view_notes'],
]

/** Which of some clips anybody has made use of, or said anything of. */
async function clipsInUse(
  transaction: Transaction,
  productionId: string,
  clipIds: readonly string[],
): Promise<string[]> {
  const named = (table: 'mends' | 'jobs' | 'clips', words: SQL): SQL => sql`exists (
    select 1 from ${sql.identifier(table)} as other where other.production_id = ${productionId}
      and position(clips.id::text in ${words}) > 0)`
  const rows = await transaction
    .select({ id: clips.id })
    .from(clips)
    .where(
      and(
        anyOf(clips.id, clipIds),
        or(
          ...inUseBy.map(
            (table) => sql`exists (select 1 from ${sql.identifier(table)} as other where other.clip_id = clips.id)`,
          ),
          sql`exists (select 1 from events where events.chosen_clip_id = clips.id)`,
          sql`clips.reel_from = 'person'`,
          sql`exists (select 1 from jsonb_each(clips.described) as said where said.value->>'from' = 'person')`,
          named('mends', sql`other.changes::text || other.created::text`),
          named('jobs', sql`case when other.state in ('waiting', 'running') then other.input::text else '' end`),
          named('clips', sql`other.described::text`),
        ),
      ),
    )
  return rows.map(({ id }) => id)
}

/** Clips of the volume that fresh files may be tracks of: of the same package, or recordings in the same folders. */
async function readSettled(
  transaction: Transaction,
  productionId: string,
  volumeId: string,
  fresh: readonly ReadFile[],
): Promise<Member[]> {
  const packages = [...new Set(fresh.flatMap(({ facts }) => facts.materialPackage?.id ?? []))]
  const recordings = fresh.filter(({ facts }) => facts.kind === 'sound' && facts.soundNotes)
  const folders = [...groupBy(recordings, ({ path }) => dirname(path)).keys()]
  if (packages.length === 0 && folders.length === 0) return []
  const folder = sql`coalesce(nullif(regexp_replace(${files.path}, '/?[^/]*$', ''), ''), '.')`
  const rows = await transaction
    .select({ id: files.id, path: files.path, facts: files.facts, clipId: clipFiles.clipId })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(clips, eq(clips.id, clipFiles.clipId))
    .where(
      and(
        ...[eq(files.volumeId, volumeId), eq(clips.productionId, productionId), isNotNull(files.facts)],
        or(
          anyOf(sql`${files.facts} -> 'materialPackage' ->> 'id'`, packages),
          and(sql`${files.facts} ->> 'kind' = 'sound'`, anyOf(folder, folders)),
        ),
      ),
    )
  return rows as Member[]
}

/** What was a clip of one file is called as its tracks all are from now on, unless somebody called it otherwise. */
async function makeSet(transaction: Transaction, clipId: string, only: Member): Promise<void> {
  const own = stem(only.path)
  await transaction
    .update(clipFiles)
    .set({ part: only.facts.picture ? 'picture' : 'sound' })
    .where(eq(clipFiles.clipId, clipId))
  await transaction
    .update(clips)
    .set({ name: nameOfSet(own, only.facts) })
    .where(and(eq(clips.id, clipId), eq(clips.name, own)))
}
