import type {
  EvidenceRow,
  FileRole,
  GuidelessTrack,
  JoinedSources,
  PairVerdict,
  Presence,
  Recipe,
  SyncChange,
} from '@ennick/core'
import type { lutAssignments } from './lut-schema.ts'
import type { ProductionRow } from './production-row.ts'
import type { clips, files, pairs, volumes } from './schema.ts'

export type VolumeRow = typeof volumes.$inferSelect
export type ClipRow = typeof clips.$inferSelect
export type PairRow = typeof pairs.$inferSelect
export type LutAssignmentRow = typeof lutAssignments.$inferSelect

/** A file with where it is on this system and whether it is there. */
export type KnownFile = typeof files.$inferSelect & {
  readonly volume: VolumeRow
  /** The root of its volume. */
  readonly root: string
  /** For numbered stills the path of their pattern. */
  readonly fullPath: string
  readonly presence: Presence
}

export interface KnownPair extends PairRow {
  readonly files: readonly { readonly file: KnownFile; readonly part: 'whole' | 'picture' | 'sound' }[]
  /** The newest version of what it was made with; null for one that was adopted. */
  readonly recipe: Recipe | null
  /** How it compares with its original now; null when that was never looked at. */
  readonly compare: () => EvidenceRow[] | null
  readonly verdict: PairVerdict
  /** Whether the original's content is another than it was made of. */
  readonly originalChanged: boolean
  /** Why its sound is not what it would be made of now, in a sentence; null while it is. */
  readonly soundChange: string | null
}

/** Whether all files of a made item are there, so that it can be played. */
export const playsNow = ({ files: made }: KnownPair): boolean =>
  made.length > 0 && made.every(({ file }) => file.presence === 'here')

export interface KnownClip extends ClipRow {
  /** Its files; where one is away and a copy of it that was read back is here, that copy. */
  readonly files: readonly KnownFile[]
  /** The files that it is linked with, by their ids, wherever they are. */
  readonly linkedIds: readonly string[]
  /** The first file; its facts speak for the clip, and of several files they are those of all together. */
  readonly main: KnownFile
  /** Files elsewhere that would be copies by size and fingerprint, and are not, read whole. */
  readonly unlikeCopies: readonly KnownFile[]
  /** Files elsewhere with the same content. */
  readonly copies: readonly { readonly file: KnownFile; readonly isVerified: boolean }[]
  readonly presence: Presence
  /** Whether its files are the parts of one take, one after another. */
  readonly isSpanned: boolean
  /** Whether its files are its tracks, the picture's first. */
  readonly isTrackSet: boolean
  /** Why its files are no one clip any more; null while they are. */
  readonly notOneClip: string | null
  /** Why the sync with its recording may not hold any more; null while it does, and without one. */
  readonly syncChange: SyncChange | null
  /** What its file is for; only originals are resolved to. */
  readonly role: FileRole
  readonly roleReason: string | null
  /** What a person said of its very file. */
  readonly declaredRole: FileRole | null
  /** Why one of its files cannot be read any more. */
  readonly damage: string | null
  /** Its tracks that were heard and are no guide. */
  readonly guidelessTracks: readonly GuidelessTrack[]
  /** Those in use; what a mend has replaced is left out. */
  readonly pairs: readonly KnownPair[]
}

/** The content of a clip: the fingerprints of its files, in order. */
export const contentOf = ({ files: own }: Pick<KnownClip, 'files'>): string =>
  own.map(({ fingerprint }) => fingerprint).join(' ')

/** What is known of one production's material at this moment, put together once and read from many sides. */
export interface Material {
  /** Its suffixes are those of the production and of every recipe. */
  readonly production: ProductionRow
  /** The newest version of every recipe. */
  readonly recipes: ReadonlyMap<string, Recipe>
  readonly lutAssignments: readonly LutAssignmentRow[]
  readonly volumes: readonly VolumeRow[]
  readonly files: ReadonlyMap<string, KnownFile>
  readonly clips: ReadonlyMap<string, KnownClip>
  readonly pairs: ReadonlyMap<string, KnownPair>
  /** Those that were done away with among them: a cut may name them still. */
  readonly joined: JoinedSources
}
