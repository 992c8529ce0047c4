import { bringsBack, doesNotAnswer } from '../away-words.ts'
import { type Check, eventNumbers, type FindingClip, fact, placeOf, usedClips } from '../finding.ts'

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1)

const whatToDo = (cure: string, copyHere: FindingClip['copyHere']): string =>
  copyHere
    ? `The same content is here, at ${copyHere.path} on “${copyHere.volumeLabel}”: repoint to that, or ${cure}`
    : capital(cure)

/** The original's volume is not here today: nothing is lost, but somebody has to fetch it. */
export const volumeAway: Check = (context) =>
  usedClips(context)
    .filter(({ clip }) => clip.presence === 'away')
    .map(({ clip, clip: { name, volumeLabel, volumeHangs, copyHere }, events }) => ({
      key: `volume away:${clip.id}`,
      kind: 'volume away' as const,
      severity: 'blocks handoff' as const,
      message:
        `${name} is on volume “${volumeLabel}”, which ${volumeHangs ? doesNotAnswer : 'is away'}. ` +
        `${whatToDo(bringsBack(volumeHangs), copyHere)}; ` +
        `${eventNumbers(context, events)} ${events.length === 1 ? 'needs' : 'need'} it.`,
      clipId: clip.id,
      pairIds: [],
      volumeLabel: clip.volumeLabel,
      volumeHangs,
      events,
      evidence: [
        fact(
          'place',
          `volume “${clip.volumeLabel}” here`,
          clip.volumeHangs ? 'it does not answer' : 'the volume is away',
        ),
        ...clip.originalPaths.map((path) =>
          fact('place', placeOf(clip, path), 'cannot be seen while the volume is away'),
        ),
        ...(copyHere
          ? [
              {
                ...{ aspect: 'content' as const, expected: name, agrees: true, difference: null },
                found: `${copyHere.path} on “${copyHere.volumeLabel}”`,
              },
            ]
          : []),
      ],
      mends: ['repoint' as const],
    }))
