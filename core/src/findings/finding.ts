import type { CutEvent, Resolution, ResolvableClip } from '../cut/index.ts'
import type { Notice, SoundUse } from '../describe/index.ts'
import type { JoinedSources } from '../join/index.ts'
import { onVolume } from '../naming/index.ts'
import type { Aspect, EvidenceRow, PairVerdict } from '../pairing/index.ts'
import type { PairKind } from '../recipe/index.ts'
import type { GuidelessTrack, SoundLink, SyncChange } from '../sync/index.ts'
import type { Rate } from '../time/index.ts'

/** The words for how much a finding matters. */
export type Severity = 'blocks handoff' | 'needs a look' | 'note'

export type FindingKind =
  | 'volume away'
  | 'file gone'
  | 'moved'
  | 'name elsewhere'
  | 'rate mismatch'
  | 'timecode mismatch'
  | 'reel mismatch'
  | 'length mismatch'
  | 'channels mismatch'
  | 'shape mismatch'
  | 'too short'
  | 'proxy plays, original lost'
  | 'ambiguous'
  | 'another name'
  | 'another original'
  | 'original is a proxy'
  | 'original changed'
  | 'parts mismatch'
  | 'original damaged'
  | 'picture mismatch'
  | 'sound out of sync'
  | 'stale proxy'
  | 'unresolved'
  | 'only on a card'
  | 'gap in stills'
  | 'variable rate'
  | 'raster mismatch'
  | 'cut rate mismatch'
  | 'wrong kind'
  | 'equal names'
  | 'duplicate'
  | 'mixed recipes'
  | 'look differs'
  | 'other rate'
  | 'proxy scale'
  | 'guide sound'
  | 'stale sync'
  | 'no guide'
  | 'old proxy name'
  | 'joined file'
  | 'newer version'

/**
 * `offload`: in Intake, from the volume that the finding names. `trim`: the use gives up what is not there. `take
 * apart`: the uses of a joined file become uses of its parts. `accept redelivery`: what the original holds now is the
 * one that is meant.
 */
export type OfferedMend =
  | 'repoint'
  | 'make again'
  | 'offload'
  | 'trim'
  | 'take apart'
  | 'replace from the start'
  | 'restamp'
  | 'rename'
  | 'pad'
  | 'accept redelivery'

/** Something wrong with a cut's links: what, where, why, and what would mend it. */
export interface Finding {
  /** Stays the same as long as the trouble does, so that a decision about it can be kept. */
  readonly key: string
  /** What it is about, where its key also says how that stands: a decision on that is none on what comes after. */
  readonly subject?: string
  readonly kind: FindingKind
  readonly severity: Severity
  /** A sentence for a person, with the numbers in it. */
  readonly message: string
  readonly clipId: string | null
  /** The pairs that a mend of it would make again. */
  readonly pairIds: readonly string[]
  /** The volume that has to be put in, or copied from, where that is what it is about. */
  readonly volumeLabel?: string
  /** Whether that is in, and its share or disk says nothing. */
  readonly volumeHangs?: boolean
  /** Positions of the events it touches. */
  readonly events: readonly number[]
  readonly evidence: readonly EvidenceRow[]
  readonly mends: readonly OfferedMend[]
  /** The clips among which a person chooses for its events, the likeliest first, with what speaks against each. */
  readonly choices?: readonly { readonly clipId: string; readonly against: string | null }[]
}

/** Another known file that looks like a clip's lost one: its path on its volume. */
export interface Sighting {
  readonly path: string
  readonly volumeLabel: string
  /** Whether that is a card or a disc, which leaves again. */
  readonly isRemovable: boolean
  readonly sameContent: boolean
}

export interface FindingClip extends ResolvableClip {
  readonly volumeLabel: string
  /** Where its volume stands on this system. */
  readonly volumeRoot: string
  /** Whether its share or disk says nothing at all, which is why it is away. */
  readonly volumeHangs: boolean
  /** What tells its content, of a clip of one file. */
  readonly fingerprint: string | null
  /** What is noteworthy about it by itself. */
  readonly notices: readonly Notice[]
  readonly volumeIsHere: boolean
  /** The recording that it was synced with; null without one. */
  readonly soundLink: SoundLink | null
  /** Why that sync may not hold any more; null while it does. */
  readonly syncChange: SyncChange | null
  /** What a person said of its own sound. */
  readonly soundUse: SoundUse | null
  /** Its tracks that were heard and are no guide. */
  readonly guidelessTracks: readonly GuidelessTrack[]
  /** Files of the original whose content is another than when they were first seen. */
  readonly changedFiles: readonly { readonly path: string; readonly fingerprint: string }[]
  /** Why its files are no one clip any more; null while they are. */
  readonly notOneClip: string | null
  /** A copy of it that is here, where it is away itself. */
  readonly copyHere?: { readonly path: string; readonly volumeLabel: string } | undefined
  /** Files of the original that are not where they should be, with where else they were seen. */
  readonly lostFiles: readonly { readonly path: string; readonly sightings: readonly Sighting[] }[]
  readonly pairs: readonly {
    readonly id: string
    readonly name: string
    readonly kind: PairKind
    /** What it was made with, as far as that is known. */
    readonly recipe: { readonly id: string; readonly name: string; readonly version: number } | null
    /** The LUT that is burnt into its pictures. */
    readonly viewingLut: string | null
    readonly verdict: PairVerdict
    readonly comparison: readonly EvidenceRow[] | null
    /** Whether the original's content is another than it was made of. */
    readonly originalChanged: boolean
    /** Why its sound is not what it would be made of now; null while it is. */
    readonly soundChange: string | null
    /** Whether a copy sets it right without a picture being encoded again. */
    readonly isCuredByCopy: boolean
    /** What Ennick would call it if it made it now, where that is not its name. */
    readonly nameToday: string | null
  }[]
}

export interface FindingContext {
  readonly rate: Rate
  readonly dropFrame: boolean
  readonly events: readonly CutEvent[]
  readonly resolutions: readonly Resolution[]
  readonly clips: ReadonlyMap<string, FindingClip>
  /** The raster in which the cut was made, when its list says so. */
  readonly raster?: { readonly width: number; readonly height: number } | undefined
  /** Files of several made items, which a cut may name. */
  readonly joined?: JoinedSources
  /** What the finished programme is to be. */
  readonly production?: { readonly rate: Rate; readonly width: number; readonly height: number }
  /** What stands for an event in the keys of findings; its position unless told otherwise. */
  readonly eventKey?: (position: number) => string
}

/** The key of a finding that is decided upon as it stands now. */
export const keyedOn = (subject: string, now: string): Pick<Finding, 'key' | 'subject'> => ({
  ...{ key: `${subject}:${now}`, subject },
})

/** What stands for an event in the key of a finding. */
export const keyOfEvent = (context: FindingContext, position: number): string =>
  context.eventKey?.(position) ?? String(position)

/** One check: it looks at the whole cut and answers with what it found. */
export type Check = (context: FindingContext) => Finding[]

/** The clips that the cut uses, each with the positions of its events. */
export function usedClips(context: FindingContext): { clip: FindingClip; events: number[] }[] {
  const used = new Map<string, { clip: FindingClip; events: number[] }>()
  context.resolutions.forEach((resolution, position) => {
    const clip = resolution.clipId === null ? undefined : context.clips.get(resolution.clipId)
    if (!clip) return
    const entry = used.get(clip.id)
    if (entry) entry.events.push(position)
    else used.set(clip.id, { clip, events: [position] })
  })
  return [...used.values()]
}

/** "event 4", "events 4, 7 and 9": how a list numbers them. */
export function eventNumbers(context: FindingContext, positions: readonly number[]): string {
  const numbers = [...new Set(positions.map((position) => (context.events[position] as CutEvent).number))]
  if (numbers.length === 1) return `event ${numbers[0]}`
  return `events ${numbers.slice(0, -1).join(', ')} and ${numbers.at(-1)}`
}

export const fact = (
  aspect: Aspect,
  expected: string,
  found: string,
  difference: string | null = null,
): EvidenceRow => ({
  aspect,
  expected,
  found,
  agrees: false,
  difference,
})

/** The events of several things, each once. */
export const eventsOf = (list: readonly { readonly events: readonly number[] }[]): number[] => [
  ...new Set(list.flatMap(({ events }) => events)),
]

/**
 * What findings are that touch no one clip and no pair: remarks on the cut as a whole.
 * @param mark tells those of one kind apart; it names no clips, as there may be thousands
 */
export const remark = (
  kind: FindingKind,
  mark: string,
  message: string,
  events: readonly number[],
  evidence: readonly EvidenceRow[],
  mend: { readonly mends: readonly OfferedMend[]; readonly pairIds: readonly string[] } = { mends: [], pairIds: [] },
): Finding => ({
  ...{ key: `${kind}:${mark}`, kind, severity: 'note', message, clipId: null, events, evidence },
  ...mend,
})

/** Where a file of a clip lies, as people say it: its path on the volume, and the volume. */
export const placeOf = (
  { originalPaths: [first], name, volumeRoot, volumeLabel }: FindingClip,
  path = first ?? name,
): string => `${onVolume([{ rootPath: volumeRoot }], path)?.path ?? path} on “${volumeLabel}”`
