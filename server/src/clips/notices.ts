import { clipNotices, type Notice } from '@ennick/core'
import { hasChanged } from '../store/backups.ts'
import { type KnownClip, playsNow } from '../store/material.ts'

/** What is noteworthy about a clip by itself. */
export const noticesOf = (clip: KnownClip, today: string): Notice[] =>
  clipNotices(
    {
      id: clip.id,
      volumeLabel: clip.main.volume.label,
      volumeKind: clip.main.volume.kind,
      copyKinds: clip.copies
        .filter(({ file, isVerified }) => isVerified && file.presence !== 'gone' && file.problem === null)
        .map(({ file }) => file.volume.kind),
      presence: clip.presence,
      isChanged: clip.files.some(hasChanged),
      proxyPlays: clip.pairs.some(playsNow),
      sequence: clip.main.sequence,
      facts: clip.main.facts,
    },
    today,
  )
