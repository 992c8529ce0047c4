import { basename } from 'node:path'
import type { SyncedList } from '@ennick/contract'
import { type ListedFile, type Presence, type SoundLink, syncedList } from '@ennick/core'
import { PlainError } from '../errors.ts'
import { writeList } from '../reading/write-list.ts'
import type { KnownClip, KnownFile, Material } from '../store/known-material.ts'
import { productionFormat } from '../store/production-row.ts'
import { recordingsOf, soundLinkOf } from '../store/sound-link.ts'

/** Writes synced clips as a list in which each picture stands linked with the tracks of its recording. */
export async function writeSyncedList(
  material: Material,
  { clipIds, format }: { clipIds: readonly string[]; format: 'otio' | 'xmeml' },
): Promise<SyncedList> {
  const asked = clipIds.flatMap((id) => material.clips.get(id) ?? [])
  const stale = asked.filter(({ syncChange }) => syncChange !== null)
  const synced = asked.flatMap((clip) => (clip.syncChange === null ? syncedClip(material, clip) : []))
  const staleWords = stale.map(({ name, syncChange }) => `${name}: ${syncChange?.why}`)
  if (synced.length === 0 && stale.length) throw new PlainError('nothing-to-write', staleWords.slice(0, 3).join(' '))
  if (synced.length === 0)
    throw new PlainError('nothing-to-write', 'None of these clips is synced with a recording that is known here.')
  const name = `${material.production.name}, synced`
  const { cut, leftOut } = syncedList(
    name,
    productionFormat(material.production),
    synced.map(({ link, files: [picture, ...recordings] }) => ({
      ...{ link, picture: picture as ListedFile, recordings },
    })),
  )
  if (cut.events.length === 0) throw new PlainError('nothing-to-write', leftOut.join(' '))
  const { extension, text, losses } = await writeList(cut, format, { xmemlVersion: 5 }, 'The list')
  const without = asked.length - synced.length - stale.length
  const away = synced.flatMap(({ files }) => files).filter(({ presence }) => presence !== 'here')
  return {
    fileName: `${name}${extension}`,
    text,
    clips: synced.length - leftOut.length,
    leftOut: [
      ...leftOut,
      ...staleWords,
      ...(without ? [`${without} of the chosen clips ${without === 1 ? 'is' : 'are'} not synced.`] : []),
    ],
    notHere: [...new Set(away.map(({ name: absent }) => absent))],
    losses: losses.map(({ name: feature, becomes, events }) => ({ feature, becomes, events: events.length })),
  }
}

interface Listed extends ListedFile {
  readonly presence: Presence
}

/** The file of the clip and those of its recording, when all of them can be listed. */
function syncedClip(material: Material, clip: KnownClip): { link: SoundLink; files: readonly Listed[] }[] {
  const link = soundLinkOf(clip)
  const recordings = link ? recordingsOf(material, link) : []
  if (!link || recordings.length < link.soundIds.length) return []
  const ofRecording = recordings.flatMap(({ files, reel }) => files.map((file) => listed(file, reel)))
  const files = [listed(clip.main, clip.reel), ...ofRecording].flatMap((file) => file ?? [])
  // A track is told by its place among all files: with one of them missing it would be another's.
  return files.length === 1 + ofRecording.length ? [{ link, files }] : []
}

const listed = ({ fullPath, facts, presence }: KnownFile, reel: string | null): Listed | null =>
  facts && { name: basename(fullPath), path: fullPath, reel, facts, presence }
