import { type Check, eventNumbers, fact, placeOf, usedClips } from '../finding.ts'

/** The original's volume is not here today: nothing is lost, but somebody has to fetch it. */
export const volumeAway: Check = (context) =>
  usedClips(context)
    .filter(({ clip }) => clip.presence === 'away')
    .map(({ clip, events }) => ({
      key: `volume away:${clip.id}`,
      kind: 'volume away' as const,
      severity: 'blocks handoff' as const,
      message: `${clip.name} is on volume “${clip.volumeLabel}”, which is away. Put it in; ${eventNumbers(context, events)} ${events.length === 1 ? 'needs' : 'need'} it.`,
      clipId: clip.id,
      pairIds: [],
      volumeLabel: clip.volumeLabel,
      events,
      evidence: [
        fact('place', `volume “${clip.volumeLabel}” here`, 'the volume is away'),
        ...clip.originalPaths.map((path) =>
          fact('place', placeOf(clip, path), 'cannot be seen while the volume is away'),
        ),
      ],
      mends: ['repoint' as const],
    }))
