import {
  channelCount,
  fitOffset,
  type Heard,
  type HeardPlace,
  type MeasuredStretch,
  type MediaFacts,
  packEnvelope,
  stretchesToMeasure,
  unpackEnvelope,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { HeardFiles } from '../engine/decode-sound.ts'
import { hearWhole, soundStretches } from '../engine/hear.ts'
import { forEachAtOnce, isAsKnown } from '../intake/describe-file.ts'
import type { WorkContext } from '../queue/context.ts'
import type { ProgressMeter } from '../queue/progress.ts'
import { soundEnvelopes } from '../store/catalogue-schema.ts'
import type { Database } from '../store/database.ts'
import type { HeardPicture, HeardSound, JobResult } from '../store/job-types.ts'
import { contentOf, type KnownClip } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { asMedium, isRecording, isShotPicture } from './found.ts'
import { alignApart, matchApart } from './match-apart.ts'

/**
 * How long a stretch is that is measured to the sample: a second and a third at 48 kHz. With what it may lie apart it is
 * a power of two, the length of the transform.
 */
const stretchSamples = 63_616
/** What was measured in an older way, without clipping or music, is measured anew: the way's number. */
const measuredBy = 2
/** One more than there are processors, as a rule: one of them waits for a disk. */
const atOnce = 3
/** What a place of an envelope may be off by. */
const roughSeconds = 0.04

/** A clip that was listened to. */
interface HeardClip {
  readonly clip: KnownClip
  readonly heard: Heard
}

/**
 * Listens to pictures and to all recordings, finds by their loudness where they belong together, and measures each
 * place to the sample at head, middle and tail. Nothing is changed.
 */
export async function listenToClips(
  context: WorkContext,
  meter: ProgressMeter,
  { clipIds }: { clipIds: readonly string[] },
): Promise<JobResult> {
  const { database, job, signal } = context
  const material = await readMaterial(database, job.productionId)
  const asked = new Set(clipIds)
  const all = [...material.clips.values()]
  const pictures = all.filter((clip) => isShotPicture(clip) && (asked.size === 0 || asked.has(clip.id)))
  const recordings = all.filter(isRecording)
  const clips = [...pictures, ...recordings]
  const absent = new Set<string>()
  const heard = new Map<string, Heard>()
  let done = 0
  // Each is listened to once; a picture is compared and, when it was found, measured.
  const total = clips.length + 2 * pictures.length
  await forEachAtOnce(clips, atOnce, async (clip) => {
    const envelope = await envelopeOf(database, clip, signal)
    if (envelope === 'absent') absent.add(clip.id)
    else heard.set(clip.id, { id: clip.id, envelope, day: asMedium(clip).day })
    meter.report(++done, total, 'files')
  })
  const heardOf = (some: readonly KnownClip[]): Heard[] => some.flatMap(({ id }) => heard.get(id) ?? [])
  const outcomes: HeardPicture[] = pictures
    .filter(({ id }) => absent.has(id))
    .map(({ id }) => ({ clipId: id, outcome: 'not here', sounds: [] }))
  // Those that are not here are neither compared nor measured.
  done += 2 * outcomes.length
  const found = await matchApart(heardOf(pictures), heardOf(recordings), signal, (matched) => {
    done += matched
    meter.report(done, total, 'files')
  })
  await forEachAtOnce(found, atOnce, async (outcome) => {
    const { pictureId } = outcome
    const places = outcome.kind === 'found' ? [outcome.place] : outcome.kind === 'several' ? outcome.places : []
    const picture = { clip: material.clips.get(pictureId) as KnownClip, heard: heard.get(pictureId) as Heard }
    const sounds: HeardSound[] = []
    for (const place of places) {
      const recording = material.clips.get(place.soundId) as KnownClip
      const measured = await measure(picture, recording, place, signal)
      if (measured) sounds.push(measured)
    }
    const kind = outcome.kind === 'several' && sounds.length === 1 ? 'found' : outcome.kind
    outcomes.push({ clipId: pictureId, outcome: places.length > 0 && sounds.length === 0 ? 'not exact' : kind, sounds })
    meter.report(++done, total, 'files')
  })
  const contents = Object.fromEntries(clips.map((clip) => [clip.id, contentOf(clip)]))
  return { kind: 'sync', heard: outcomes, contents }
}

const filesOf = (clip: KnownClip): HeardFiles => ({
  files: clip.files.flatMap((file) => (file.facts ? [{ ...file, facts: file.facts }] : [])),
})

/** How loud a clip is, as it was kept or as it is found out now. */
async function envelopeOf(
  database: Database,
  clip: KnownClip,
  signal: AbortSignal,
): Promise<Float32Array | null | 'absent'> {
  if (!clip.main.facts || channelCount(clip.main.facts) === 0) return null
  const fingerprint = contentOf(clip)
  const [kept] = await database.select().from(soundEnvelopes).where(eq(soundEnvelopes.fingerprint, fingerprint))
  if (kept?.version === measuredBy)
    return kept.envelope.length === 0 ? null : unpackEnvelope(Int8Array.from(kept.envelope))
  for (const file of clip.files) if (!(await isAsKnown(file))) return 'absent'
  const whole = await hearWhole(filesOf(clip), signal)
  // What was heard is of this content only if it is still there.
  for (const file of clip.files) if (!(await isAsKnown(file))) return 'absent'
  const envelope = Uint8Array.from(whole ? packEnvelope(whole.envelope) : [])
  const measured = { envelope, tracks: whole?.tracks ?? [], version: measuredBy }
  await database
    .insert(soundEnvelopes)
    .values({ fingerprint, ...measured })
    .onConflictDoUpdate({ target: soundEnvelopes.fingerprint, set: measured })
  return whole?.envelope ?? null
}

/** The place of a picture in a recording to the sample; null when its stretches do not agree on one. */
async function measure(
  { clip, heard }: HeardClip,
  recording: KnownClip,
  place: HeardPlace,
  signal: AbortSignal,
): Promise<HeardSound | null> {
  const facts = recording.main.facts as MediaFacts
  const [stream] = facts.sound
  const picture = clip.main.facts?.picture
  if (!stream || !picture || !heard.envelope) return null
  const { sampleRate } = stream
  const samples = stretchSamples * Math.max(1, Math.round(sampleRate / 48_000))
  const overlap = {
    from: Math.max(0, -place.roughSeconds),
    to: Math.min(
      (picture.frames * picture.rate.denominator) / picture.rate.numerator,
      (stream.samples ?? 0) / sampleRate - place.roughSeconds,
    ),
  }
  const moments = stretchesToMeasure(heard.envelope, overlap, samples / sampleRate)
    .map((atSeconds) => ({ atSeconds, fromSeconds: Math.round((atSeconds + place.roughSeconds) * 1000) / 1000 }))
    .filter(({ fromSeconds }) => fromSeconds >= 0)
  const asked = { samples, sampleRate }
  const [ofPicture, ofRecording] = await Promise.all([
    soundStretches(filesOf(clip), { ...asked, fromSeconds: moments.map(({ atSeconds }) => atSeconds) }, signal),
    soundStretches(filesOf(recording), { ...asked, fromSeconds: moments.map((each) => each.fromSeconds) }, signal),
  ])
  const stretches: MeasuredStretch[] = []
  for (const [index, { atSeconds, fromSeconds }] of moments.entries()) {
    const [one, other] = [ofPicture[index], ofRecording[index]]
    if (one?.length !== samples || other?.length !== samples) continue
    const aligned = await alignApart(one, other, Math.ceil(roughSeconds * sampleRate), signal)
    if (!aligned) continue
    stretches.push({
      atSeconds: atSeconds + samples / sampleRate / 2,
      offsetSamples: (fromSeconds - atSeconds) * sampleRate + aligned.shiftSamples,
      sharpness: aligned.sharpness,
    })
  }
  const offset = fitOffset(stretches, sampleRate)
  return (
    offset && {
      soundId: recording.id,
      offsetSamples: offset.offsetSamples,
      sampleRate,
      likeness: place.likeness,
      driftPartsPerMillion: offset.driftPartsPerMillion,
    }
  )
}
