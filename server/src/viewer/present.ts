import type { ClipView, CutWatch, ViewNote } from '@ennick/contract'
import {
  ceiling,
  chooseShown,
  floor,
  formatTimecode,
  fraction,
  framesInto,
  mediumRange,
  type Rate,
  type Resolution,
  worstPresence,
} from '@ennick/core'
import { and, asc, eq, isNotNull } from 'drizzle-orm'
import { stripRate } from '../clips/strip.ts'
import { usesOfClips } from '../clips/uses.ts'
import type { CutState } from '../cuts/cut-state.ts'
import type { Queryable } from '../store/database.ts'
import { contentOf, type KnownClip, type Material } from '../store/known-material.ts'
import { productionRate, readProduction } from '../store/production-row.ts'
import { clips } from '../store/schema.ts'
import { recordingsOf, recordingTracks, soundLinkOf } from '../store/sound-link.ts'
import { clipViews, viewNotes } from '../store/viewer-schema.ts'
import { lengthInFrames, presentSides } from './sides.ts'

/** What a clip can be looked at in, which of it is shown and why, and what was said of it while it was. */
export async function presentView(database: Queryable, material: Material, clip: KnownClip): Promise<ClipView> {
  const [own] = await database.select().from(clipViews).where(eq(clipViews.clipId, clip.id))
  const fallback = productionRate(material.production)
  const { facts } = clip.main
  const rate = viewRate(material, clip)
  const startFrame = firstFrame(clip, rate)
  const frames = facts ? lengthInFrames(facts, rate) : 0
  const sides = presentSides(clip, fallback)
  const choice = own?.shown ?? (await readProduction(database, clip.productionId)).shown
  const { shown, reason } = chooseShown(choice, sides)
  const uses = await usesOfClips.given(database, material)
  return {
    clipId: clip.id,
    title: clip.name,
    kind: facts?.kind ?? 'picture',
    rate,
    dropFrame: facts?.dropFrame ?? false,
    startFrame,
    frames,
    sides,
    shown: { choice, isOwn: own?.shown != null, sideId: shown?.id ?? null, reason },
    uses: uses.spans(clip.id, rate).map(({ label, start, end, note }) => ({
      ...{ label, note },
      startFrame: Math.floor(start) - (startFrame ?? 0),
      endFrame: Math.ceil(end) - (startFrame ?? 0),
    })),
    recording: presentRecording(material, clip),
    marks: { inFrame: own?.inFrame ?? null, outFrame: own?.outFrame ?? null },
    notes: await readNotes(database, clip, rate),
  }
}

/** The rate that the frames of a clip are counted at; the production's for sound. */
export function viewRate({ production }: Material, { main: { facts } }: KnownClip): Rate {
  const fallback = productionRate(production)
  return facts ? stripRate(facts, fallback) : fallback
}

function presentRecording(material: Material, clip: KnownClip): ClipView['recording'] {
  const link = soundLinkOf(clip)
  const recordings = link ? recordingsOf(material, link) : []
  if (!link || recordings.length === 0) return null
  const tracks = recordingTracks(recordings)
  return {
    ...{ name: recordings.map(({ name }) => name).join(', '), tracks },
    presence: worstPresence(recordings.map(({ presence }) => presence)),
    used: [...(link.tracks ?? tracks.keys())],
    isCameraHeard: link.cameraSound === 'kept',
  }
}

/** The first timecode of a clip at the rate that it is counted at; null where it has none. */
function firstFrame({ main: { facts } }: KnownClip, rate: Rate): number | null {
  if (!facts) return null
  if (facts.picture) return facts.startFrame
  const range = facts.timeReferenceSamples === null ? null : mediumRange(facts, rate)
  return range ? Number(floor(range.start)) : null
}

/** A frame of a clip by its timecode, or by its number where it has none. */
export function nameFrame(clip: KnownClip, rate: Rate, frame: number): string {
  const start = firstFrame(clip, rate)
  return start === null ? `frame ${frame}` : formatTimecode(start + frame, rate, clip.main.facts?.dropFrame ?? false)
}

async function readNotes(database: Queryable, clip: KnownClip, rate: Rate): Promise<ViewNote[]> {
  const rows = await database
    .select()
    .from(viewNotes)
    .where(eq(viewNotes.clipId, clip.id))
    .orderBy(asc(viewNotes.frame), asc(viewNotes.createdAt))
  return rows.map((row) => ({
    ...{ id: row.id, frame: row.frame, text: row.text, kind: row.kind },
    ...{ seenOn: row.seenOn, isOnOriginal: row.isOnOriginal },
    isOfAnother: row.content !== null && row.content !== contentOf(clip),
    timecode: nameFrame(clip, rate, row.frame),
    at: row.createdAt.toISOString(),
  }))
}

/** The clips that are set apart from the choice for all of a production. */
export async function readApart(database: Queryable, productionId: string) {
  const rows = await database
    .select({ clipId: clips.id, title: clips.name, choice: clipViews.shown })
    .from(clipViews)
    .innerJoin(clips, eq(clips.id, clipViews.clipId))
    .where(and(eq(clips.productionId, productionId), isNotNull(clipViews.shown)))
    .orderBy(asc(clips.name))
  return rows.flatMap(({ choice, ...row }) => (choice === null ? [] : [{ ...row, choice }]))
}

/** The pictures of a cut one after another: each as the frames of its clip that it uses and that are there. */
export function presentWatch({ row, cut, resolutions, material }: CutState): CutWatch {
  const pictures = new Set(cut.tracks.filter(({ kind }) => kind === 'picture').map(({ name }) => name))
  const all = cut.events
    .map((event, position) => ({ event, position, resolution: resolutions[position] as Resolution }))
    .filter(({ event }) => pictures.has(event.track) && event.isDisabled !== true)
    .sort((a, b) => a.event.record.startFrame - b.event.record.startFrame || a.position - b.position)
  const events = all.flatMap(({ event, position, resolution }) => {
    const clip = resolution.clipId === null ? undefined : material.clips.get(resolution.clipId)
    const facts = clip?.main.facts
    if (!clip || !facts?.picture) return []
    const at = (frame: number) => framesInto(facts, event.sourceRate, fraction(frame))
    const startFrame = Math.max(0, Number(floor(at(resolution.needed.startFrame))))
    const endFrame = Math.min(facts.picture.frames, Number(ceiling(at(resolution.needed.endFrame))))
    if (endFrame <= startFrame) return []
    return [
      {
        ...{ position, number: event.number, track: event.track, state: resolution.state, startFrame, endFrame },
        record: formatTimecode(event.record.startFrame, cut.rate, cut.dropFrame),
        clipId: clip.id,
        clipName: clip.name,
      },
    ]
  })
  return { cutId: row.id, name: row.name, events, without: all.length - events.length }
}
