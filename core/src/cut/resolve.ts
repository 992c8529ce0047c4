import { type MediaFacts, mediumRange } from '../media/index.ts'
import { baseName, mapPath, normalName, normalPath, type PathMapping, possibleStems, stem } from '../naming/index.ts'
import { sameReel } from '../pairing/candidate.ts'
import type { EvidenceRow } from '../pairing/compare.ts'
import type { Presence } from '../pairing/verdict.ts'
import {
  exactRange,
  type FrameRange,
  formatRate,
  formatTimecode,
  framesPerDay,
  isCovered,
  type Rate,
  type Shortfall,
  sameRate,
  shortfall,
} from '../time/index.ts'
import { type CutEvent, neededRanges } from './model.ts'

/**
 * The words for an event. One whose original is known but not there is never called "on original": it plays its
 * proxy, or nothing.
 */
export type EventState = 'on original' | 'on proxy' | 'original away' | 'original gone' | 'short' | 'unresolved'

/** What resolving needs to know of a clip. */
export interface KnownClip {
  readonly id: string
  /** What its file is called today. */
  readonly name: string
  /** What it was called before: a renamed original still answers to the name that the cut knows. */
  readonly formerNames: readonly string[]
  readonly reel: string | null
  readonly facts: MediaFacts
  readonly presence: Presence
  /** Full paths on this system: the original's files, and those of its made items. */
  readonly originalPaths: readonly string[]
  readonly madePaths: readonly string[]
  /** Whether some made item is there to be played. */
  readonly proxyPlays: boolean
}

export type ResolvedBy = 'choice' | 'path' | 'path of its proxy' | 'name' | 'reel and timecode'

export interface Resolution {
  readonly state: EventState
  readonly clipId: string | null
  readonly by: ResolvedBy | null
  /** What the event needs of its source, in frames of the source rate, on the original's own timecode axis. */
  readonly needed: FrameRange
  readonly shortfall: Shortfall | null
  readonly evidence: readonly EvidenceRow[]
  /** The clips that fit equally well, when none could be chosen. */
  readonly rivals: readonly string[]
}

export interface ResolveContext {
  readonly clips: readonly KnownClip[]
  readonly mappings: readonly PathMapping[]
  readonly suffixes: readonly string[]
  /** Clips that a person chose, by the event's position in the list. */
  readonly chosen: ReadonlyMap<number, string>
}

/**
 * Finds the original of every event: a person's choice first, then its path through the path map, then its name
 * by the suffix rule, then reel and timecode. A name or a reel that two clips share chooses neither.
 * An event that plays a proxy whose original is gone or away says "on proxy", never "on original".
 */
export function resolveEvents(events: readonly CutEvent[], context: ResolveContext): Resolution[] {
  const index = new ClipIndex(context)
  const needed = neededRanges(events)
  return events.map((event, position) => index.resolve(event, needed[position] as FrameRange, context.chosen.get(position) ?? null))
}

const stemsOf = (clip: KnownClip): Set<string> => new Set([clip.name, ...clip.formerNames].map((name) => normalName(stem(name))))

const comparablePath = (path: string): string => normalName(normalPath(path))

interface Found {
  readonly clip: KnownClip
  readonly by: ResolvedBy
}

class ClipIndex {
  readonly #context: ResolveContext
  readonly #byId = new Map<string, KnownClip>()
  readonly #byOriginalPath = new Map<string, KnownClip>()
  readonly #byMadePath = new Map<string, KnownClip>()
  readonly #byStem = new Map<string, KnownClip[]>()
  readonly #byReel = new Map<string, KnownClip[]>()

  constructor(context: ResolveContext) {
    this.#context = context
    const append = (map: Map<string, KnownClip[]>, key: string, clip: KnownClip): void => {
      const list = map.get(key)
      if (list) list.push(clip)
      else map.set(key, [clip])
    }
    for (const clip of context.clips) {
      this.#byId.set(clip.id, clip)
      for (const path of clip.originalPaths) this.#byOriginalPath.set(comparablePath(path), clip)
      for (const path of clip.madePaths) this.#byMadePath.set(comparablePath(path), clip)
      for (const key of stemsOf(clip)) append(this.#byStem, key, clip)
      if (clip.reel) append(this.#byReel, clip.reel.trim().toUpperCase().slice(0, 8), clip)
    }
  }

  resolve(event: CutEvent, needed: FrameRange, chosenId: string | null): Resolution {
    const chosen = chosenId === null ? undefined : this.#byId.get(chosenId)
    const found = chosen ? { clip: chosen, by: 'choice' as const } : (this.#byPath(event) ?? this.#byNameOrReel(event, needed))
    if ('rivals' in found)
      return { state: 'unresolved', clipId: null, by: null, needed, shortfall: null, evidence: found.evidence, rivals: found.rivals }
    return this.#judge(event, needed, found)
  }

  #byPath(event: CutEvent): Found | undefined {
    if (event.path === null) return undefined
    const mapped = mapPath(event.path, this.#context.mappings)
    for (const path of [mapped, event.path]) {
      if (path === undefined) continue
      const key = comparablePath(path)
      const original = this.#byOriginalPath.get(key)
      if (original) return { clip: original, by: 'path' }
      const made = this.#byMadePath.get(key)
      if (made) return { clip: made, by: 'path of its proxy' }
    }
    return undefined
  }

  #byNameOrReel(event: CutEvent, needed: FrameRange): Found | { rivals: string[]; evidence: EvidenceRow[] } {
    const evidence: EvidenceRow[] = []
    const named = this.#named(event).filter(
      (clip) => (clip.facts.kind === 'sound') === (event.kind === 'sound') || clip.facts.sound.length > 0,
    )
    const fitting = named.filter((clip) => this.#reelAgrees(event, clip) && this.#touches(event, needed, clip))
    if (fitting.length === 1) return { clip: fitting[0] as KnownClip, by: 'name' }
    if (fitting.length > 1) {
      evidence.push({
        aspect: 'name',
        expected: 'one clip',
        found: `${fitting.length} clips of this name cover the use`,
        agrees: false,
        difference: 'ambiguous',
      })
      return { rivals: fitting.map((clip) => clip.id), evidence }
    }
    for (const clip of named) evidence.push(...this.#whyNot(event, needed, clip))
    const onReel = event.reel === null ? [] : this.#onReel(event, needed)
    if (onReel.length === 1) return { clip: onReel[0] as KnownClip, by: 'reel and timecode' }
    if (onReel.length > 1) {
      evidence.push({
        aspect: 'reel',
        expected: 'one clip',
        found: `${onReel.length} clips of reel ${event.reel} cover the use`,
        agrees: false,
        difference: 'ambiguous',
      })
      return { rivals: onReel.map((clip) => clip.id), evidence }
    }
    if (named.length === 0)
      evidence.push({
        aspect: 'name',
        expected: event.clipName ?? (event.path ? baseName(event.path) : 'not known'),
        found: 'no clip of this name',
        agrees: false,
        difference: null,
      })
    if (event.reel !== null)
      evidence.push({ aspect: 'reel', expected: event.reel, found: 'no clip of this reel covers the use', agrees: false, difference: null })
    return { rivals: [], evidence }
  }

  #named(event: CutEvent): KnownClip[] {
    const names = [event.clipName, event.path === null ? null : baseName(normalPath(event.path))].filter(
      (name): name is string => name !== null,
    )
    const found = new Set<KnownClip>()
    for (const name of names) {
      for (const possible of possibleStems(name, this.#context.suffixes))
        for (const clip of this.#byStem.get(possible) ?? []) found.add(clip)
    }
    return [...found]
  }

  #onReel(event: CutEvent, needed: FrameRange): KnownClip[] {
    const reel = event.reel as string
    const listed = this.#byReel.get(reel.trim().toUpperCase().slice(0, 8)) ?? []
    return listed.filter(
      (clip) => sameReel(reel, clip.reel as string) && this.#rateAgrees(event, clip) && this.#lack(event, needed, clip).covered,
    )
  }

  #reelAgrees(event: CutEvent, clip: KnownClip): boolean {
    return event.reel === null || clip.reel === null || sameReel(event.reel, clip.reel)
  }

  #rateAgrees(event: CutEvent, clip: KnownClip): boolean {
    return !clip.facts.picture || sameRate(clip.facts.picture.rate, event.sourceRate)
  }

  /** Whether the use lies on the clip at least in part: one that lies wholly elsewhere belongs to another twin. */
  #touches(event: CutEvent, needed: FrameRange, clip: KnownClip): boolean {
    if (!this.#rateAgrees(event, clip)) return true
    const range = mediumRange(clip.facts, event.sourceRate)
    if (!range) return true
    const use = exactRange(onClipAxis(event, needed, clip))
    return (
      use.end.numerator * range.start.denominator > range.start.numerator * use.end.denominator &&
      use.start.numerator * range.end.denominator < range.end.numerator * use.start.denominator
    )
  }

  #lack(event: CutEvent, needed: FrameRange, clip: KnownClip): { covered: boolean; shortfall: Shortfall | null; use: FrameRange } {
    const use = onClipAxis(event, needed, clip)
    const range = mediumRange(clip.facts, event.sourceRate)
    if (!range) return { covered: true, shortfall: null, use }
    const lack = shortfall(exactRange(use), range)
    return { covered: isCovered(lack), shortfall: isCovered(lack) ? null : lack, use }
  }

  #whyNot(event: CutEvent, needed: FrameRange, clip: KnownClip): EvidenceRow[] {
    const rows: EvidenceRow[] = []
    if (!this.#reelAgrees(event, clip))
      rows.push({
        aspect: 'reel',
        expected: event.reel as string,
        found: `${clip.name} is reel ${clip.reel}`,
        agrees: false,
        difference: 'another reel',
      })
    if (!this.#touches(event, needed, clip)) {
      const range = clip.facts.startFrame ?? 0
      const label = (frame: number, rate: Rate): string =>
        formatTimecode(frame, rate, clip.facts.dropFrame && sameRate(rate, clip.facts.picture?.rate ?? rate))
      rows.push({
        aspect: 'timecode',
        expected: label(needed.startFrame, event.sourceRate),
        found: `${clip.name} starts at ${label(range, clip.facts.picture?.rate ?? event.sourceRate)}`,
        agrees: false,
        difference: 'the use lies outside this clip',
      })
    }
    return rows
  }

  #judge(event: CutEvent, needed: FrameRange, found: Found): Resolution {
    const { clip, by } = found
    const lack = this.#lack(event, needed, clip)
    const evidence: EvidenceRow[] = []
    const name = event.clipName ?? (event.path === null ? 'not known' : baseName(normalPath(event.path)))
    const known = stemsOf(clip)
    const sameName = possibleStems(name, this.#context.suffixes).some((possible) => known.has(possible))
    evidence.push({ aspect: 'name', expected: name, found: clip.name, agrees: sameName, difference: sameName ? null : 'another name' })
    if (event.path !== null && (by === 'path' || by === 'path of its proxy')) {
      evidence.push({
        aspect: 'place',
        expected: event.path,
        found: by === 'path' ? 'the original' : 'its proxy: the event goes to the original',
        agrees: true,
        difference: null,
      })
    }
    if (event.reel !== null)
      evidence.push({
        aspect: 'reel',
        expected: event.reel,
        found: clip.reel ?? 'none',
        agrees: clip.reel === null || sameReel(event.reel, clip.reel),
        difference: 'another reel',
      })
    if (clip.facts.picture) {
      const agrees = this.#rateAgrees(event, clip)
      evidence.push({
        aspect: 'rate',
        expected: formatRate(event.sourceRate),
        found: formatRate(clip.facts.picture.rate),
        agrees,
        difference: agrees ? null : 'the list counts this source at another rate',
      })
    }
    const state = stateOf(clip, lack.covered)
    return {
      state,
      clipId: clip.id,
      by,
      needed: lack.use,
      shortfall: lack.shortfall,
      evidence: evidence.map((row) => (row.agrees ? { ...row, difference: null } : row)),
      rivals: [],
    }
  }
}

function stateOf(clip: KnownClip, covered: boolean): EventState {
  if (clip.presence === 'here') return covered ? 'on original' : 'short'
  if (clip.proxyPlays) return 'on proxy'
  return clip.presence === 'away' ? 'original away' : 'original gone'
}

/**
 * Puts a use on the original's own timecode axis. A list that counts a source from zero is shifted to the
 * original's start; a use after midnight of a clip that runs across it is shifted by a day.
 */
function onClipAxis(event: CutEvent, needed: FrameRange, clip: KnownClip): FrameRange {
  const start = clip.facts.startFrame
  let shift = 0
  if (event.mediumStartFrame === 0 && start !== null && start !== 0 && needed.startFrame < start) shift = start
  const picture = clip.facts.picture
  if (picture && start !== null && sameRate(picture.rate, event.sourceRate)) {
    const day = framesPerDay(picture.rate, clip.facts.dropFrame)
    if (start + picture.frames > day && needed.startFrame + shift < start && needed.endFrame + shift <= start + picture.frames - day)
      shift += day
  }
  return { startFrame: needed.startFrame + shift, endFrame: needed.endFrame + shift }
}
