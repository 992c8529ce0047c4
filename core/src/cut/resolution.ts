import type { FileRole } from '../match/index.ts'
import type { MediaFacts } from '../media/index.ts'
import type { PathMapping } from '../naming/index.ts'
import type { EvidenceRow } from '../pairing/compare.ts'
import type { Presence } from '../pairing/verdict.ts'
import type { ExactRange, FrameRange, Shortfall } from '../time/index.ts'

/**
 * The words for an event. One whose original is known but not there, or damaged, is never called "on original": it
 * plays its proxy, or nothing. Nor is one that a person has put on a proxy.
 */
export type EventState =
  | 'on original'
  | 'on proxy'
  | 'original away'
  | 'original gone'
  | 'original damaged'
  | 'short'
  | 'unresolved'

/** What resolving needs to know of a clip. */
export interface ResolvableClip {
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
  /** The files of a take over several, in order, with where each lies on the take's timecode; none of other clips. */
  readonly parts: readonly { readonly path: string; readonly range: FrameRange }[]
  /** The files of a clip whose tracks are files of their own, the picture's first, if it has one; absent of others. */
  readonly tracks?: readonly string[]
  /** The number of the first still of numbered ones. */
  readonly firstStill?: number | undefined
  /** Whether some made item is there to be played. */
  readonly proxyPlays: boolean
  /** What is no original is never resolved to, unless a person chose it. */
  readonly role: FileRole
  readonly roleReason: string | null
  /** Why its file cannot be read to its end any more; null when nothing is known of that. */
  readonly damage: string | null
  /** What marks its content; null where it has several files. */
  readonly fingerprint?: string | null
  /** What marks the content that each of its files is held to have, in order; absent where that is not known. */
  readonly content?: string
}

/** What an event was on when its production was archived, and what the archive lacks. */
export interface AwaitedOriginal {
  readonly name: string
  readonly volumeLabel: string
  /** What marks its content; null where several claimed the event: then only a person says which is meant. */
  readonly content: string | null
}

export type ResolvedBy = 'choice' | 'path' | 'path of its proxy' | 'name' | 'reel and timecode' | 'content'

export interface Resolution {
  readonly state: EventState
  readonly clipId: string | null
  readonly by: ResolvedBy | null
  /** What the event needs of its source, in frames of the source rate, on the original's own timecode axis. */
  readonly needed: FrameRange
  /** The same exactly: sound is cut between frames. */
  readonly exactNeed: ExactRange
  readonly shortfall: Shortfall | null
  readonly evidence: readonly EvidenceRow[]
  /** The clips that fit equally well, when none could be chosen. */
  readonly rivals: readonly string[]
  /** What it is known to have been on, while it is on nothing. */
  readonly awaited?: AwaitedOriginal
}

export interface ResolveContext {
  readonly clips: readonly ResolvableClip[]
  readonly mappings: readonly PathMapping[]
  readonly suffixes: readonly string[]
  /** Files that cannot be read and belong to no clip, by their names: one of them may be what is missed. */
  readonly unreadable: readonly { readonly path: string; readonly problem: string }[]
}
