import type { Cut, KnownClip, Resolution } from '../cut/index.ts'
import { rangeLength } from '../time/index.ts'

/**
 * The cut on its originals: each event with its original's name, reel and path, its source frames on the
 * original's timecode axis. An event without an original keeps its name and reel and loses its path,
 * so that nothing in the list ever points at a proxy.
 */
export function conformCut(cut: Cut, resolutions: readonly Resolution[], clips: ReadonlyMap<string, KnownClip>, name: string): Cut {
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
          : { startFrame: event.source.startFrame + shift, endFrame: event.source.startFrame + shift + rangeLength(event.source) }
      return {
        ...event,
        clipName: clip.name,
        reel: clip.reel ?? event.reel,
        path: clip.originalPaths[0] ?? null,
        source: shifted,
        mediumStartFrame: null,
      }
    }),
  }
}
