import {
  type LaidTrack,
  type MediaFacts,
  type Recipe,
  readSoundLink,
  type SoundLink,
  soundLinkKey,
  withRecording,
} from '@ennick/core'
import { inArray, sql } from 'drizzle-orm'
import { freeBytes } from '../disk/free-space.ts'
import { laySound } from '../engine/lay-sound.ts'
import { withScratch } from '../engine/scratch.ts'
import { lookForPlaced, sameStamp } from '../intake/describe-file.ts'
import { JobFailure } from '../queue/failure.ts'
import type { Queryable } from '../store/database.ts'
import type { KnownClip, KnownFile, Material } from '../store/known-material.ts'
import { placeOf } from '../store/place-words.ts'
import { clips } from '../store/schema.ts'
import { recordingFiles, recordingsOf, soundLinkOf } from '../store/sound-link.ts'

/** The sound of a clip as a recipe makes it: its own, or with the recording that it was synced with. */
export interface SoundOfClip {
  readonly facts: MediaFacts
  readonly laid: {
    readonly link: SoundLink
    readonly recordings: readonly (KnownFile & { readonly facts: MediaFacts })[]
    readonly tracks: readonly LaidTrack[]
  } | null
}

/** Some clips, and the recordings that they were synced with: what has to be read to make something of them. */
export async function withRecordings(database: Queryable, clipIds: readonly string[]): Promise<string[]> {
  const link = sql<string | null>`${clips.described} -> ${soundLinkKey}::text ->> 'value'`
  const found = new Set(clipIds)
  for (let index = 0; index < clipIds.length; index += 5000) {
    const rows = await database
      .select({ link })
      .from(clips)
      .where(inArray(clips.id, clipIds.slice(index, index + 5000)))
    for (const row of rows) for (const id of readSoundLink(row.link ?? undefined)?.soundIds ?? []) found.add(id)
  }
  return [...found]
}

/**
 * What a recipe makes of the sound of a clip.
 * @throws JobFailure when it wants the recording and that is not here, or is not what was synced
 */
export function soundOf(material: Material, clip: KnownClip, facts: MediaFacts, recipe: Recipe): SoundOfClip {
  const link = recipe.syncedSound ? soundLinkOf(clip) : null
  if (!link) return { facts, laid: null }
  const known = recordingFiles(material, link)
  const recordings = (known ?? []).flatMap((file) =>
    file.presence === 'here' && file.facts ? [{ ...file, facts: file.facts }] : [],
  )
  if (!known || recordings.length < known.length) {
    const names =
      recordingsOf(material, link)
        .map(({ name }) => name)
        .join(', ') || 'a recording'
    throw new JobFailure(
      `${clip.name} was synced with ${names}, which is not here: put its volume in, or make it with its own sound.`,
    )
  }
  if (clip.syncChange !== null)
    throw new JobFailure(`${clip.name}: ${clip.syncChange.why} Or make it with its own sound.`)
  const laid = withRecording(
    facts,
    link,
    recordings.map((recording) => recording.facts),
  )
  return laid ? { facts: laid.facts, laid: { link, recordings, tracks: laid.tracks } } : { facts, laid: null }
}

/** Lays the sound of a clip with its recording, and has a task done with the file of it; null when it has none. */
export async function withLaidSound<T>(
  clip: KnownClip,
  synced: SoundOfClip | null,
  signal: AbortSignal,
  task: (path: string | null) => Promise<T>,
): Promise<T> {
  if (!synced?.laid) return task(null)
  const { facts, laid } = synced
  for (const recording of laid.recordings) {
    const stamp = await lookForPlaced(recording)
    if (!stamp || !sameStamp(recording, stamp))
      throw new JobFailure(`${placeOf(recording)} is not as it was scanned: scan its volume, and make it again.`)
  }
  const camera = clip.files.flatMap((file) => (file.facts ? [{ ...file, facts: file.facts }] : []))
  return withScratch(async (folder) => {
    const path = `${folder}/sound.mov`
    const { link, recordings, tracks } = laid
    const samples = facts.sound.at(-1)?.samples ?? 0
    const bytes = facts.sound.reduce((sum, stream) => sum + (stream.samples ?? 0) * stream.channels * 3, 0)
    const free = await freeBytes(folder)
    if (bytes * 1.1 > free)
      throw new JobFailure(
        `Laying the recording of ${clip.name} beside it needs about ${Math.ceil(bytes / 1e6)} MB in Ennick’s data ` +
          `folder, and ${Math.floor(free / 1e6)} MB are free there. Free some, and retry.`,
      )
    const complaint = await laySound({ camera, recordings, link, tracks, samples }, path, signal)
    if (complaint !== null)
      throw new JobFailure(`The recording of ${clip.name} could not be laid beside it: ${complaint}`)
    return task(path)
  })
}
