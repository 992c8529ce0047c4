import { isOfKind } from '../match/index.ts'
import { labelledRange } from '../media/index.ts'
import {
  baseName,
  comparablePath,
  listedReelLength,
  mapPath,
  normalName,
  normalPath,
  possibleStems,
  reelKey,
  sameReel,
  stem,
  versionOfFile,
} from '../naming/index.ts'
import type { EvidenceRow } from '../pairing/compare.ts'
import { compareText, groupBy } from '../text/index.ts'
import { type ExactRange, floor, formatRate, formatTimecode, isElsewhere, type Rate, sameRate } from '../time/index.ts'
import { type CutEvent, exactNeeds, wholeFrames } from './model.ts'
import { namesOfEvent } from './names-of-event.ts'
import { onClipAxis } from './on-clip-axis.ts'
import { type Reach, reachOf } from './reach.ts'
import type {
  AwaitedOriginal,
  EventState,
  Resolution,
  ResolvableClip,
  ResolveContext,
  ResolvedBy,
} from './resolution.ts'
import { SequenceIndex } from './sequence-index.ts'

/**
 * Finds the original of every event: a person's choice first, then its path through the path map, then its name
 * by the suffix rule, then reel and timecode. A name or a reel that two clips share chooses neither. A path that reel or
 * timecode contradict gives way to a clip with which name and reel agree. A clip that fits by reel and timecode and is
 * called otherwise is a rival for a person to choose, and no landing; so is one that holds something else than what the
 * event is known to have been on.
 * An event that plays a proxy whose original is gone or away says "on proxy", never "on original".
 */
export const resolveEvents = (
  events: readonly CutEvent[],
  context: ResolveContext & KnownOfEvents & { readonly recordRate: Rate },
): Resolution[] => new EventResolver(context).resolve(events, context, context.recordRate)

const stemsOf = (clip: ResolvableClip): Set<string> =>
  new Set([clip.name, ...clip.formerNames].map((name) => normalName(stem(name))))

/** Clips by the paths of their files, whatever case and Unicode form a list writes them in. */
class PathIndex {
  readonly #exact = new Map<string, ResolvableClip>()
  /** Null where several files differ in case or form alone: then only the exact path tells which is meant. */
  readonly #comparable = new Map<string, ResolvableClip | null>()

  add(path: string, clip: ResolvableClip): void {
    this.#exact.set(normalPath(path), clip)
    const key = comparablePath(path)
    const known = this.#comparable.get(key)
    this.#comparable.set(key, known === undefined || known === clip ? clip : null)
  }

  find(path: string): ResolvableClip | undefined {
    return this.#exact.get(normalPath(path)) ?? this.#comparable.get(comparablePath(path)) ?? undefined
  }
}

interface Found {
  readonly clip: ResolvableClip
  readonly by: ResolvedBy
}

type NotFound = Pick<Resolution, 'rivals' | 'evidence' | 'awaited'>

/** What is known of the events of a cut beside their list, by position. */
export interface KnownOfEvents {
  /** The clip that a person or a mend chose. */
  readonly chosen: ReadonlyMap<number, string>
  readonly awaited?: ReadonlyMap<number, AwaitedOriginal>
}

const listed = (reel: string): string => reelKey(reel).slice(0, listedReelLength)

/** Whether an event can show the clip at all: a picture is no sound. */
const isShownBy = (event: CutEvent, clip: ResolvableClip): boolean =>
  isOfKind(event.kind === 'sound' ? 'with sound' : 'picture or still', clip.facts)

/** The best first. */
const presences: readonly ResolvableClip['presence'][] = ['here', 'away', 'gone']

const unlike = (aspect: EvidenceRow['aspect'], expected: string, found: string): EvidenceRow => ({
  ...{ aspect, expected, found, agrees: false, difference: null },
})

const ambiguous = (aspect: 'name' | 'reel', clips: readonly ResolvableClip[], found: string): NotFound => ({
  rivals: clips.map((clip) => clip.id),
  evidence: [{ aspect, expected: 'one clip', found, agrees: false, difference: 'ambiguous' }],
})

/** The same for several cuts of one production: its clips are put in order once. */
export class EventResolver {
  readonly #context: ResolveContext
  readonly #byId = new Map<string, ResolvableClip>()
  readonly #byOriginalPath = new PathIndex()
  readonly #sequences = new SequenceIndex()
  readonly #byMadePath = new PathIndex()
  readonly #byStem = new Map<string, ResolvableClip[]>()
  readonly #byReel = new Map<string, ResolvableClip[]>()
  /** What is known and no landing, an original that is none or a file that cannot be read: told when it is asked for. */
  readonly #amissByStem = new Map<string, EvidenceRow[]>()

  constructor(context: ResolveContext) {
    this.#context = context
    const append = <T>(map: Map<string, T[]>, key: string, item: T): void => {
      const list = map.get(key)
      if (list) list.push(item)
      else map.set(key, [item])
    }
    for (const { path, problem } of context.unreadable) {
      const row = unlike('name', 'a file that can be read', `${path} is damaged: ${problem}`)
      append(this.#amissByStem, normalName(stem(path)), row)
    }
    for (const clip of context.clips) {
      this.#byId.set(clip.id, clip)
      if (clip.role !== 'original') {
        const found = `${clip.name} is no original: ${clip.roleReason ?? clip.role}`
        for (const key of stemsOf(clip)) append(this.#amissByStem, key, unlike('role', 'an original', found))
        continue
      }
      for (const path of clip.madePaths) this.#byMadePath.add(path, clip)
      for (const key of stemsOf(clip)) append(this.#byStem, key, clip)
      this.#sequences.add(clip)
      if (clip.reel) append(this.#byReel, listed(clip.reel), clip)
    }
    // What lies at a place now comes before what lay there once, or lies there when another card is in.
    for (const presence of [...presences].reverse())
      for (const clip of context.clips)
        if (clip.role === 'original' && clip.presence === presence)
          for (const path of clip.originalPaths) this.#byOriginalPath.add(path, clip)
  }

  /** @param recordRate at which the cut counts */
  resolve(events: readonly CutEvent[], { chosen, awaited }: KnownOfEvents, recordRate: Rate): Resolution[] {
    const needed = exactNeeds(events, recordRate)
    return events.map((event, position) => {
      const need = needed[position] as ExactRange
      const clip = this.#byId.get(chosen.get(position) ?? '')
      if (clip) return this.#judge(event, need, { clip, by: 'choice' })
      return this.#resolve(event, need, awaited?.get(position))
    })
  }

  #resolve(event: CutEvent, needed: ExactRange, awaited: AwaitedOriginal | undefined): Resolution {
    const found = this.#unlessAnother(this.#find(event, needed), awaited)
    if ('rivals' in found)
      return {
        state: 'unresolved',
        clipId: null,
        by: null,
        needed: wholeFrames(needed),
        exactNeed: needed,
        shortfall: null,
        ...found,
      }
    return this.#judge(event, needed, found)
  }

  /** What fits by what a list says is no landing where the event is known to have been on something else. */
  #unlessAnother(found: Found | NotFound, awaited: AwaitedOriginal | undefined): Found | NotFound {
    if (!awaited) return found
    if ('rivals' in found) {
      const clip = found.rivals.map((id) => this.#byId.get(id)).find((rival) => rival?.content === awaited.content)
      return clip ? { clip, by: 'content' } : { ...found, awaited }
    }
    if (found.clip.content === awaited.content) return found
    const { name } = found.clip
    const row =
      awaited.content === null
        ? unlike('content', `one of several, ${awaited.name} among them`, `${name}, and not the others`)
        : unlike('content', `what ${awaited.name} held`, `${name} holds something else`)
    return { rivals: [found.clip.id], evidence: [row], awaited }
  }

  #find(event: CutEvent, needed: ExactRange): Found | NotFound {
    const placed = this.#byPath(event)
    const isContradicted =
      placed && !(this.#reelAgrees(event, placed.clip) && this.#touches(event, needed, placed.clip))
    if (placed && !isContradicted) return placed
    const found = this.#byNameOrReel(event, needed)
    if (!placed) return found
    if ('rivals' in found)
      return found.rivals.length ? { ...found, rivals: [...new Set([placed.clip.id, ...found.rivals])] } : placed
    if (found.clip === placed.clip) return placed
    return this.#agreesInReel(event, found.clip)
      ? found
      : { rivals: [placed.clip.id, found.clip.id], evidence: this.#whyNot(event, needed, placed.clip) }
  }

  #byPath(event: CutEvent): Found | undefined {
    if (event.path === null) return undefined
    const mapped = mapPath(event.path, this.#context.mappings)
    for (const path of [mapped, event.path]) {
      if (path === undefined) continue
      const original = this.#byOriginalPath.find(path) ?? this.#sequences.at(path)
      if (original && isShownBy(event, original)) return { clip: original, by: 'path' }
      const made = this.#byMadePath.find(path)
      if (made && isShownBy(event, made)) return { clip: made, by: 'path of its proxy' }
    }
    return undefined
  }

  #byNameOrReel(event: CutEvent, needed: ExactRange): Found | NotFound {
    const named = this.#named(event)
    const likely = named.filter((clip) => this.#reelAgrees(event, clip))
    const touched = likely.filter((clip) => this.#touches(event, needed, clip))
    // A reel that is missing on one side makes no tie with one that agrees.
    const agreeing = touched.filter((clip) => this.#agreesInReel(event, clip))
    const fitting = oneOfEachContent(agreeing.length ? agreeing : touched)
    if (fitting.length === 1) return { clip: fitting[0] as ResolvableClip, by: 'name' }
    if (fitting.length > 1) return ambiguous('name', fitting, `${fitting.length} clips of this name cover the use`)
    const evidence = named.flatMap((clip) => this.#whyNot(event, needed, clip))
    const onReel = event.reel === null ? [] : this.#onReel(event, needed)
    if (onReel.length > 1)
      return ambiguous('reel', onReel, `${onReel.length} clips of reel ${event.reel} cover the use`)
    const [only] = onReel
    if (only) {
      if (event.clipName === null && event.path === null) return { clip: only, by: 'reel and timecode' }
      return {
        rivals: [only.id],
        evidence: [...evidence, ...this.#judge(event, needed, { clip: only, by: 'reel and timecode' }).evidence],
      }
    }
    // The one that is called so, though the use lies wholly beyond it: it is too short, by so much.
    if (likely.length === 1) return { clip: likely[0] as ResolvableClip, by: 'name' }
    return { rivals: [], evidence: [...evidence, ...this.#whyNone(event, named)] }
  }

  /** Why nothing is found: what there is of the name, if only a proxy or what cannot be read. */
  #whyNone(event: CutEvent, named: readonly ResolvableClip[]): EvidenceRow[] {
    const asked = new Set(namesOfEvent(event).flatMap((name) => possibleStems(name, this.#context.suffixes)))
    const evidence = [...asked].flatMap((key) => this.#amissByStem.get(key) ?? [])
    if (named.length === 0 && evidence.length === 0) {
      const name = event.clipName ?? (event.path ? baseName(event.path) : 'not known')
      evidence.push(unlike('name', name, `no clip of this name${this.#otherVersions(name)}`))
    }
    if (event.reel !== null) evidence.push(unlike('reel', event.reel, 'no clip of this reel covers the use'))
    return evidence
  }

  /** What there is of a shot of which the version that is asked for is not known, as the end of a sentence. */
  #otherVersions(name: string): string {
    const shot = versionOfFile(baseName(normalPath(name)))?.shot
    if (shot === undefined) return ''
    const others = this.#context.clips.flatMap((clip) => {
      const of = clip.role === 'original' ? versionOfFile(clip.name) : null
      return of?.shot === shot ? [{ name: clip.name, version: of.version }] : []
    })
    const [newest] = others.sort((a, b) => b.version - a.version)
    return newest ? `; the newest of its shot that is known is version ${newest.version}, ${newest.name}` : ''
  }

  #named(event: CutEvent): ResolvableClip[] {
    const found = new Set<ResolvableClip>()
    for (const name of namesOfEvent(event)) {
      for (const possible of possibleStems(name, this.#context.suffixes))
        for (const clip of this.#byStem.get(possible) ?? this.#sequences.called(possible))
          if (isShownBy(event, clip)) found.add(clip)
    }
    return [...found]
  }

  /** The clips of its reel that cover the use; where none does, those that it lies on in part. */
  #onReel(event: CutEvent, needed: ExactRange): ResolvableClip[] {
    const reel = event.reel as string
    const onReel = (this.#byReel.get(listed(reel)) ?? []).filter(
      (clip) => sameReel(reel, clip.reel as string) && this.#rateAgrees(event, clip) && isShownBy(event, clip),
    )
    const touched = onReel.filter((clip) => this.#touches(event, needed, clip))
    const covering = touched.filter((clip) => !this.#reach(event, needed, clip).lack)
    return oneOfEachContent(covering.length ? covering : touched)
  }

  #agreesInReel(event: CutEvent, clip: ResolvableClip): boolean {
    return event.reel !== null && clip.reel !== null && sameReel(event.reel, clip.reel)
  }

  #reelAgrees(event: CutEvent, clip: ResolvableClip): boolean {
    return event.reel === null || clip.reel === null || sameReel(event.reel, clip.reel)
  }

  #rateAgrees(event: CutEvent, clip: ResolvableClip): boolean {
    return !clip.facts.picture || sameRate(clip.facts.picture.rate, event.sourceRate)
  }

  /** Whether the use lies on the clip at least in part: one that lies wholly elsewhere belongs to another twin. */
  #touches(event: CutEvent, needed: ExactRange, clip: ResolvableClip): boolean {
    if (!this.#rateAgrees(event, clip)) return true
    const range = labelledRange(clip.facts, event.sourceRate)
    if (!range) return true
    return !isElsewhere(onClipAxis(event, needed, clip, this.#context.suffixes), range)
  }

  #reach(event: CutEvent, needed: ExactRange, clip: ResolvableClip): Reach {
    return reachOf(event, needed, clip, this.#context.suffixes)
  }

  #whyNot(event: CutEvent, needed: ExactRange, clip: ResolvableClip): EvidenceRow[] {
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
        expected: label(Number(floor(needed.start)), event.sourceRate),
        found: `${clip.name} starts at ${label(range, clip.facts.picture?.rate ?? event.sourceRate)}`,
        agrees: false,
        difference: 'the use lies outside this clip',
      })
    }
    return rows
  }

  #judge(event: CutEvent, needed: ExactRange, found: Found): Resolution {
    const { clip, by } = found
    const { use, lack } = this.#reach(event, needed, clip)
    const evidence: EvidenceRow[] = []
    const name = event.clipName ?? (event.path === null ? 'not known' : baseName(normalPath(event.path)))
    const known = stemsOf(clip)
    const sameName = possibleStems(name, this.#context.suffixes).some(
      (asked) => known.has(asked) || this.#sequences.called(asked).includes(clip),
    )
    evidence.push({
      aspect: 'name',
      expected: name,
      found: clip.name,
      agrees: sameName,
      difference: sameName ? null : 'another name',
    })
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
    const state = stateOf(clip, lack === null)
    return {
      state,
      clipId: clip.id,
      by,
      needed: wholeFrames(use),
      exactNeed: use,
      shortfall: lack,
      evidence: evidence.map((row) => (row.agrees ? { ...row, difference: null } : row)),
      rivals: [],
    }
  }
}

/** Of clips with the very same content any is it: the one that is there comes first, and one with a proxy that plays. */
function oneOfEachContent(clips: readonly ResolvableClip[]): ResolvableClip[] {
  if (clips.length < 2) return [...clips]
  const order = (a: ResolvableClip, b: ResolvableClip): number =>
    presences.indexOf(a.presence) - presences.indexOf(b.presence) ||
    Number(a.damage !== null) - Number(b.damage !== null) ||
    Number(b.proxyPlays) - Number(a.proxyPlays) ||
    compareText(a.id, b.id)
  const best = groupBy([...clips].sort(order), ({ id, fingerprint }) => fingerprint ?? id)
  return clips.filter((clip) => best.get(clip.fingerprint ?? clip.id)?.[0] === clip)
}

function stateOf(clip: ResolvableClip, covered: boolean): EventState {
  if (clip.presence === 'here' && clip.damage !== null) return 'original damaged'
  if (clip.presence === 'here' && clip.role !== 'original') return 'on proxy'
  if (clip.presence === 'here') return covered ? 'on original' : 'short'
  if (clip.proxyPlays) return 'on proxy'
  return clip.presence === 'away' ? 'original away' : 'original gone'
}
