import {
  type LaidSound,
  type MediaFacts,
  readSoundLink,
  type SoundLink,
  type SoundUse,
  soundLinkKey,
  soundUseField,
  soundUses,
  trackNamesOf,
} from '@ennick/core'
import { eq, sql } from 'drizzle-orm'
import { anyOf } from './any-of.ts'
import type { Queryable } from './database.ts'
import { clipFiles, type clips, files } from './schema.ts'

/** The link of a picture's clip to the recording that it was synced with, as it is kept; null without one. */
export function soundLinkOf({ described }: Pick<typeof clips.$inferSelect, 'described'>): SoundLink | null {
  const kept = described[soundLinkKey]
  if (!kept) return null
  const known = links.get(kept)
  if (known !== undefined) return known
  const link = readSoundLink(kept.value)
  links.set(kept, link)
  return link
}

/** A production is read often, and its links seldom change: each is read once. */
const links = new WeakMap<object, SoundLink | null>()

/** What a person said of the sound that a clip's own file has; null when nobody did. */
export function soundUseOf({ described }: Pick<typeof clips.$inferSelect, 'described'>): SoundUse | null {
  const said = described[soundUseField]?.value
  return soundUses.find((use) => use === said) ?? null
}

/** The clips that are synced with one of some recordings, and are not among those themselves. */
export const syncedWith = <Clip extends Pick<typeof clips.$inferSelect, 'id' | 'described'>>(
  all: Iterable<Clip>,
  ids: ReadonlySet<string>,
): Clip[] => [...all].filter((clip) => !ids.has(clip.id) && soundLinkOf(clip)?.soundIds.some((id) => ids.has(id)))

/** The clips of a linked recording that are known, in the order of its tracks; fewer than it has where some left. */
export const recordingsOf = <Clip>(
  material: { readonly clips: ReadonlyMap<string, Clip> },
  { soundIds }: SoundLink,
): Clip[] => soundIds.flatMap((id) => material.clips.get(id) ?? [])

/** The files of a linked recording, in the order of its tracks; null where a clip of it is known no more. */
export function recordingFiles<File>(
  material: { readonly clips: ReadonlyMap<string, { readonly files: readonly File[] }> },
  link: SoundLink,
): File[] | null {
  const known = recordingsOf(material, link)
  return known.length === link.soundIds.length ? known.flatMap(({ files: own }) => own) : null
}

/** The tracks of a recording by their names, where they have any. */
export const recordingTracks = (
  recordings: readonly { readonly main: { readonly facts: MediaFacts | null } }[],
): string[] => recordings.flatMap(({ main: { facts } }) => (facts ? trackNamesOf(facts) : []))

/**
 * The content of the recordings that some items were made of, and that some clips were synced with, by the clip of each,
 * whatever else is read.
 */
export async function recordingMarks(
  database: Queryable,
  laid: readonly { readonly laidSound: LaidSound | null }[],
  synced: readonly Pick<typeof clips.$inferSelect, 'described'>[],
): Promise<ReadonlyMap<string, string>> {
  const ofItems = laid.flatMap(({ laidSound }) => laidSound?.soundIds ?? [])
  const ids = [...new Set([...ofItems, ...synced.flatMap((clip) => soundLinkOf(clip)?.soundIds ?? [])])]
  if (ids.length === 0) return new Map()
  const rows = await database
    .select({ clipId: clipFiles.clipId, content: sql<string>`string_agg(${files.fingerprint}, ' ' order by ordinal)` })
    .from(clipFiles)
    .innerJoin(files, eq(files.id, clipFiles.fileId))
    .where(anyOf(clipFiles.clipId, ids))
    .groupBy(clipFiles.clipId)
  return new Map(rows.map(({ clipId, content }) => [clipId, content]))
}
