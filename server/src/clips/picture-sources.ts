import { isTrackSet } from '@ennick/core'
import { and, asc, eq, ne } from 'drizzle-orm'
import type { PictureSource } from '../engine/pictures.ts'
import { notFound } from '../errors.ts'
import type { Queryable } from '../store/database.ts'
import { placeFile } from '../store/place-file.ts'
import { withSaidFacts } from '../store/said-facts.ts'
import { clipFiles, clips, files, pairFiles, pairs, volumes } from '../store/schema.ts'

/**
 * The files that a clip's small pictures may be made from, best first: the original, wherever it is (a picture made
 * while it was here is kept), then what was made of it; and those that its sound may be drawn from, of a clip whose
 * tracks are files of their own all together. Read alone, because a page asks for many at once.
 */
export async function readPictureSources(
  database: Queryable,
  clipId: string,
): Promise<{ name: string; sources: PictureSource[]; sounds: PictureSource[][] }> {
  const [clip] = await database
    .select({ name: clips.name, described: clips.described })
    .from(clips)
    .where(eq(clips.id, clipId))
  if (!clip) throw notFound('This clip')
  const originals = await database
    .select({ file: files, volume: volumes })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(eq(clipFiles.clipId, clipId))
    .orderBy(asc(clipFiles.ordinal))
  const made = await database
    .select({ file: files, volume: volumes })
    .from(pairs)
    .innerJoin(pairFiles, eq(pairFiles.pairId, pairs.id))
    .innerJoin(files, eq(files.id, pairFiles.fileId))
    .innerJoin(volumes, eq(volumes.id, files.volumeId))
    .where(and(eq(pairs.clipId, clipId), eq(pairs.isActive, true), ne(pairFiles.part, 'sound')))
  const placed = ({ file, volume }: (typeof made)[number]): PictureSource[] =>
    file.facts && volume.isAllowed ? [{ ...placeFile(file, volume), facts: file.facts }] : []
  const own = originals.flatMap(({ file, volume }) => placed({ file: withSaidFacts(clip, file), volume }))
  const copies = made.flatMap(placed)
  const first = own.slice(0, 1)
  const sounds = [isTrackSet(own) ? own : first, ...copies.map((copy) => [copy])].filter(({ length }) => length > 0)
  return { name: clip.name, sources: [...first, ...copies], sounds }
}
