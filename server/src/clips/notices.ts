import { clipNotices, isOnlyOnCard, type Notice } from '@ennick/core'
import { hasChanged } from '../store/backups.ts'
import { type KnownClip, playsNow } from '../store/known-material.ts'
import { placeOf } from '../store/place-words.ts'

/** On what kinds of volume a clip is, and has copies that were read back. */
const placesOf = ({ main, copies, presence }: KnownClip) => ({
  ...{ volumeKind: main.volume.kind, presence },
  copyKinds: copies
    .filter(({ file, isVerified }) => isVerified && file.presence !== 'gone' && file.problem === null)
    .map(({ file }) => file.volume.kind),
})

/** Whether a clip is on no volume that stays. */
export const isAtRisk = (clip: KnownClip): boolean => isOnlyOnCard(placesOf(clip))

const saidByFile = ({ described }: KnownClip, field: string): string | null =>
  described[field]?.from === 'file' ? described[field].value : null

/** What is noteworthy about a clip by itself. */
export const noticesOf = (clip: KnownClip, today: string): Notice[] =>
  clipNotices(
    {
      id: clip.id,
      volumeLabel: clip.main.volume.label,
      ...placesOf(clip),
      unlikeCopies: clip.unlikeCopies.map(placeOf),
      isChanged: clip.files.some(hasChanged),
      notOneClip: clip.notOneClip,
      reelFromFile: clip.reelFrom === 'file' ? clip.reel : null,
      notesFromFile: { scene: saidByFile(clip, 'scene'), take: saidByFile(clip, 'take') },
      syncChange: clip.syncChange?.why ?? null,
      proxyPlays: clip.pairs.some(playsNow),
      sequence: clip.main.sequence,
      facts: clip.main.facts,
    },
    today,
  )
