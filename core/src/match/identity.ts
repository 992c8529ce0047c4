import type { MediaFacts, MediaKind } from '../media/index.ts'
import type { ExactRange, Rate } from '../time/index.ts'
import type { FileRole } from './role.ts'

/** What kind of media is wanted: an event on a picture track may show a still, one on a sound track any that sounds. */
export type WantedKind = MediaKind | 'picture or still' | 'with sound'

/** What is known of something that is looked for. Null is "not known", which neither helps nor hurts a candidate. */
export interface Wanted {
  readonly id: string
  readonly names: readonly string[]
  readonly path: string | null
  readonly kind: WantedKind | null
  readonly reel: string | null
  readonly rate: Rate | null
  readonly startFrame: number | null
  readonly dropFrame: boolean
  readonly frames: number | null
  readonly channels: number | null
  readonly fingerprint: string | null
  /** How far the pictures of candidates are from its own, by their ids, as far as both were looked at. */
  readonly pictures: ReadonlyMap<string, number> | null
  /** Of a lost original: what stands in for it must not be less. */
  readonly picture: PictureGrade | null
  readonly uses: readonly WantedUse[]
}

/** How good a picture is: a re-export has fewer pixels, or a codec that keeps less. */
export interface PictureGrade {
  readonly width: number
  readonly height: number
  readonly codec: string
  readonly pixelFormat: string | null
}

/** A stretch that some event needs, in exact frames of the event's source rate. */
export interface WantedUse {
  readonly label: string
  readonly rate: Rate
  readonly range: ExactRange
}

/** A file that may be what is looked for. */
export interface Candidate {
  readonly id: string
  readonly path: string
  readonly facts: MediaFacts
  readonly reel: string | null
  readonly fingerprint: string | null
  readonly role: FileRole
  /** Why it has that role, in a sentence; null for an original. */
  readonly roleReason: string | null
  /** Whether it lies on a volume that leaves again: of equal files one that stays is chosen. */
  readonly leaves?: boolean
}

/** What of a file tells whether it may be what is looked for at all, before its role is asked. */
export type KnownIdentity = Pick<Candidate, 'id' | 'path' | 'facts' | 'reel' | 'fingerprint'>

/** Whether media is of the kind that is wanted. */
export function isOfKind(wanted: WantedKind, facts: Pick<MediaFacts, 'kind' | 'sound'>): boolean {
  if (wanted === 'picture or still') return facts.kind !== 'sound'
  if (wanted === 'with sound') return facts.sound.length > 0
  return facts.kind === wanted
}
