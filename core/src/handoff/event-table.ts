import type { Cut, CutEvent, Resolution, ResolvableClip, Transition } from '../cut/index.ts'
import { writeDelimited } from '../notes/index.ts'
import {
  allowsDropFrame,
  type FrameRange,
  formatRate,
  formatTimecode,
  mergeRanges,
  rangeLength,
  sameRate,
} from '../time/index.ts'

/** A clip as lists of a handoff name it. */
export type ListedClip = ResolvableClip & { readonly volumeLabel: string }

const eventColumns = [
  ...['Event', 'Track', 'Clip', 'Reel', 'Source in', 'Source out', 'Source rate', 'Record in', 'Record out', 'Frames'],
  ...['Speed', 'Transition', 'Fade', 'State', 'Original', 'Volume', 'Found by', 'Remarks'],
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
    const source = sourceLabels(event, cut)
    return [
      ...[event.number, event.track, event.clipName ?? '', clip?.reel ?? event.reel ?? ''],
      ...[source(event.source.startFrame), source(event.source.endFrame), formatRate(event.sourceRate)],
      ...[record(event.record.startFrame), record(event.record.endFrame), String(rangeLength(event.record))],
      ...[speedInPercent(event), transitionWords(event.transition), transitionWords(event.fadeOut ?? null)],
      ...[event.isDisabled ? `${resolution.state}, switched off` : resolution.state],
      ...[clip?.originalPaths.join('; ') ?? '', clip?.volumeLabel ?? '', resolution.by ?? ''],
      event.notes.map((note) => note.replace(/^\*\s*/, '')).join('; '),
    ]
  })
  return writeDelimited(',', eventColumns, rows)
}

/** One stretch of an original that a cut needs. */
export interface Pull {
  readonly clip: ListedClip
  readonly range: FrameRange
  readonly event: CutEvent
}

/** What a cut needs of its originals: by volume, clip and stretch, each stretch once however often it is used. */
export function pullsOf(cut: Cut, resolutions: readonly Resolution[], clips: ReadonlyMap<string, ListedClip>): Pull[] {
  const needs = new Map<string, { clip: ListedClip; event: CutEvent; ranges: FrameRange[] }>()
  cut.events.forEach((event, position) => {
    const { clipId, needed } = resolutions[position] as Resolution
    const clip = clipId === null ? undefined : clips.get(clipId)
    if (!clip) return
    const key = `${clip.id} ${formatRate(event.sourceRate)}`
    const known = needs.get(key)
    if (known) known.ranges.push(needed)
    else needs.set(key, { clip, event, ranges: [needed] })
  })
  return [...needs.values()]
    .flatMap(({ clip, event, ranges }) => mergeRanges(ranges).map((range) => ({ clip, event, range })))
    .sort(
      (a, b) =>
        a.clip.volumeLabel.localeCompare(b.clip.volumeLabel) ||
        a.clip.name.localeCompare(b.clip.name) ||
        a.range.startFrame - b.range.startFrame,
    )
}

export const pullColumns = ['Name', 'Tape', 'Start', 'End', 'Volume', 'Source File Path'] as const

/** The cells of pulls in the order of `pullColumns`, for an ALE or a table. */
export const pullRows = (cut: Cut, pulls: readonly Pull[]): string[][] =>
  pulls.map(({ clip, range, event }) => {
    const label = sourceLabels(event, cut, clip)
    return [
      ...[clip.name, clip.reel ?? event.reel ?? '', label(range.startFrame), label(range.endFrame)],
      ...[clip.volumeLabel, clip.originalPaths[0] ?? ''],
    ]
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
  return `${name}, ${durationFrames} ${durationFrames === 1 ? 'frame' : 'frames'}${fromBlack ? ', from black' : ''}`
}
