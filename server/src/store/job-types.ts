import type {
  EvidenceRow,
  HashKind,
  ManifestLine,
  MediaFacts,
  NeededOutcome,
  NotLanded,
  ProposalRow,
  StillSequence,
  WaveformOutcome,
} from '@ennick/core'
import type { RootIdentity } from '../disk/volume-presence.ts'

/** How far a file is that is fetched; "verified" is one that has its name, and the checksum of its list. */
export type FetchState = 'waiting' | 'arriving' | 'verified' | 'refused'

export type JobState = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled'

export interface JobProgress {
  readonly done: number
  readonly total: number
  readonly unit: 'frames' | 'files' | 'bytes'
  readonly unitsPerSecond: number | null
  readonly secondsLeft: number | null
  /** How many seconds of picture are done in a second. */
  readonly realTime: number | null
  /** What was made is checked when all of it is there. */
  readonly step: 'working' | 'checking'
}

/** What a job of making reads and writes. */
export interface JobFiles {
  readonly source: string
  /** Below the production's place for what is made. */
  readonly outputs: readonly string[]
}

/** Jobs that were planned together. */
export interface MakeBatch {
  readonly id: string
  /** Whether the rest is held when one fails. */
  readonly holdsAtFailure: boolean
}

/** What a job is asked to do. */
export type JobInput =
  | { readonly kind: 'scan'; readonly volumeId: string }
  | {
      readonly kind: 'make'
      readonly clipId: string
      readonly recipeId: string
      readonly recipeVersion?: number
      readonly mendId: string | null
      readonly batch?: MakeBatch
      /** The clip's number among those of the recipe, from 0, for names that count. */
      readonly index?: number
      /** What all that it makes was planned to weigh, where that could be told. */
      readonly plannedBytes?: number
      /** What is made besides, from the same reading of the original. */
      readonly also?: readonly { readonly recipeId: string; readonly recipeVersion?: number; readonly index?: number }[]
    }
  | { readonly kind: 'check'; readonly volumeId: string | null }
  | { readonly kind: 'decode'; readonly pairIds: readonly string[] }
  | {
      readonly kind: 'offload'
      /** The volume that is copied. */
      readonly volumeId: string
      /** The volume that takes the copy, and the folder on it. */
      readonly destinationId: string
      readonly folder: string
      readonly hash: HashKind
      /** Clips that are left, by choice. */
      readonly leave?: readonly string[]
      /** Whether originals that are lost are pointed at the copies of their content. */
      readonly mendsLost?: boolean
    }
  /** Brings what a list names from a store that is reached by its address. */
  | {
      readonly kind: 'fetch'
      /** Of the list; what it names lies beside it. */
      readonly address: string
      readonly destinationId: string
      readonly folder: string
    }
  /** Copies what a cut needs into a folder of its own below another. */
  | {
      readonly kind: 'pull'
      /** Null for an archive: every original of the production. */
      readonly cutId: string | null
      readonly of: 'originals' | 'proxies'
      readonly folder: string
      /** By what the folder was known when this was asked for; absent where an older version asked. */
      readonly place?: RootIdentity
      readonly name: string
      readonly hash: HashKind
      /** Frames at either end of what is used; whole files where it is null. */
      readonly handles: number | null
    }
  /** Puts the production together again from its archive. */
  | {
      readonly kind: 'restore'
      readonly folder: string
      /** Whether every file is read back first. */
      readonly verifies: boolean
    }
  /** Holds a finished file against the originals of its cut. */
  | {
      readonly kind: 'finished'
      readonly cutId: string
      readonly folder: string
      readonly name: string
      /** The record frame at which it begins. */
      readonly firstFrame: number
    }
  | { readonly kind: 'verify'; readonly manifestId: string }
  /** Reads what lies on a volume and its copies elsewhere whole, where nobody has. */
  | { readonly kind: 'compare'; readonly volumeId: string }
  | { readonly kind: 'measure'; readonly clipIds: string[] }
  /** Lays recordings to these pictures by their sound. */
  | { readonly kind: 'sync'; readonly clipIds: readonly string[] }
  /** Whether a folder holds everything that a cut, or the whole production, needs. */
  | { readonly kind: 'collect'; readonly folder: string; readonly cutId: string | null }
  | { readonly kind: 'try'; readonly clipIds: string[] }
  /** Everything that was not looked at yet. */
  | { readonly kind: 'look' }
  | { readonly kind: 'restamp'; readonly pairId: string; readonly mendId: string }
  | { readonly kind: 'pad'; readonly clipId: string; readonly samples: number; readonly mendId: string }
  /** Makes one file of what a batch has made with a recipe. */
  | {
      readonly kind: 'join'
      readonly batchId: string
      readonly recipeId: string
      readonly pairIds: readonly string[]
      readonly fileName: string
    }
  | {
      readonly kind: 'search'
      readonly cutId: string
      readonly folder: string | null
      /** Looked through in this order; not there in searches of before. */
      readonly scopes?: readonly SearchScope[]
      readonly findingKeys: string[] | null
    }

/** A place of a search: one folder, it and all below it, or every file known that is here now. */
export type SearchScope = 'folder' | 'below' | 'known'

/** A needed file, and what became of it in a folder. */
export interface CollectedOriginal {
  readonly clipId: string
  readonly name: string
  readonly outcome: NeededOutcome['outcome']
  readonly path: string | null
  readonly sizeBytes: number
}

/** What a place of a search told: files looked at that no place before it had, and things that it settled. */
export interface ScopeResult {
  readonly scope: SearchScope
  readonly looked: number
  readonly settled: number
}

/** A file found by a search, as its plan speaks of it. */
export interface FoundFile {
  readonly id: string
  readonly path: string
  readonly sizeBytes: number
  readonly mtimeMicros: number
  readonly eachStamp?: string | null
  readonly fingerprint: string
  readonly facts: MediaFacts
  /** Of numbered stills, which lie beside each other: without their folder. Searches of before found none. */
  readonly sequence?: StillSequence | null
}

/** How many events a copy is for, and of how many all is in it that they need. */
export interface Coverage {
  readonly of: number
  readonly covered: number
  /** Those whose original is in it and is too short, or is damaged; absent where an older version counted. */
  readonly short?: number
  readonly damaged?: number
}

/** What a copy does not hold, and why. */
export interface Lacking {
  readonly name: string
  readonly reason: string
}

/** A list that went along with copies, and the events of it that do not land where there is nothing else. */
export interface OpenedList {
  /** Of its format. */
  readonly name: string
  readonly missed: readonly NotLanded[]
}

/** An event of which a finished file does not show what the cut says, or of which that cannot be told. */
export interface FinishedRow {
  /** Of the event in its list. */
  readonly position: number
  readonly state: 'off by frames' | 'another picture' | 'black' | 'soft' | 'not compared'
  readonly detail: string
  /** By so many frames it runs early; late where it is negative. */
  readonly shiftFrames?: number
  /** The record frame at which that is so. */
  readonly recordFrame: number
  /** The frame of the finished file, and the one that the cut says. */
  readonly pictures: {
    readonly frame: number
    readonly original: { readonly fileId: string; readonly frame: number }
  } | null
}

/** What a search looked for: a clip whose file is lost, or events without a clip. */
export interface SearchedThing {
  readonly id: string
  readonly label: string
  readonly clipId: string | null
  /** Which of the clip's files; of an event there is none. */
  readonly ordinal: number | null
  readonly positions: number[]
}

/** A fact that was compared; of which recipe's item, where a job makes several. */
export type JobCheck = EvidenceRow & { readonly recipe?: string }

/** A place of a recording that the sound of a picture was found in. */
export interface HeardSound {
  readonly soundId: string
  /** Of the recording at the picture's first frame. */
  readonly offsetSamples: number
  readonly sampleRate: number
  /** From 0 to 1: how alike the two are over their length. */
  readonly likeness: number
  readonly driftPartsPerMillion: number | null
}

/** What listening to a picture and to the recordings told. */
export interface HeardPicture {
  readonly clipId: string
  readonly outcome: WaveformOutcome['kind'] | 'not exact' | 'not here'
  /** One that was found; several that a person chooses from. */
  readonly sounds: readonly HeardSound[]
}

export type JobResult =
  | {
      readonly kind: 'scan'
      readonly found: number
      readonly probed: number
      readonly unchanged: number
      readonly problems: number
      readonly other: number
      readonly gone: number
      /** Files that were left for later, as something was still writing them. */
      readonly growing?: number
    }
  | {
      readonly kind: 'make'
      readonly pairId: string
      readonly checks: JobCheck[]
      /** What all that it made weighs. */
      readonly bytes?: number
    }
  | {
      readonly kind: 'offload'
      readonly copied: number
      readonly already: number
      readonly bytes: number
      /** Null when nothing could be copied. */
      readonly manifest: string | null
      /** Files that could not be copied, each with the reason. */
      readonly refused: { path: string; reason: string }[]
      /** Files that were copied as they are, and are not what the manifests say that came with them. */
      readonly unlike?: readonly { path: string; reason: string }[]
      /** Files that were left by choice. */
      readonly left?: readonly string[]
      /** Links, hidden files and the like, which no copy goes through. */
      readonly passedOver?: readonly { path: string; what: string }[]
      /** Lost originals that point at the copies now. */
      readonly mended?: number
    }
  | {
      readonly kind: 'fetch'
      readonly fetched: number
      readonly already: number
      readonly bytes: number
      /** Null when nothing is there. */
      readonly manifest: string | null
      readonly refused: number
    }
  | {
      readonly kind: 'pull'
      readonly copied: number
      readonly already: number
      readonly bytes: number
      /** Below the folder that everything went to; null when nothing could be copied. */
      readonly manifest: string | null
      readonly refused: readonly { readonly path: string; readonly reason: string }[]
      /** Clips and events that are not in it, and why. */
      readonly outstanding: readonly Lacking[]
      readonly events: Coverage
      /** The folder with the table, and the lists where they are in it. */
      readonly lists: string
      /** Why no list is in it; null where they are. */
      readonly withoutLists: string | null
      /** What does not land where there is nothing but the copies; absent where no list is on them. */
      readonly opened?: readonly OpenedList[]
    }
  | {
      readonly kind: 'restore'
      /** Files that are what the archive's manifests say; null where that was not asked. */
      readonly verified: number | null
      /** Files of it that are not what was written, and lists that could not be read. */
      readonly trouble: readonly { readonly path: string; readonly reason: string }[]
      /** What the archive does not hold, and why, when it was made; of before that is not known. */
      readonly lacks?: readonly Lacking[]
      /** Recipes that were not known here, by their names. */
      readonly recipes: readonly string[]
      readonly clips: number
      /** Cells that say again what was said of clips. */
      readonly described: number
      readonly cuts: readonly {
        readonly name: string
        readonly version: number
        readonly events: number
        readonly onOriginal: number
      }[]
    }
  | {
      readonly kind: 'finished'
      /** As it was when it was checked. */
      readonly file: FoundFile
      readonly settings: readonly EvidenceRow[]
      /** Pictures of it that were decoded. */
      readonly frames: number
      /** Events of picture that are switched on. */
      readonly events: number
      readonly asCut: number
      /** Of those: told from the frames before and behind. */
      readonly toTheFrame: number
      /** Of those as cut: told to hold the fine detail of the original, where a proxy has less. */
      readonly ofOriginal: number
      /** What is not as the cut says, and what could not be compared, in the order of the record. */
      readonly rows: readonly FinishedRow[]
    }
  | {
      readonly kind: 'verify'
      readonly matching: number
      readonly bytes: number
      /** Everything that does not match. */
      readonly lines: ManifestLine[]
    }
  | {
      readonly kind: 'compare'
      readonly equal: number
      /** What is not the same, and what could not be compared. */
      readonly lines: readonly {
        readonly path: string
        readonly state: 'differs' | 'not compared'
        readonly detail: string
      }[]
    }
  | { readonly kind: 'measure'; readonly measured: number; readonly skipped: number }
  | {
      readonly kind: 'sync'
      readonly heard: readonly HeardPicture[]
      /** What marked the content of each clip that was listened to; absent where an earlier version listened. */
      readonly contents?: Readonly<Record<string, string>>
    }
  | { readonly kind: 'restamp'; readonly pairId: string }
  | { readonly kind: 'pad'; readonly clipId: string; readonly samples: number }
  | { readonly kind: 'join'; readonly joinedId: string; readonly parts: number; readonly frames: number }
  | { readonly kind: 'try'; readonly clean: number; readonly damaged: number; readonly absent: number }
  | { readonly kind: 'look'; readonly looked: number; readonly damaged: number; readonly compared: number }
  | {
      readonly kind: 'check'
      readonly pairs: number
      readonly changedFiles: number
      /** Files that are left as they were known, as something is still writing them. */
      readonly growing?: number
    }
  | {
      readonly kind: 'collect'
      readonly looked: number
      readonly needed: readonly CollectedOriginal[]
      /** The largest of what nobody asked for, and how many and how large all of it is. */
      readonly extra: readonly { readonly path: string; readonly sizeBytes: number }[]
      readonly extraCount: number
      readonly extraBytes: number
      /** Events without a known original: what they need cannot be told. */
      readonly unknown: number
      /** Numbered stills, which are not compared. */
      readonly stills: number
      readonly unreadable: readonly { readonly path: string; readonly reason: string }[]
    }
  | { readonly kind: 'decode'; readonly clean: number; readonly broken: number; readonly absent: number }
  | {
      readonly kind: 'search'
      readonly looked: number
      /** Folders in which nothing could be searched; not there in results of before. */
      readonly unreadable?: readonly { readonly path: string; readonly reason: string }[]
      /** Place by place, as far as it went; not there in results of before. */
      readonly scopes?: readonly ScopeResult[]
      readonly things: SearchedThing[]
      readonly rows: ProposalRow[]
      readonly candidates: FoundFile[]
    }
