import { basename, dirname } from 'node:path'
import { findTrackSets, groupBy, type MediaFacts, nameOfSet, stem } from '@ennick/core'
import { and, eq, isNotNull, or, sql } from 'drizzle-orm'
import { anyOf } from '../store/any-of.ts'
import type { Transaction } from '../store/database.ts'
import { writeLines } from '../store/history.ts'
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

/**
 * Gives files that are tracks of a clip, and came later than its others, to that clip: behind those that it has, so that
 * whoever chose some of its tracks still has chosen those. Where several clips were made of one set before, each of them
 * stays what it is.
 * @returns the files that belong to a clip now
 */
export async function completeSets(
  transaction: Transaction,
  productionId: string,
  volumeId: string,
  fresh: readonly ReadFile[],
): Promise<ReadonlySet<string>> {
  const settled = await readSettled(transaction, productionId, volumeId, fresh)
  const joined = new Set<string>()
  const lines: Parameters<typeof writeLines>[2][number][] = []
  if (settled.length === 0) return joined
  const all: Member[] = [...settled, ...fresh.map(({ id, path, facts }) => ({ id, path, facts, clipId: null }))]
  for (const set of findTrackSets(all)) {
    const [first] = set
    const clipIds = new Set(set.flatMap(({ clipId }) => clipId ?? []))
    const [clipId] = clipIds
    const late = set.filter((file) => file.clipId === null)
    // A picture is the first of its clip's files, and cannot come behind its sound.
    if (clipIds.size !== 1 || !clipId || late.length === 0 || (first?.facts.picture && first.clipId === null)) continue
    const own = await transaction.select().from(clipFiles).where(eq(clipFiles.clipId, clipId))
    const members = new Map(set.map((file) => [file.id, file]))
    if (!own.every(({ fileId }) => members.has(fileId))) continue
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
  return joined
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
