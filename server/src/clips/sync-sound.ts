import type { SoundSync, SoundSyncRequest } from '@ennick/contract'
import {
  describeOffset,
  describeShortfall,
  hasWholeSound,
  multiply,
  normalDay,
  type PictureFacts,
  rateAsFraction,
  type SyncedSound,
  type SyncMedium,
  soundLabelAt,
  soundSpan,
  startLabel,
  syncByTimecode,
  type Unsynced,
} from '@ennick/core'
import { notFound } from '../errors.ts'
import type { Database } from '../store/database.ts'
import { type KnownClip, type Material, productionRate } from '../store/material.ts'
import { type CellChange, readCells, writeEdit } from './write-values.ts'

const shownAtMost = 1000

/** A change of one cell to come. */
interface Wanted {
  readonly clipId: string
  readonly field: string
  readonly value: string
  /** Whether what somebody said already stays. */
  readonly onlyWhereEmpty: boolean
}

/**
 * Shows which recordings ran while pictures were taken, or keeps it with the pictures' clips as one edit that can be
 * taken back. Neither files nor clips of sound are changed.
 */
export async function syncSound(database: Database, material: Material, request: SoundSyncRequest): Promise<SoundSync> {
  const rate = productionRate(material.production)
  const fallback = { rate, dropFrame: false }
  const originals = [...material.clips.values()].filter(({ role }) => role === 'original')
  const all = originals.filter((clip) => clip.main.facts?.kind === 'picture')
  const asked = new Set(request.clipIds)
  for (const id of asked) if (!material.clips.has(id)) throw notFound('One of the clips')
  const pictures = asked.size === 0 ? all : all.filter(({ id }) => asked.has(id))
  const sounds = originals.filter((clip) => clip.main.facts?.kind === 'sound')
  const found = syncByTimecode(
    pictures.map(asMedium),
    sounds.map(asMedium),
    fallback,
    new Map(request.choices.map(({ clipId, soundId }) => [clipId, soundId])),
  )
  const clip = (id: string): KnownClip => material.clips.get(id) as KnownClip
  const present = (match: SyncedSound) => presentMatch(match, clip, fallback)
  const wanted = found.synced.flatMap((match) => cellsOf(match, clip, present(match), request.withWords))
  const changes = await writeChanges(database, material.production.id, wanted, found.synced.length, request.apply)
  const several = found.unsynced.filter((each) => each.kind === 'several')
  const unsynced = found.unsynced.filter((each) => each.kind !== 'several')
  return {
    pictures: pictures.length,
    sounds: sounds.filter(({ main }) => main.facts && soundSpan(main.facts, fallback)).length,
    synced: found.synced.slice(0, shownAtMost).map((match) => ({
      ...{ clipId: match.pictureId, name: clip(match.pictureId).name },
      startTimecode:
        startLabel(clip(match.pictureId).main.facts as NonNullable<KnownClip['main']['facts']>, rate) ?? '',
      ...present(match),
    })),
    syncedTotal: found.synced.length,
    several: several
      .slice(0, shownAtMost)
      .map(({ id, candidates }) => ({ clipId: id, name: clip(id).name, candidates: candidates.map(present) })),
    unsynced: unsynced.slice(0, shownAtMost).map((each) => ({
      ...{ clipId: each.id, name: clip(each.id).name, why: whyNot(each, (id) => clip(id).name) },
    })),
    unsyncedTotal: unsynced.length,
    unusedSounds: (asked.size === 0 ? found.unusedSoundIds : []).slice(0, shownAtMost).map((id) => {
      const { facts } = clip(id).main
      const why = facts && soundSpan(facts, fallback) ? 'no picture was taken while it ran' : 'it has no time reference'
      return { clipId: id, name: clip(id).name, why }
    }),
    changes,
    applied: request.apply,
  }
}

const asMedium = (clip: KnownClip): SyncMedium => ({
  id: clip.id,
  name: clip.name,
  facts: clip.main.facts as NonNullable<KnownClip['main']['facts']>,
  day: normalDay(clip.described.day?.value ?? '') || null,
})

function presentMatch(
  match: SyncedSound,
  clip: (id: string) => KnownClip,
  fallback: Parameters<typeof soundLabelAt>[2],
): SoundSync['several'][number]['candidates'][number] {
  const picture = clip(match.pictureId).main.facts as NonNullable<KnownClip['main']['facts']>
  const first = clip(match.soundIds[0] as string).main.facts as NonNullable<KnownClip['main']['facts']>
  const inFrames = (seconds: SyncedSound['lacksHeadSeconds']) =>
    multiply(seconds, rateAsFraction((picture.picture as PictureFacts).rate))
  const lack = { headFrames: inFrames(match.lacksHeadSeconds), tailFrames: inFrames(match.lacksTailSeconds) }
  return {
    soundId: match.soundIds[0] as string,
    names: match.soundIds.map((id) => clip(id).name),
    timecode: soundLabelAt(picture, first, fallback) ?? '',
    offset: describeOffset(match.offsetSamples, match.sampleRate),
    lacks: hasWholeSound(match) ? null : `no sound for ${describeShortfall(lack)}`,
  }
}

/** What is kept with a picture's clip. */
function cellsOf(
  match: SyncedSound,
  clip: (id: string) => KnownClip,
  words: ReturnType<typeof presentMatch>,
  withWords: boolean,
): Wanted[] {
  const sound = clip(match.soundIds[0] as string)
  const set = (field: string, value: string | null | undefined, onlyWhereEmpty = false): Wanted[] =>
    value ? [{ clipId: match.pictureId, field, value, onlyWhereEmpty }] : []
  return [
    ...set('syncedSound', words.names.join(', ')),
    ...set('soundRoll', sound.reel),
    ...set('soundTimecode', words.timecode),
    ...set('soundOffset', words.offset),
    ...(withWords
      ? [...set('scene', sound.described.scene?.value, true), ...set('take', sound.described.take?.value, true)]
      : []),
  ]
}

/** @returns how many cells change, or did */
async function writeChanges(
  database: Database,
  productionId: string,
  wanted: readonly Wanted[],
  pictures: number,
  apply: boolean,
): Promise<number> {
  return database.transaction(async (transaction) => {
    const now = await readCells(transaction, wanted)
    const changes = wanted.flatMap(({ clipId, field, value, onlyWhereEmpty }): CellChange[] => {
      const before = now({ clipId, field })
      if (before?.value === value || (onlyWhereEmpty && before?.value)) return []
      return [{ clipId, field, before, after: { value, from: 'rule' } }]
    })
    if (apply)
      await writeEdit(
        transaction,
        productionId,
        `Synced ${pictures === 1 ? 'a picture' : `${pictures} pictures`} with sound by timecode`,
        changes,
      )
    return changes.length
  })
}

function whyNot(unsynced: Exclude<Unsynced, { kind: 'several' }>, nameOf: (id: string) => string): string {
  switch (unsynced.kind) {
    case 'no timecode':
      return 'it has no timecode'
    case 'other pace':
      return (
        `its timecode counts ${unsynced.countings[0]} and that of ${nameOf(unsynced.soundId)} ` +
        `${unsynced.countings[1]}: they do not run at one pace, so that equal labels are not one moment`
      )
    case 'no sound': {
      const [first] = unsynced.ofOtherDays
      return first === undefined
        ? 'nothing was recorded at its timecode'
        : `${nameOf(first)} has its timecode, and is of another shoot day`
    }
  }
}
