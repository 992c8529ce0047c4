import { type Presence, removableKinds } from '@ennick/core'

/** What has to be known of a file here. */
interface Known {
  readonly fingerprint: string
  readonly firstFingerprint: string | null
  readonly presence: Presence
  readonly problem: string | null
  readonly volume: { readonly kind: string }
}

/** Whether a file has other content than when it was first seen. */
export const hasChanged = ({
  firstFingerprint,
  fingerprint,
}: Pick<Known, 'firstFingerprint' | 'fingerprint'>): boolean =>
  firstFingerprint !== null && firstFingerprint !== fingerprint

/** The content that a file is held to have: what it was when it was first seen, or what was accepted since. */
export const heldContent = ({ firstFingerprint, fingerprint }: Pick<Known, 'firstFingerprint' | 'fingerprint'>) =>
  firstFingerprint ?? fingerprint

/** The content that the files of a clip are held to have, in order. */
export const heldContents = ({ files }: { readonly files: readonly Known[] }): string =>
  files.map(heldContent).join(' ')

/** Whether a copy has the content of a file, and is here, on a volume that stays. */
export const isAsGood = (copy: Known, file: Known): boolean =>
  copy.presence === 'here' &&
  copy.problem === null &&
  copy.fingerprint === file.fingerprint &&
  !removableKinds.has(copy.volume.kind)

interface Copy<File> {
  readonly file: File
  readonly isVerified: boolean
}

/**
 * Where a clip's file is away, and a copy of it that was read back is here, the copy is as good: it is played, made
 * from and handed off until the other one is back, which is a copy meanwhile.
 */
export function fromBackups<File extends Known, Linked extends { readonly file: File }>(
  linked: readonly Linked[],
  known: readonly Copy<File>[],
): { own: readonly Linked[]; copies: readonly Copy<File>[] } {
  if (known.length === 0 || linked.every(({ file }) => file.presence !== 'away')) return { own: linked, copies: known }
  const copies = [...known]
  const own = linked.map((link): Linked => {
    const { file } = link
    const isBackup = (copy: Copy<File>): boolean => copy.isVerified && isAsGood(copy.file, file)
    const at = file.presence === 'away' && !hasChanged(file) ? copies.findIndex(isBackup) : -1
    const backup = copies[at]
    if (!backup) return link
    copies[at] = { file, isVerified: true }
    // What it held before it was a copy is nothing of this clip.
    const standIn = hasChanged(backup.file) ? { ...backup.file, firstFingerprint: file.firstFingerprint } : backup.file
    return { ...link, file: standIn }
  })
  return { own, copies }
}
