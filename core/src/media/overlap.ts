import { reelKey } from '../naming/index.ts'
import { formatTimecode, nominalFramesPerSecond, type Rate } from '../time/index.ts'

/** A moving picture by its place on a reel. */
export interface ReeledClip {
  readonly id: string
  readonly name: string
  readonly reel: string | null
  /** Null when it has no timecode. */
  readonly startFrame: number | null
  readonly frames: number
  readonly rate: Rate
  readonly dropFrame: boolean
  /** Its raster and codec in words, by which variants of one take are told apart. */
  readonly look: string
}

/** Two originals of one reel that claim the same timecode: a list that names reel and timecode means either. */
export interface ReelOverlap {
  readonly reel: string
  readonly first: { readonly id: string; readonly name: string }
  readonly second: { readonly id: string; readonly name: string }
  readonly frames: number
  /** Where both are, as labels. */
  readonly from: string
  readonly to: string
  /** What they are, when they are one take in two sizes or codecs: equal start and length, and not alike. */
  readonly variants: { readonly first: string; readonly second: string } | null
}

/**
 * Finds originals whose reels are equal and whose timecode overlaps. Only labels of one counting can clash: clips are
 * compared with those of the same nominal rate and drop flag.
 */
export function findReelOverlaps(clips: readonly ReeledClip[]): ReelOverlap[] {
  const groups = new Map<string, { clip: ReeledClip; start: number; end: number }[]>()
  for (const clip of clips) {
    if (clip.startFrame === null || !clip.reel) continue
    const key = `${reelKey(clip.reel)}\n${nominalFramesPerSecond(clip.rate)}\n${clip.dropFrame}`
    const group = groups.get(key) ?? []
    group.push({ clip, start: clip.startFrame, end: clip.startFrame + clip.frames })
    groups.set(key, group)
  }
  const overlaps: ReelOverlap[] = []
  for (const group of groups.values()) {
    group.sort((a, b) => a.start - b.start || (a.clip.name < b.clip.name ? -1 : 1))
    // Everything that is still running when the next begins; of a long pile-up the earliest few say enough.
    let running: typeof group = []
    for (const here of group) {
      running = running.filter((other) => other.end > here.start)
      for (const other of running.slice(0, 3)) {
        const end = Math.min(other.end, here.end)
        const label = (frame: number): string => formatTimecode(frame, here.clip.rate, here.clip.dropFrame)
        overlaps.push({
          reel: here.clip.reel as string,
          first: { id: other.clip.id, name: other.clip.name },
          second: { id: here.clip.id, name: here.clip.name },
          frames: end - here.start,
          from: label(here.start),
          to: label(end),
          variants: variantsOf(other.clip, here.clip),
        })
      }
      running.push(here)
    }
  }
  return overlaps
}

function variantsOf(first: ReeledClip, second: ReeledClip): ReelOverlap['variants'] {
  const isOneTake = first.startFrame === second.startFrame && first.frames === second.frames
  return isOneTake && first.look !== second.look ? { first: first.look, second: second.look } : null
}
