import type { Cut, CutEvent, Resolution, ResolvableClip } from '../cut/index.ts'
import { fileName } from '../naming/index.ts'
import { type FrameRange, rangeLength, sameRate } from '../time/index.ts'

/**
 * The cut on its originals: each event with its original's name, reel and path, its source frames on the
 * original's timecode axis. An event without an original keeps its name and reel and loses its path,
 * so that nothing in the list ever points at a proxy.
 */
export function conformCut(
  cut: Cut,
  resolutions: readonly Resolution[],
  clips: ReadonlyMap<string, ResolvableClip>,
  name: string,
): Cut {
  return {
    ...cut,
    name,
    events: cut.events.map((event, position) => {
      const resolution = resolutions[position] as Resolution
      const clip = resolution.clipId === null ? undefined : clips.get(resolution.clipId)
      if (!clip) return { ...event, path: null, notes: [...event.notes, '* OPEN: NO ORIGINAL'] }
      const shift = resolution.needed.startFrame - event.source.startFrame
      // A reversed event needs frames before its start: only a whole shift of the axis moves its source.
      const shifted =
        event.speed.numerator < 0 || shift === 0
          ? event.source
          : {
              startFrame: event.source.startFrame + shift,
              endFrame: event.source.startFrame + shift + rangeLength(event.source),
            }
      const { path, clipName, note } = fileOf(clip, shifted)
      return {
        ...event,
        clipName,
        reel: clip.reel ?? event.reel,
        path,
        source: shifted,
        ...dropOf(clip, event, cut),
        mediumStartFrame: null,
        notes: note === null ? event.notes : [...event.notes, note],
      }
    }),
  }
}

/** The labels of an original count as its file does, whatever the list's own do. */
function dropOf(clip: ResolvableClip, event: CutEvent, cut: Cut): { sourceDropFrame?: boolean } {
  const { picture, dropFrame } = clip.facts
  const isKnown = picture !== null && sameRate(picture.rate, event.sourceRate)
  return isKnown && dropFrame !== cut.dropFrame ? { sourceDropFrame: dropFrame } : {}
}

/** The file that holds a use: of a take over several, the one in which it begins. */
function fileOf(clip: ResolvableClip, use: FrameRange): { path: string | null; clipName: string; note: string | null } {
  const part = clip.parts.find(({ range }) => use.startFrame >= range.startFrame && use.startFrame < range.endFrame)
  if (!part) return { path: clip.originalPaths[0] ?? null, clipName: clip.name, note: null }
  const next = use.endFrame > part.range.endFrame ? clip.parts[clip.parts.indexOf(part) + 1] : undefined
  const note = next ? `* GOES ON IN: ${fileName(next.path)}` : null
  return { path: part.path, clipName: fileName(part.path), note }
}
