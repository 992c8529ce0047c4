import { basename } from 'node:path'
import type { SyncedList } from '@ennick/contract'
import { type ListedFile, type SyncedClip, syncedList } from '@ennick/core'
import { PlainError } from '../errors.ts'
import { readApart } from '../reading/read-apart.ts'
import { type KnownClip, type Material, productionFormat } from '../store/material.ts'
import { recordingsOf, soundLinkOf } from '../store/sound-link.ts'

/** Writes synced clips as a list in which each picture stands linked with the tracks of its recording. */
export async function writeSyncedList(
  material: Material,
  { clipIds, format }: { clipIds: readonly string[]; format: 'otio' | 'xmeml' },
): Promise<SyncedList> {
  const asked = clipIds.flatMap((id) => material.clips.get(id) ?? [])
  const synced = asked.flatMap((clip) => syncedClip(material, clip))
  const named = new Set(synced.flatMap(({ picture, recordings }) => [picture, ...recordings]).map(({ path }) => path))
  if (synced.length === 0)
    throw new PlainError('nothing-to-write', 'None of these clips is synced with a recording that is known here.')
  const name = `${material.production.name}, synced`
  const { cut, leftOut } = syncedList(name, productionFormat(material.production), synced)
  if (cut.events.length === 0) throw new PlainError('nothing-to-write', leftOut.join(' '))
  const lists = await readApart('lists', { cut, options: { xmemlVersion: 5 } }, { seconds: 300 })
  const written = lists.find((list) => list.format === format)
  if (written?.text == null)
    throw new PlainError('cannot-be-written', `The list cannot be written: ${written?.reason ?? 'no format.'}`)
  const without = asked.length - synced.length
  return {
    fileName: `${name}${written.extension}`,
    text: written.text,
    clips: synced.length - leftOut.length,
    leftOut: [
      ...leftOut,
      ...(without ? [`${without} of the chosen clips ${without === 1 ? 'is' : 'are'} not synced.`] : []),
    ],
    notHere: [...material.clips.values()].flatMap(({ main, presence }) =>
      presence !== 'here' && named.has(main.fullPath) ? [basename(main.fullPath)] : [],
    ),
    losses: written.losses.map(({ name: feature, becomes, events }) => ({ feature, becomes, events: events.length })),
  }
}

function syncedClip(material: Material, clip: KnownClip): SyncedClip[] {
  const link = soundLinkOf(clip)
  const [picture] = listed(clip)
  if (!link || !picture) return []
  const recordings = recordingsOf(material, link).flatMap(listed)
  // A track is told by its place among all files: with one of them missing it would be another's.
  return recordings.length === link.soundIds.length ? [{ picture, link, recordings }] : []
}

const listed = ({ main, reel }: KnownClip): ListedFile[] =>
  main.facts ? [{ name: basename(main.fullPath), path: main.fullPath, reel, facts: main.facts }] : []
