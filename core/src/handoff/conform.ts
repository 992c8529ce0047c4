import {
  type Cut,
  type CutEvent,
  carriedBeside,
  type Fit,
  listedRaster,
  type Medium,
  mediumOf,
  neededRanges,
  type Raster,
  type Resolution,
  type ResolvableClip,
  refit,
  shiftSource,
  sourceDropOf,
} from '../cut/index.ts'
import { frameInList, labelledRange, type ShapeOfPicture } from '../media/index.ts'
import { fileName, normalName, normalPath, stem } from '../naming/index.ts'
import { sameShape } from '../pairing/index.ts'
import { uprightSquareRaster } from '../recipe/index.ts'
import {
  compare,
  type ExactRange,
  type Fraction,
  type FrameRange,
  floor,
  fraction,
  framesOfDaysBefore,
  sameRate,
  subtract,
} from '../time/index.ts'

/**
 * The cut on its originals: each event with its original's name, reel and path, its source frames on the
 * original's timecode axis. An event without an original keeps its name and reel and loses its path,
 * so that nothing in the list ever points at a proxy. A cut that was made in the raster of its proxies is brought to
 * that of the production, where both have one shape; scales lose what the proxies' size had added, and keep the
 * editor's part.
 * @param production the raster of the finished programme
 */
export function conformCut(
  cut: Cut,
  resolutions: readonly Resolution[],
  clips: ReadonlyMap<string, ResolvableClip>,
  { name, production }: { readonly name: string; readonly production: Raster },
): Cut {
  const needed = neededRanges(cut.events, cut.rate)
  // A scale of which nobody knows what it is a scale of cannot be brought anywhere.
  const isKnown = cut.events.every((event) => !event.fit || listedRaster(event) !== null)
  const isBrought = isKnown && cut.raster !== undefined && sameShape(square(cut.raster), square(production))
  const raster = isBrought ? production : cut.raster
  return {
    ...cut,
    name,
    ...(raster && { raster: { width: raster.width, height: raster.height } }),
    events: cut.events.map((event, position) => {
      const resolution = resolutions[position] as Resolution
      const clip = resolution.clipId === null ? undefined : clips.get(resolution.clipId)
      const { medium: _, ...bare } = event
      if (!clip)
        return { ...bare, ...carriedBeside(event, null), path: null, notes: [...event.notes, '* OPEN: NO ORIGINAL'] }
      // By how much the axis of the original lies elsewhere than that of the list: a list may count from zero.
      const shift = resolution.needed.startFrame - (needed[position] as FrameRange).startFrame
      const onAxis = shiftSource(bare, shift)
      const { path, clipName, note, range: whole } = fileOf(clip, event, onAxis.source, resolution.needed)
      const days = daysBefore(clip, event, whole)
      const { sourceDropFrame: __, fit: ___, carried: ____, ...shifted } = shiftSource(onAxis, -days)
      const range = whole && { start: subtract(whole.start, fraction(days)), end: subtract(whole.end, fraction(days)) }
      const fit = fitOn(event, clip, cut.raster, raster)
      const medium = mediumOfUse(clip, event, range)
      return {
        ...shifted,
        clipName,
        reel: clip.reel ?? event.reel,
        path,
        ...dropOf(clip, event, cut),
        ...(fit && { fit }),
        ...(medium && { medium }),
        ...carriedBeside(event, clip.name),
        mediumStartFrame: null,
        notes: note === null ? event.notes : [...event.notes, note],
      }
    }),
  }
}

/** The frames of whole days before one of several files: a file that begins after midnight has that day's labels. */
function daysBefore({ facts }: ResolvableClip, { sourceRate }: CutEvent, part: ExactRange | null): number {
  if (!part || !facts.picture || !sameRate(facts.picture.rate, sourceRate)) return 0
  return framesOfDaysBefore(Number(floor(part.start)), facts.picture.rate, facts.dropFrame)
}

/** A raster of square pixels. */
const square = ({ width, height }: Raster): ShapeOfPicture => ({
  ...{ width, height, rotation: 0 },
  pixelAspect: { numerator: 1, denominator: 1 },
})

/** How it stands with its original, where the list says with what and in what it stood. */
function fitOn(
  event: CutEvent,
  clip: ResolvableClip,
  from: Raster | undefined,
  to: Raster | undefined,
): Fit | undefined {
  const { picture } = clip.facts
  const listed = listedRaster(event)
  return listed && picture && from && to
    ? refit(event, { medium: listed, raster: from }, { medium: uprightSquareRaster(picture), raster: to })
    : event.fit
}

/** Where the file of the original lies at the rate of the list's labels, so that a format can count from its start. */
function mediumOfUse({ facts, firstStill }: ResolvableClip, event: CutEvent, part: ExactRange | null): Medium | null {
  const range = part ?? labelledRange(facts, event.sourceRate)
  return range && { ...mediumOf(facts, range), ...(firstStill !== undefined && { firstStill }) }
}

/** The labels of an original count as its file does, whatever the list's own do. */
function dropOf(clip: ResolvableClip, event: CutEvent, cut: Cut): { sourceDropFrame?: boolean } {
  const { picture, dropFrame } = clip.facts
  if (picture !== null && sameRate(picture.rate, event.sourceRate))
    return sourceDropOf(dropFrame, event.sourceRate, cut)
  return event.sourceDropFrame === undefined ? {} : { sourceDropFrame: event.sourceDropFrame }
}

interface FileOfUse {
  readonly path: string | null
  readonly clipName: string
  readonly note: string | null
  /** Where it lies as the list counts, when it is one of several. */
  readonly range: ExactRange | null
}

/**
 * The file that holds a use: of a take over several, the one in which it begins.
 * @param needed all that the use shows, also where that lies before what it begins with, as it does backwards
 */
function fileOf(clip: ResolvableClip, event: CutEvent, use: FrameRange, needed: FrameRange): FileOfUse {
  if (clip.tracks) return fileOfTracks(clip, clip.tracks, event)
  const parts = clip.parts.map(({ path, range }) => ({ path, range: inList(clip, event, range) }))
  const first = fraction(use.startFrame)
  const at = parts.findIndex(({ range }) => compare(first, range.start) >= 0 && compare(first, range.end) < 0)
  const part = parts[at]
  if (!part) return { path: clip.originalPaths[0] ?? null, clipName: clip.name, note: null, range: null }
  const shows = {
    start: compare(fraction(needed.startFrame), part.range.start),
    end: compare(fraction(needed.endFrame), part.range.end),
  }
  const step = shows.end > 0 ? 1 : shows.start < 0 ? -1 : 0
  const next = step === 0 ? undefined : parts[at + step]
  const note = next ? `* GOES ON IN: ${fileName(next.path)}` : null
  return { path: part.path, clipName: fileName(part.path), note, range: part.range }
}

/** Where one of several files lies as a list counts. */
function inList({ facts }: ResolvableClip, { sourceRate }: CutEvent, { startFrame, endFrame }: FrameRange): ExactRange {
  const at = (frame: number): Fraction => frameInList(facts, sourceRate, fraction(frame - (facts.startFrame ?? 0)))
  return { start: at(startFrame), end: at(endFrame) }
}

/**
 * Of a clip whose tracks are files of their own, the one that the list names, and else the picture's, which nobody takes
 * for the wrong sound. Of a recording, which has no picture, the first, with all of them named beside it.
 */
function fileOfTracks(clip: ResolvableClip, tracks: readonly string[], { path, clipName }: CutEvent): FileOfUse {
  const listed = [path === null ? null : fileName(normalPath(path)), clipName].flatMap((name) => name ?? [])
  const isListed = (file: string): boolean =>
    listed.some((name) => [fileName(file), stem(file)].some((own) => normalName(own) === normalName(name)))
  const named = tracks.find(isListed)
  const chosen = named ?? tracks[0] ?? null
  if (clip.facts.picture || chosen === null) return { path: chosen, clipName: clip.name, note: null, range: null }
  const note = named ? null : `* TRACKS ARE FILES: ${tracks.map(fileName).join(', ')}`
  return { path: chosen, clipName: fileName(chosen), note, range: null }
}
