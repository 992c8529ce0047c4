import type { SoundSync, SoundSyncRequest } from '@ennick/contract'
import {
  add,
  type Condition,
  clockDifferences,
  describeClock,
  describeDrift,
  describeOffset,
  describeShortfall,
  divide,
  formatNumber,
  fraction,
  hasWholeSound,
  type MediaFacts,
  multiply,
  type PictureFacts,
  rateAsFraction,
  type SyncedSound,
  soundLabelAt,
  soundLinkKey,
  soundSpan,
  startLabel,
  syncByTimecode,
  toNumber,
  trackNamesOf,
  withClock,
  writeSoundLink,
} from '@ennick/core'
import { type CellChange, readCells, writeEdit } from '../clips/write-values.ts'
import { notFound } from '../errors.ts'
import { savedSearches } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import { contentOf, type KnownClip, type Material } from '../store/known-material.ts'
import { productionRate } from '../store/production-row.ts'
import {
  asMedium,
  type Found,
  findByPoints,
  findByTimecode,
  findByWaveform,
  isRecording,
  isShotPicture,
} from './found.ts'

const shownAtMost = 1000

/** A change of one cell to come. */
interface Wanted {
  readonly clipId: string
  readonly field: string
  readonly value: string
  /** Whether what somebody said already stays. */
  readonly onlyWhereEmpty: boolean
}

type Facts = (id: string) => MediaFacts

/**
 * Shows which recordings ran while pictures were taken, or keeps it with the pictures' clips as one edit that can be
 * taken back. Neither files nor clips of sound are changed.
 */
export async function syncSound(database: Database, material: Material, request: SoundSyncRequest): Promise<SoundSync> {
  const rate = productionRate(material.production)
  const fallback = { rate, dropFrame: false }
  const all = [...material.clips.values()].filter(isShotPicture)
  const asked = new Set(request.clipIds)
  for (const id of asked) if (!material.clips.has(id)) throw notFound('One of the clips')
  const pictures = asked.size === 0 ? all : all.filter(({ id }) => asked.has(id))
  const sounds = [...material.clips.values()].filter(isRecording)
  const clip = (id: string): KnownClip => material.clips.get(id) as KnownClip
  const facts: Facts = (id) => clip(id).main.facts as MediaFacts
  const choices = new Map(request.choices.map(({ clipId, soundId }) => [clipId, soundId]))
  const scope = { pictures, sounds, choices, fallback }
  const first =
    request.by.method === 'waveform'
      ? await findByWaveform(database, material, scope, request.by.jobId)
      : request.by.method === 'points'
        ? await findByPoints(database, scope)
        : findByTimecode(scope)
  const { found, clocks } = putClocksRight(first, request.clocks, { scope, clip, fallback })
  const nudges = new Map(request.nudges.map(({ clipId, samples }) => [clipId, samples]))
  const synced = found.synced.map((match) => nudged(match, nudges.get(match.pictureId) ?? 0))
  const present = (match: SyncedSound) => presentMatch(match, clip, found, fallback)
  const wanted = synced.flatMap((match) => cellsOf(match, clip, present(match), request))
  const changes = await writeChanges(database, material.production.id, wanted, synced, request.apply)
  return {
    pictures: pictures.length,
    sounds: sounds.filter(({ id }) => request.by.method !== 'timecode' || soundSpan(facts(id), fallback)).length,
    synced: synced.slice(0, shownAtMost).map((match) => ({
      ...{ clipId: match.pictureId, name: clip(match.pictureId).name, sampleRate: match.sampleRate },
      startTimecode: startLabel(facts(match.pictureId), rate) ?? '',
      samplesPerFrame: samplesPerFrame(match, facts),
      nudged: nudges.get(match.pictureId) ?? 0,
      ...present(match),
    })),
    syncedTotal: synced.length,
    several: found.several
      .slice(0, shownAtMost)
      .map(({ id, candidates }) => ({ clipId: id, name: clip(id).name, candidates: candidates.map(present) })),
    unsynced: found.unsynced.slice(0, shownAtMost).map(({ id, why }) => ({ clipId: id, name: clip(id).name, why })),
    unsyncedTotal: found.unsynced.length,
    unusedSounds: (asked.size === 0 ? found.unusedSounds : [])
      .slice(0, shownAtMost)
      .map(({ id, why }) => ({ clipId: id, name: clip(id).name, why })),
    clocks,
    tracks: tracksOf(synced, facts),
    changes,
    applied: request.apply,
  }
}

const samplesPerFrame = (match: SyncedSound, facts: Facts): number =>
  toNumber(divide(fraction(match.sampleRate), rateAsFraction((facts(match.pictureId).picture as PictureFacts).rate)))

/** Cards whose timecode was wrong all over; what sound does not place, their timecode does where that is wanted. */
function putClocksRight(
  first: Found,
  wanted: readonly string[],
  {
    scope,
    clip,
    fallback,
  }: {
    scope: Parameters<typeof findByTimecode>[0]
    clip: (id: string) => KnownClip
    fallback: Parameters<typeof clockDifferences>[3]
  },
): { found: Found; clocks: SoundSync['clocks'] } {
  const heard = first.synced.filter(({ method }) => method === 'waveform' || method === 'points')
  const groupOf = (id: string): string => clip(id).reel ?? clip(id).main.volume.label
  const differences = clockDifferences(heard, (id) => asMedium(clip(id)), groupOf, fallback)
  let found = first
  const clocks = differences.map(({ group, behindFrames, pictureIds }) => {
    const open = new Set(first.unsynced.map(({ id }) => id).filter((id) => groupOf(id) === group))
    const others = scope.pictures.filter(({ id, main }) => open.has(id) && main.facts?.startFrame != null)
    if (wanted.includes(group)) {
      const placed = syncByTimecode(
        others.map((other) => withClock(asMedium(other), behindFrames)),
        scope.sounds.map(asMedium),
        fallback,
        scope.choices,
      ).synced.map((match): SyncedSound => ({ ...match, method: 'clock' }))
      const done = new Set(placed.map(({ pictureId }) => pictureId))
      found = {
        ...found,
        synced: [...found.synced, ...placed],
        unsynced: found.unsynced.filter(({ id }) => !done.has(id)),
      }
    }
    const rate = clip(pictureIds[0] as string).main.facts?.picture?.rate ?? fallback.rate
    return { group, words: describeClock(behindFrames, rate), agreeing: pictureIds.length, others: others.length }
  })
  return { found, clocks }
}

const nudged = (match: SyncedSound, samples: number): SyncedSound =>
  samples === 0 ? match : { ...match, offsetSamples: add(match.offsetSamples, fraction(samples)) }

function presentMatch(
  match: SyncedSound,
  clip: (id: string) => KnownClip,
  found: Found,
  fallback: Parameters<typeof soundLabelAt>[2],
): SoundSync['several'][number]['candidates'][number] {
  const picture = clip(match.pictureId).main.facts as MediaFacts
  const first = clip(match.soundIds[0] as string).main.facts as MediaFacts
  const shot = picture.picture as PictureFacts
  const inFrames = (seconds: SyncedSound['lacksHeadSeconds']) => multiply(seconds, rateAsFraction(shot.rate))
  const lack = { headFrames: inFrames(match.lacksHeadSeconds), tailFrames: inFrames(match.lacksTailSeconds) }
  const heard = match.method === 'waveform' ? found.heard.get(`${match.pictureId} ${match.soundIds[0]}`) : undefined
  const seconds = toNumber(divide(fraction(shot.frames), rateAsFraction(shot.rate)))
  return {
    soundId: match.soundIds[0] as string,
    names: match.soundIds.map((id) => clip(id).name),
    timecode: soundLabelAt(match, first, fallback) ?? '',
    offset: describeOffset(match.offsetSamples, match.sampleRate),
    method: match.method,
    likeness: heard?.likeness ?? null,
    drift: heard?.driftPartsPerMillion == null ? null : describeDrift(heard.driftPartsPerMillion, seconds),
    lacks: hasWholeSound(match) ? null : `no sound for ${describeShortfall(lack)}`,
  }
}

/** The tracks of the recordings that were found, each with every name that it carries. */
function tracksOf(synced: readonly SyncedSound[], facts: Facts): SoundSync['tracks'] {
  const names: Set<string>[] = []
  const recordings = new Map(synced.map(({ soundIds }) => [soundIds.join(), soundIds]))
  for (const soundIds of recordings.values())
    for (const [track, name] of soundIds.flatMap((id) => trackNamesOf(facts(id))).entries()) {
      names[track] ??= new Set()
      if (name) names[track].add(name)
    }
  return names.map((of, track) => ({ track, names: [...of].slice(0, 8) }))
}

/** What is kept with a picture's clip. */
function cellsOf(
  match: SyncedSound,
  clip: (id: string) => KnownClip,
  words: ReturnType<typeof presentMatch>,
  { withWords, tracks, cameraSound }: SoundSyncRequest,
): Wanted[] {
  const sound = clip(match.soundIds[0] as string)
  const contents = {
    picture: contentOf(clip(match.pictureId)),
    recordings: match.soundIds.map((id) => contentOf(clip(id))),
  }
  const set = (field: string, value: string | null | undefined, onlyWhereEmpty = false): Wanted[] =>
    value ? [{ clipId: match.pictureId, field, value, onlyWhereEmpty }] : []
  return [
    ...set('syncedSound', words.names.join(', ')),
    ...set('soundRoll', sound.reel),
    ...set('soundTimecode', words.timecode),
    ...set('soundOffset', words.offset),
    ...set(soundLinkKey, writeSoundLink({ ...match, tracks, cameraSound, contents })),
    ...(withWords
      ? [...set('scene', sound.described.scene?.value, true), ...set('take', sound.described.take?.value, true)]
      : []),
  ]
}

const syncedClips: Condition = { all: [{ field: 'syncedSound', operator: 'filled' }] }

/** @returns how many cells change, or did */
async function writeChanges(
  database: Database,
  productionId: string,
  wanted: readonly Wanted[],
  synced: readonly SyncedSound[],
  apply: boolean,
): Promise<number> {
  const methods = [...new Set(synced.map(({ method }) => method))].join(' and ')
  const pictures = synced.length === 1 ? 'a picture' : `${formatNumber(synced.length)} pictures`
  return database.transaction(async (transaction) => {
    const now = await readCells(transaction, wanted)
    const changes = wanted.flatMap(({ clipId, field, value, onlyWhereEmpty }): CellChange[] => {
      const before = now({ clipId, field })
      if (before?.value === value || (onlyWhereEmpty && before?.value)) return []
      return [{ clipId, field, before, after: { value, from: 'rule' } }]
    })
    if (apply) {
      await writeEdit(transaction, productionId, `Synced ${pictures} with sound by ${methods}`, changes)
      // What is synced stands together, and stays where it was: a search that anybody can take away again.
      await transaction
        .insert(savedSearches)
        .values({ productionId, name: 'Synced with sound', condition: syncedClips })
        .onConflictDoNothing()
    }
    return changes.length
  })
}
