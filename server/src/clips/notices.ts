import { clipNotices, type Notice } from '@ennick/core'
import { type KnownClip, playsNow } from '../store/material.ts'

/** What is noteworthy about a clip by itself. */
export const noticesOf = (clip: KnownClip, today: string): Notice[] =>
  clipNotices(
    {
      id: clip.id,
      volumeLabel: clip.main.volume.label,
      volumeKind: clip.main.volume.kind,
      copyKinds: clip.copies
        .filter(({ file, isVerified }) => isVerified && file.presence !== 'gone')
        .map(({ file }) => file.volume.kind),
      presence: clip.presence,
      proxyPlays: clip.pairs.some(playsNow),
      sequence: clip.main.sequence,
      facts: clip.main.facts,
    },
    today,
  )
