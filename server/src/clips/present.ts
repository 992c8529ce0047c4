import type { Clip, ClipDetail } from '@ennick/contract'
import {
  describeClipping,
  describeLevel,
  describeOffset,
  latestDate,
  pixelShapes,
  type Rate,
  soundLinkKey,
  type TrackLevel,
  trackNamesOf,
} from '@ennick/core'
import { and, desc, eq, ne } from 'drizzle-orm'
import { editChanges, edits, soundEnvelopes } from '../store/catalogue-schema.ts'
import type { Queryable } from '../store/database.ts'
import { readHistory } from '../store/history.ts'
import { contentOf, type KnownClip, type Material } from '../store/known-material.ts'
import { productionRate } from '../store/production-row.ts'
import { recordingsOf, recordingTracks, soundLinkOf } from '../store/sound-link.ts'
import { presentFields } from './columns.ts'
import { factGroups } from './fact-groups.ts'
import { type IndexRow, indexRow } from './index-row.ts'
import { noticesOf } from './notices.ts'
import { stripOf } from './strip.ts'
import type { UsesOfClips } from './uses.ts'

/** A clip as a row of the table. */
export function presentClip(row: IndexRow): Clip {
  const {
    folder,
    container,
    sampleRate,
    bitDepth,
    squeeze,
    scan,
    colour,
    created,
    originator,
    files,
    dataRate,
    tracks,
    plays,
  } = row
  return {
    id: row.clipId,
    name: row.fileName,
    title: row.name,
    described: row.described,
    kind: row.kind as Clip['kind'],
    codec: row.codec,
    width: row.width,
    height: row.height,
    rate: rateOf(row),
    startTimecode: row.start || null,
    duration: row.duration || null,
    frames: row.frames,
    channels: row.layout,
    reel: row.reel || null,
    volumeLabel: row.volume,
    volumeKind: row.volumeKind,
    path: folder ? `${folder}/${row.fileName}` : row.fileName,
    sizeBytes: row.size,
    presence: row.presence as Clip['presence'],
    proxies: row.proxies as Clip['proxies'],
    proxy: row.proxy,
    proxyRaster: row.proxyRaster,
    uses: row.uses,
    notice: row.notice,
    facts: {
      folder,
      container,
      channels: row.channels,
      sampleRate,
      bitDepth,
      squeeze,
      scan,
      colour,
      created,
      originator,
      files,
      dataRate,
      tracks,
      plays,
    },
  }
}

const rateOf = (row: IndexRow): Rate | null =>
  row.rateNumerator !== null && row.rateDenominator !== null
    ? { numerator: row.rateNumerator, denominator: row.rateDenominator }
    : null

export async function presentClipDetail(
  database: Queryable,
  material: Material,
  clip: KnownClip,
  uses: UsesOfClips,
  found: Pick<Parameters<typeof indexRow>[1], 'overlaps' | 'plays'>,
): Promise<ClipDetail> {
  const rate = productionRate(material.production)
  const { facts } = clip.main
  const heard = await readTrackLevels(database, clip)
  const today = latestDate(new Date())
  const titles = new Map(presentFields(material.production).map((field) => [field.id, field.title]))
  const said = Object.entries(clip.described).flatMap(([field, { value, from }]) =>
    field === soundLinkKey ? [] : [{ field, title: titles.get(field) ?? field, value, from }],
  )
  return {
    clip: presentClip(indexRow(clip, { rate, uses: uses.count(clip.id), today, ...found })),
    described: [
      ...(clip.reel === null
        ? []
        : [{ field: 'reel', title: 'Reel', value: clip.reel, from: clip.reelFrom ?? ('person' as const) }]),
      ...said,
    ],
    role: {
      role: clip.role,
      reason: clip.roleReason,
      volumeId: clip.main.volumeId,
      path: clip.main.path,
      declared: clip.declaredRole,
    },
    notices: [
      ...noticesOf(clip, today),
      ...found.overlaps,
      ...noticesOfTracks(heard ?? [], facts?.picture != null),
    ].map(({ kind, message }) => ({ kind, message })),
    tracks: facts ? trackNamesOf(facts) : [],
    levels: heard?.map(describeLevel) ?? null,
    copies: clip.copies.map(({ file, isVerified }) => ({
      path: file.fullPath,
      volumeLabel: file.volume.label,
      presence: file.presence,
      isVerified,
    })),
    syncedSound: presentLink(material, clip),
    hasSound: (facts?.sound.length ?? 0) > 0,
    pixelShapes: facts?.picture ? pixelShapes(facts.picture) : [],
    factGroups: facts ? factGroups(clip, facts, rate) : [],
    files: clip.files.map((file) => ({ path: file.fullPath, sizeBytes: file.sizeBytes, presence: file.presence })),
    strip: stripOf(clip, rate, uses),
    pairs: clip.pairs.map((pair) => ({
      id: pair.id,
      name: pair.name,
      verdict: pair.verdict,
      comparison: pair.compare(),
    })),
    uses: uses.list(clip.id),
    history: await readHistory(database, material.production.id, {
      subjectIds: [clip.id, ...clip.pairs.map((pair) => pair.id)],
      limit: 50,
    }),
    edits: await readCellEdits(database, clip.id, titles),
  }
}

/** What each channel of a clip holds; null until it was listened to. */
async function readTrackLevels(database: Queryable, clip: KnownClip): Promise<readonly TrackLevel[] | null> {
  const [row] = await database
    .select({ tracks: soundEnvelopes.tracks })
    .from(soundEnvelopes)
    .where(eq(soundEnvelopes.fingerprint, contentOf(clip)))
  return row?.tracks ?? null
}

/**
 * Channels that hold something else than sound, or were clipped: nobody should be promised a guide track there. A
 * recording may well be one of music.
 */
const noticesOfTracks = (tracks: readonly TrackLevel[], hasPicture: boolean): { kind: string; message: string }[] =>
  tracks.flatMap((level, index) => {
    const of = `Track ${index + 1} of it`
    if (level.holds === 'music' && hasPicture)
      return [{ kind: 'music on a track', message: `${of} holds ${describeLevel(level)}.` }]
    if (level.holds === 'silence') return [{ kind: 'no sound on a track', message: `${of} holds silence.` }]
    if (level.holds === 'a steady sound')
      return [{ kind: 'tone on a track', message: `${of} holds ${describeLevel(level)}.` }]
    const { clipping } = level
    if (!clipping) return []
    return [{ kind: 'clipped', message: `${of} is ${describeClipping(clipping)}: what was cut off there is lost.` }]
  })

/** The recording that a picture was synced with, as it is kept; null without one. */
function presentLink(material: Material, clip: KnownClip): ClipDetail['syncedSound'] {
  const link = soundLinkOf(clip)
  if (!link) return null
  const recordings = recordingsOf(material, link)
  const names = recordingTracks(recordings)
  return {
    recordings: recordings.map(({ id, name, presence }) => ({ clipId: id, name, presence })),
    missing: link.soundIds.length - recordings.length,
    method: link.method,
    offset: describeOffset(link.offsetSamples, link.sampleRate),
    tracks: link.tracks?.map((track) => names[track] || `track ${track + 1}`) ?? null,
    cameraSound: link.cameraSound,
  }
}

async function readCellEdits(
  database: Queryable,
  clipId: string,
  titles: ReadonlyMap<string, string>,
): Promise<ClipDetail['edits']> {
  const rows = await database
    .select({ change: editChanges, edit: edits })
    .from(editChanges)
    .innerJoin(edits, eq(edits.id, editChanges.editId))
    .where(and(eq(editChanges.clipId, clipId), ne(editChanges.field, soundLinkKey)))
    .orderBy(desc(edits.id))
    .limit(50)
  return rows.map(({ change, edit }) => ({
    at: edit.createdAt.toISOString(),
    title: edit.title,
    field: titles.get(change.field) ?? change.field,
    before: change.before?.value ?? '',
    after: change.after?.value ?? '',
    isUndone: edit.state === 'undone',
  }))
}
