import type { Cut, CutEvent, Resolution, ResolvableClip, Transition } from '../cut/index.ts'
import { fileName } from '../naming/index.ts'
import { writeDelimited } from '../notes/index.ts'
import { type SoundLink, samplesNeeded } from '../sync/index.ts'
import { count } from '../text/index.ts'
import {
  add,
  allowsDropFrame,
  ceiling,
  divide,
  type Fraction,
  type FrameRange,
  floor,
  formatRate,
  formatTimecode,
  fraction,
  mergeRanges,
  multiply,
  rangeLength,
  rateAsFraction,
  sameRate,
} from '../time/index.ts'

/** A clip as lists of a handoff name it. */
export type ListedClip = ResolvableClip & { readonly volumeLabel: string; readonly soundLink: SoundLink | null }

const eventColumns = [
  ...['Event', 'Track', 'Clip', 'Reel', 'Source in', 'Source out', 'Source rate', 'Record in', 'Record out', 'Frames'],
  ...['Speed', 'Transition', 'Fade', 'State', 'Original', 'Volume', 'Found by'],
  ...['Recording', 'Recording in, samples', 'Recording out, samples', 'Remarks'],
]

/** The events of a cut as a table (RFC 4180), each with where it landed. */
export function eventTable(
  cut: Cut,
  resolutions: readonly Resolution[],
  clips: ReadonlyMap<string, ListedClip>,
): string {
  const rows = cut.events.map((event, position) => {
    const resolution = resolutions[position] as Resolution
    const clip = resolution.clipId === null ? undefined : clips.get(resolution.clipId)
    const record = (frame: number): string => formatTimecode(frame, cut.rate, cut.dropFrame)
    const source = sourceLabels(event, cut, clip)
    return [
      ...[event.number, event.track, event.clipName ?? '', clip?.reel ?? event.reel ?? ''],
      ...[source(event.source.startFrame), source(event.source.endFrame), formatRate(event.sourceRate)],
      ...[record(event.record.startFrame), record(event.record.endFrame), String(rangeLength(event.record))],
      ...[speedInPercent(event), transitionWords(event.transition), transitionWords(event.fadeOut ?? null)],
      ...[event.isDisabled ? `${resolution.state}, switched off` : resolution.state],
      ...[clip?.originalPaths.join('; ') ?? '', clip?.volumeLabel ?? '', resolution.by ?? ''],
      ...recordingCells(event, resolution, clip, clips),
      event.notes.map((note) => note.replace(/^\*\s*/, '')).join('; '),
    ]
  })
  return writeDelimited(',', eventColumns, rows)
}

/** The recording that an event's picture was synced with, and its samples that run meanwhile; empty without one. */
function recordingCells(
  event: CutEvent,
  resolution: Resolution,
  clip: ListedClip | undefined,
  clips: ReadonlyMap<string, ListedClip>,
): [string, string, string] {
  if (!clip?.soundLink) return ['', '', '']
  const { start, end } = samplesNeeded(clip.soundLink, clip.facts, resolution.exactNeed, event.sourceRate)
  const names = clip.soundLink.soundIds.flatMap((id) => clips.get(id)?.name ?? [])
  return [names.join('; '), String(floor(start)), String(ceiling(end))]
}

/** One stretch of an original that a cut needs. */
export interface Pull {
  readonly clip: ListedClip
  readonly range: FrameRange
  readonly event: CutEvent
  /** Whether it is the recording beside the event's own picture, of which the event says nothing. */
  readonly isBeside: boolean
}

/**
 * What a cut needs of its originals: by volume, clip and stretch, each stretch once however often it is used. Where
 * sound is used of a picture that was synced with a recording, that too.
 */
export function pullsOf(cut: Cut, resolutions: readonly Resolution[], clips: ReadonlyMap<string, ListedClip>): Pull[] {
  const needs = new Map<string, { clip: ListedClip; event: CutEvent; isBeside: boolean; ranges: FrameRange[] }>()
  cut.events.forEach((event, position) => {
    const { clipId, needed } = resolutions[position] as Resolution
    const clip = clipId === null ? undefined : clips.get(clipId)
    if (!clip) return
    const key = `${clip.id} ${formatRate(event.sourceRate)}`
    const known = needs.get(key)
    if (known) known.ranges.push(needed)
    else needs.set(key, { clip, event, isBeside: false, ranges: [needed] })
    if (event.kind !== 'sound') return
    for (const { recording, range } of recordingsNeeded(event, resolutions[position] as Resolution, clip, clips)) {
      const ofRecording = `${recording.id} ${formatRate(event.sourceRate)}`
      const before = needs.get(ofRecording)
      if (before) before.ranges.push(range)
      else needs.set(ofRecording, { clip: recording, event, isBeside: true, ranges: [range] })
    }
  })
  return [...needs.values()]
    .flatMap(({ ranges, ...of }) => mergeRanges(ranges).map((range) => ({ ...of, range })))
    .sort(
      (a, b) =>
        a.clip.volumeLabel.localeCompare(b.clip.volumeLabel) ||
        a.clip.name.localeCompare(b.clip.name) ||
        a.range.startFrame - b.range.startFrame,
    )
}

/** The stretches of synced recordings that run while an event does, on their own timecode, in whole frames. */
function recordingsNeeded(
  event: CutEvent,
  { exactNeed }: Resolution,
  clip: ListedClip,
  clips: ReadonlyMap<string, ListedClip>,
): { recording: ListedClip; range: FrameRange }[] {
  const link = clip.soundLink
  if (!link) return []
  const { start, end } = samplesNeeded(link, clip.facts, exactNeed, event.sourceRate)
  return link.soundIds.flatMap((id) => {
    const recording = clips.get(id)
    if (!recording) return []
    const reference = fraction(recording.facts.timeReferenceSamples ?? 0)
    const inFrames = (samples: Fraction): Fraction =>
      multiply(divide(add(reference, samples), fraction(link.sampleRate)), rateAsFraction(event.sourceRate))
    return [
      { recording, range: { startFrame: Number(floor(inFrames(start))), endFrame: Number(ceiling(inFrames(end))) } },
    ]
  })
}

export const pullColumns = ['Name', 'Tape', 'Start', 'End', 'Volume', 'Source File Path'] as const

/** The cells of pulls in the order of `pullColumns`, for an ALE or a table. */
export const pullRows = (cut: Cut, pulls: readonly Pull[]): string[][] =>
  pulls.flatMap(({ clip, range, event, isBeside }) => {
    const label = sourceLabels(event, cut, clip)
    const rowOf = (name: string, path: string): string[] => [
      ...[name, clip.reel ?? (isBeside ? '' : event.reel) ?? '', label(range.startFrame), label(range.endFrame)],
      ...[clip.volumeLabel, path],
    ]
    // Of a recording whose tracks are files of their own each is needed: which one is heard, the mix decides.
    if (clip.tracks && !clip.facts.picture) return clip.tracks.map((path) => rowOf(fileName(path), path))
    return [rowOf(clip.name, clip.originalPaths[0] ?? '')]
  })

/** Writes frames of an event's source as its labels: as its original counts, or else as the list does. */
export function sourceLabels(event: CutEvent, cut: Cut, clip?: ResolvableClip): (frame: number) => string {
  const facts = clip?.facts
  const own = facts?.picture && sameRate(facts.picture.rate, event.sourceRate) ? facts.dropFrame : null
  const listed = event.sourceDropFrame ?? (cut.dropFrame && sameRate(event.sourceRate, cut.rate))
  const isDrop = allowsDropFrame(event.sourceRate) && (own ?? listed)
  return (frame) => formatTimecode(frame, event.sourceRate, isDrop)
}

/** "200 %", "−50 %", "held"; nothing for normal speed. */
export function speedInPercent({ speed }: CutEvent): string {
  const { numerator, denominator } = speed
  if (numerator === denominator) return ''
  return numerator === 0 ? 'held' : `${Number(((numerator / denominator) * 100).toFixed(3))} %`.replace('-', '−')
}

/** "dissolve, 12 frames", "wipe 12, 5 frames, from black"; nothing where there is none. */
export function transitionWords(transition: Transition | null): string {
  if (!transition) return ''
  const { kind, wipeCode, durationFrames, fromBlack } = transition
  const name = kind === 'wipe' ? `wipe ${Number(wipeCode ?? 1)}` : kind
  return `${name}, ${count(durationFrames, 'frame')}${fromBlack ? ', from black' : ''}`
}
