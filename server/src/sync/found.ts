import {
  type Counting,
  divide,
  fraction,
  gatherRecordings,
  laidBeside,
  multiply,
  normalDay,
  rateAsFraction,
  type SyncedSound,
  type SyncMedium,
  sameDay,
  soundSpan,
  subtract,
  syncByTimecode,
  type Unsynced,
} from '@ennick/core'
import { eq, inArray } from 'drizzle-orm'
import { notFound, PlainError } from '../errors.ts'
import type { Database } from '../store/database.ts'
import { jobs } from '../store/job-schema.ts'
import type { HeardPicture, HeardSound } from '../store/job-types.ts'
import { contentOf, type KnownClip, type Material } from '../store/known-material.ts'
import { clipViews } from '../store/viewer-schema.ts'

/** What one way of syncing found, whichever it was. */
export interface Found {
  readonly synced: readonly SyncedSound[]
  readonly several: readonly { readonly id: string; readonly candidates: readonly SyncedSound[] }[]
  readonly unsynced: readonly { readonly id: string; readonly why: string }[]
  readonly unusedSounds: readonly { readonly id: string; readonly why: string }[]
  /** What was heard, by the ids of picture and recording. */
  readonly heard: ReadonlyMap<string, HeardSound>
}

/** What is to be synced. */
export interface Scope {
  readonly pictures: readonly KnownClip[]
  readonly sounds: readonly KnownClip[]
  /** The recordings that a person chose, by picture. */
  readonly choices: ReadonlyMap<string, string>
  /** How recorders count that do not say. */
  readonly fallback: Counting
}

export const isShotPicture = ({ role, main }: KnownClip): boolean =>
  role === 'original' && main.facts?.kind === 'picture'
export const isRecording = ({ role, main }: KnownClip): boolean => role === 'original' && main.facts?.kind === 'sound'

export const asMedium = (clip: KnownClip): SyncMedium => ({
  id: clip.id,
  name: clip.name,
  facts: clip.main.facts as NonNullable<KnownClip['main']['facts']>,
  day: normalDay(clip.described.day?.value ?? '') || null,
})

export function findByTimecode({ pictures, sounds, choices, fallback }: Scope): Found {
  const found = syncByTimecode(pictures.map(asMedium), sounds.map(asMedium), fallback, choices)
  const byId = new Map([...pictures, ...sounds].map((clip) => [clip.id, clip]))
  const nameOf = (id: string): string => byId.get(id)?.name ?? id
  return {
    synced: found.synced,
    several: found.unsynced.filter((each) => each.kind === 'several'),
    unsynced: found.unsynced.flatMap((each) =>
      each.kind === 'several' ? [] : [{ id: each.id, why: whyNot(each, nameOf) }],
    ),
    unusedSounds: found.unusedSoundIds.map((id) => {
      const facts = byId.get(id)?.main.facts
      const why = facts && soundSpan(facts, fallback) ? 'no picture was taken while it ran' : 'it has no time reference'
      return { id, why }
    }),
    heard: new Map(),
  }
}

/** What a job told that listened to the clips; what is not there any more, or holds something else, is left out. */
export async function findByWaveform(
  database: Database,
  material: Material,
  scope: Scope,
  jobId: string,
): Promise<Found> {
  const [job] = await database.select().from(jobs).where(eq(jobs.id, jobId))
  if (!job || job.productionId !== material.production.id) throw notFound('What was heard')
  if (job.result?.kind !== 'sync')
    throw new PlainError('not-heard', 'The clips were not listened to yet. Wait until that has ended.', { status: 409 })
  const { pictures, sounds, choices } = scope
  const { contents } = job.result
  const isAnother = (id: string): boolean => {
    const clip = material.clips.get(id)
    return clip !== undefined && contents !== undefined && contents[id] !== contentOf(clip)
  }
  const heard = new Map<string, HeardSound>()
  const recordings = recordingsByFile(sounds)
  const told = new Map(job.result.heard.map((picture) => [picture.clipId, picture]))
  const isUnlike = ({ id }: KnownClip): boolean => told.get(id)?.outcome === 'nothing alike'
  const meanwhile = ranMeanwhile({ ...scope, pictures: pictures.filter(isUnlike) })
  const placed = pictures.map((picture): Placed => {
    const { outcome, sounds: places } = told.get(picture.id) ?? { outcome: null, sounds: [] }
    const others = places.filter(({ soundId }) => isAnother(picture.id) || isAnother(soundId))
    // The likest first: of several files of one recording that one tells where it lies.
    const candidates = eachRecordingOnce(
      [...places]
        .sort((one, other) => other.likeness - one.likeness)
        .filter((place) => !others.includes(place))
        .flatMap((place) => {
          const recording = recordings.get(place.soundId)
          const match = recording && laid(picture, recording, fraction(place.offsetSamples), 'waveform')
          return match ? [{ match, place }] : []
        }),
    ).map(({ match, place }) => {
      heard.set(`${picture.id} ${match.soundIds[0]}`, place)
      return match
    })
    const ran = meanwhile.get(picture.id)
    const why = outcome === null ? 'it was not listened to: listen again' : whyNotHeard[outcome]
    if (others.length || isAnother(picture.id))
      return {
        id: picture.id,
        candidates,
        why: 'it or its recording holds something else than was heard: listen again',
      }
    return { id: picture.id, candidates, why: ran === undefined ? why : whyUnlike(ran) }
  })
  return { ...decided(placed, sounds, choices, () => 'no picture sounds like it'), heard }
}

/** What was recorded while pictures ran, by the timecode of both: the name of the first of it. */
function ranMeanwhile({ pictures, sounds, fallback }: Scope): ReadonlyMap<string, string> {
  if (pictures.length === 0) return new Map()
  const { synced, unsynced } = syncByTimecode(pictures.map(asMedium), sounds.map(asMedium), fallback)
  const nameOf = new Map(sounds.map(({ id, name }) => [id, name]))
  const matches = [...synced, ...unsynced.flatMap((each) => (each.kind === 'several' ? each.candidates : []))]
  return new Map(matches.map(({ pictureId, soundIds: [first] }) => [pictureId, nameOf.get(first as string) ?? '']))
}

/** A promise of a guide track that does not hold. */
const whyUnlike = (recording: string): string =>
  `no recording sounds like it, though ${recording} ran meanwhile by its timecode: ` +
  'is that music, playback or another microphone, and no guide track?'

/** The files of the recording that each file is of, by the file's clip. */
function recordingsByFile(sounds: readonly KnownClip[]): ReadonlyMap<string, readonly KnownClip[]> {
  const byId = new Map(sounds.map((clip) => [clip.id, clip]))
  return new Map(
    gatherRecordings(sounds.map(asMedium)).flatMap((media) => {
      const clips = media.flatMap(({ id }) => byId.get(id) ?? [])
      return clips.map((clip) => [clip.id, clips] as const)
    }),
  )
}

/** Several files of one recording may be found: they are one place, that of the first. */
function eachRecordingOnce<Place extends { readonly match: SyncedSound }>(places: readonly Place[]): Place[] {
  const seen = new Set<string>()
  return places.filter(({ match: { soundIds } }) => {
    const [first] = soundIds as [string]
    if (seen.has(first)) return false
    seen.add(first)
    return true
  })
}

/** A picture with the places that it may have. */
interface Placed {
  readonly id: string
  readonly candidates: readonly SyncedSound[]
  /** Why it has none, if it has none. */
  readonly why: string
}

/** One place is the right one, or the one that a person chose; of several a person chooses. */
function decided(
  placed: readonly Placed[],
  sounds: readonly KnownClip[],
  choices: Scope['choices'],
  whyUnused: (soundId: string) => string,
): Omit<Found, 'heard'> {
  const [synced, several, unsynced]: [SyncedSound[], Placed[], Placed[]] = [[], [], []]
  for (const each of placed) {
    const { id, candidates } = each
    const choice = choices.get(id)
    const chosen = candidates.find(({ soundIds }) => choice !== undefined && soundIds.includes(choice))
    const [only] = candidates.length === 1 ? candidates : []
    const match = chosen ?? only
    if (match) synced.push(match)
    else (candidates.length > 1 ? several : unsynced).push(each)
  }
  const used = new Set(
    [...synced, ...several.flatMap(({ candidates }) => candidates)].flatMap(({ soundIds }) => soundIds),
  )
  const unused = sounds.filter(({ id }) => !used.has(id))
  return { synced, several, unsynced, unusedSounds: unused.map(({ id }) => ({ id, why: whyUnused(id) })) }
}

const whyNotHeard: Readonly<Record<HeardPicture['outcome'], string>> = {
  'no scratch': 'it has no scratch track',
  silent: 'nothing is heard on its scratch track',
  'too short': 'it is too short to be told by its sound',
  'nothing alike': 'no recording sounds like it',
  'not exact': 'a recording sounds like it, and no place agrees to the sample',
  'not here': 'its file is not here as it is known',
  found: 'its recording is not here any more',
  several: 'its recordings are not here any more',
}

/**
 * Pictures and recordings whose in points are one moment, a clap: the frame of the one lies on the sample of the other.
 * Where several recordings of a day are marked, a person chooses.
 */
export async function findByPoints(database: Database, { pictures, sounds, choices, fallback }: Scope): Promise<Found> {
  const all = new Map([...pictures, ...sounds].map((clip) => [clip.id, clip]))
  const ids = [...all.keys()]
  const points = new Map<string, number>()
  const ofAnother = new Set<string>()
  for (let index = 0; index < ids.length; index += 5000)
    for (const { clipId, inFrame, pointsContent } of await database
      .select()
      .from(clipViews)
      .where(inArray(clipViews.clipId, ids.slice(index, index + 5000)))) {
      if (inFrame === null) continue
      if (pointsContent !== null && pointsContent !== contentOf(all.get(clipId) as KnownClip)) ofAnother.add(clipId)
      else points.set(clipId, inFrame)
    }
  const whyNoPoint = (id: string): string =>
    ofAnother.has(id) ? 'its in point was set when it held something else: set it anew' : 'it has no in point'
  const recordings = recordingsByFile(sounds)
  const marked = sounds.flatMap((sound) => {
    const inFrame = points.get(sound.id)
    return inFrame === undefined ? [] : [{ sound, medium: asMedium(sound), inFrame }]
  })
  const placed = pictures.map((picture): Placed => {
    const at = points.get(picture.id)
    const facts = picture.main.facts?.picture
    if (at === undefined || !facts) return { id: picture.id, candidates: [], why: whyNoPoint(picture.id) }
    const medium = asMedium(picture)
    const ofPicture = divide(fraction(at), rateAsFraction(facts.rate))
    const candidates = eachRecordingOnce(
      marked
        .filter((each) => sameDay(medium, each.medium))
        .flatMap(({ sound, inFrame }) => {
          const sampleRate = sound.main.facts?.sound[0]?.sampleRate ?? 48_000
          const ofSound = divide(fraction(inFrame), rateAsFraction(fallback.rate))
          const offset = multiply(subtract(ofSound, ofPicture), fraction(sampleRate))
          const match = laid(picture, recordings.get(sound.id) ?? [sound], offset, 'points')
          return match ? [{ match }] : []
        }),
    ).map(({ match }) => match)
    return { id: picture.id, candidates, why: 'no recording of its day has an in point that it fits' }
  })
  const whyUnused = (id: string): string => (points.has(id) ? 'no picture has an in point that fits' : whyNoPoint(id))
  return { ...decided(placed, sounds, choices, whyUnused), heard: new Map() }
}

function laid(
  picture: KnownClip,
  recording: readonly KnownClip[],
  offset: SyncedSound['offsetSamples'],
  method: SyncedSound['method'],
): SyncedSound | null {
  const stream = recording[0]?.main.facts?.sound[0]
  if (!stream?.samples) return null
  const { sampleRate, samples } = stream
  const seconds = fraction(samples, sampleRate)
  return laidBeside(asMedium(picture), { soundIds: recording.map(({ id }) => id), seconds, sampleRate }, offset, method)
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
