import { type Check, eventNumbers, fact, usedClips } from '../finding.ts'

/** The false calm: the proxy plays, so all looks well, while the original is not there to finish with. */
export const proxyHidesLoss: Check = (context) =>
  usedClips(context)
    .filter(({ clip }) => clip.presence === 'gone' && clip.proxyPlays)
    .map(({ clip, events }) => ({
      key: `proxy plays:${clip.id}`,
      kind: 'proxy plays, original lost' as const,
      severity: 'blocks handoff' as const,
      message: `The proxy of ${clip.name} still plays in ${eventNumbers(context, events)}, so the cut looks whole; its original is gone.`,
      clipId: clip.id,
      pairIds: [],
      events,
      evidence: [
        fact('place', 'the original', 'gone'),
        {
          aspect: 'place' as const,
          expected: 'a proxy',
          found: clip.madePaths[0] ?? 'here',
          agrees: true,
          difference: null,
        },
      ],
      mends: ['repoint' as const],
    }))
