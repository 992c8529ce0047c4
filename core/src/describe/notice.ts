import {
  describeGaps,
  type MediaFacts,
  type ReelOverlap,
  reelInFile,
  type StillSequence,
  sequenceGaps,
} from '../media/index.ts'
import { sameReel } from '../naming/index.ts'
import type { Presence } from '../pairing/index.ts'
import { formatRate, formatTimecode } from '../time/index.ts'

export type NoticeKind =
  | 'proxy plays, original lost'
  | 'proxy plays, original away'
  | 'only on a card'
  | 'original changed'
  | 'parts mismatch'
  | 'reel mismatch'
  | 'copy differs'
  | 'stale sync'
  | 'gap in stills'
  | 'variable rate'
  | 'edit list'
  | 'timecode base'
  | 'several pictures'
  | 'reel overlap'
  | 'variant'
  | 'odd notes'
  | 'odd date'

/** Something about a clip that a person should know before it is used: what, and the sentence that says it. */
export interface Notice {
  readonly kind: NoticeKind
  readonly message: string
}

/** Kinds of volume that leave again: what is only there is one slip away from being lost. */
export const removableKinds: ReadonlySet<string> = new Set(['card', 'recorder', 'disc', 'shuttle'])

const looksWhole = 'Its proxy plays, so it looks whole; its original'

export interface NoticedClip {
  readonly id: string
  readonly volumeLabel: string
  readonly volumeKind: string
  /** Kinds of the volumes on which verified copies lie. */
  readonly copyKinds: readonly string[]
  readonly presence: Presence
  /** Where files lie that would be copies of it by size and fingerprint, and are not, read whole. */
  readonly unlikeCopies: readonly string[]
  /** Whether one of its files has other content than when it was first seen. */
  readonly isChanged: boolean
  /** Why its files are no one clip any more; null while they are. */
  readonly notOneClip: string | null
  /** The reel that its file named when it came; null where a person or a rule said it, or nobody did. */
  readonly reelFromFile: string | null
  /** The scene and take that its file named when it came, as far as nobody has said another since. */
  readonly notesFromFile: { readonly scene: string | null; readonly take: string | null }
  /** Why the sync with its recording may not hold any more; null while it does. */
  readonly syncChange: string | null
  /** Whether some made item is there to be played. */
  readonly proxyPlays: boolean
  readonly sequence: StillSequence | null
  readonly facts: MediaFacts | null
}

/** Whether a clip is, and has verified copies, on volumes alone that leave again. */
export const isOnlyOnCard = (clip: Pick<NoticedClip, 'volumeKind' | 'copyKinds' | 'presence'>): boolean =>
  clip.presence !== 'gone' && [clip.volumeKind, ...clip.copyKinds].every((kind) => removableKinds.has(kind))

/**
 * What is noteworthy about a clip by itself.
 * @param today the latest date that it may be anywhere, against which one in the future is seen
 */
export function clipNotices(clip: NoticedClip, today: string): Notice[] {
  const notices: Notice[] = []
  if (clip.proxyPlays && clip.presence === 'gone')
    notices.push({
      kind: 'proxy plays, original lost',
      message: `${looksWhole} is gone from “${clip.volumeLabel}”. Find it in Mend before anything is finished with it.`,
    })
  if (clip.proxyPlays && clip.presence === 'away')
    notices.push({
      kind: 'proxy plays, original away',
      message: `${looksWhole} is on “${clip.volumeLabel}”, which is away. Put that in before anything is finished with it.`,
    })
  if (isOnlyOnCard(clip))
    notices.push({
      kind: 'only on a card',
      message: `It is only on “${clip.volumeLabel}”, which leaves again. Offload it before anything is made or cut from it.`,
    })
  if (clip.isChanged && clip.presence !== 'gone')
    notices.push({
      kind: 'original changed',
      message:
        `It has other content on “${clip.volumeLabel}” than when it was first seen: it was written over, or its card ` +
        'was used again. If what it was is meant, look for another copy of that; if it was delivered again, accept it.',
    })
  if (clip.notOneClip !== null && clip.presence !== 'gone')
    notices.push({
      kind: 'parts mismatch',
      message:
        `Its files are no one clip any more: ${clip.notOneClip}. Bring back the file that goes with the others, or take ` +
        'back the mend by which this one came.',
    })
  const reelNow = clip.facts && reelInFile(clip.facts)
  if (clip.reelFromFile !== null && reelNow && !sameReel(clip.reelFromFile, reelNow))
    notices.push({
      kind: 'reel mismatch',
      message:
        `It is of reel ${clip.reelFromFile}, as its file said when it came; what lies there now says ${reelNow}. ` +
        'Set its reel right if that one is meant.',
    })
  if (clip.syncChange !== null) notices.push({ kind: 'stale sync', message: clip.syncChange })
  for (const place of clip.unlikeCopies)
    notices.push({
      kind: 'copy differs',
      message:
        `What lies at ${place} is alike by size and fingerprint, and is not the same, read whole: one of the two is ` +
        'damaged. Play both before either is deleted, and copy it once more.',
    })
  const gaps = clip.sequence ? sequenceGaps(clip.sequence) : []
  if (gaps.length)
    notices.push({
      kind: 'gap in stills',
      message: `Its stills have gaps: ${describeGaps(gaps)} missing. A gap shows the still before it.`,
    })
  if (clip.facts?.picture?.variableRate)
    notices.push({
      kind: 'variable rate',
      message:
        'Its frame rate varies, as phones record it: no proxy is made of it, and which picture stands at a frame of a ' +
        'list is another in each program. Cut with a copy of a constant rate.',
    })
  const { furtherPictures } = clip.facts ?? {}
  if (furtherPictures)
    notices.push({
      kind: 'several pictures',
      message:
        `${furtherPictures === 1 ? 'Another picture runs' : `${furtherPictures} more pictures run`} beside the first in ` +
        'its file. The first is this clip: nothing is shown, made or checked of the others.',
    })
  const { heldFrames, frames } = clip.facts?.picture ?? {}
  if (heldFrames)
    notices.push({
      kind: 'edit list',
      message:
        `An edit list in the file shows ${frames} of the ${heldFrames} frames that it holds, as where a clip was ` +
        'trimmed without being written anew. Frames and timecode are counted from the first one shown; a program that ' +
        'does not keep to edit lists counts them from another.',
    })
  const { labelsPerSecond, picture, startFrame, dropFrame } = clip.facts ?? {}
  if (labelsPerSecond && picture && startFrame != null)
    notices.push({
      kind: 'timecode base',
      message:
        `Its timecode base is ${labelsPerSecond}, and its pictures run at ${formatRate(picture.rate)}: ` +
        'in the file they share labels, or skip some. Here every picture has a label of its own; ' +
        `its first is ${formatTimecode(startFrame, picture.rate, dropFrame)}.`,
    })
  for (const field of ['scene', 'take'] as const) {
    const [came, now] = [clip.notesFromFile[field], clip.facts?.soundNotes?.[field]]
    if (came && now && came !== now)
      notices.push({
        kind: 'odd notes',
        message: `It is of ${field} ${came}, as its file said when it came; what lies there now says ${now}.`,
      })
  }
  for (const problem of clip.facts?.soundNotes?.problems ?? []) notices.push({ kind: 'odd notes', message: problem })
  const created = clip.facts?.createdAt?.slice(0, 10)
  if (created && /^\d{4}-\d{2}-\d{2}$/.test(created) && created > today)
    notices.push({
      kind: 'odd date',
      message: `It claims to be made on ${created}, which is in the future: was the camera’s clock set?`,
    })
  return notices
}

/** What an overlap says to one of its two clips. */
export function overlapNotice(overlap: ReelOverlap, clipId: string): Notice {
  const isFirst = overlap.first.id === clipId
  const other = isFirst ? overlap.second : overlap.first
  if (overlap.variants) {
    const [own, others] = isFirst
      ? [overlap.variants.first, overlap.variants.second]
      : [overlap.variants.second, overlap.variants.first]
    return {
      kind: 'variant',
      message:
        `It and ${other.name} are one take of reel ${overlap.reel} twice: this one is ${own}, that one ${others}. ` +
        'A list that names reel and timecode alone means either.',
    }
  }
  return {
    kind: 'reel overlap',
    message: `It and ${other.name} are both reel ${overlap.reel} from ${overlap.from} to ${overlap.to}: a list that names reel and timecode means either.`,
  }
}
