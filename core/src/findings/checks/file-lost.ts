import { type Check, eventNumbers, type Finding, fact, usedClips } from '../finding.ts'

/** The volume is here and the file is not: gone, moved with its content, or only its name seen in another place. */
export const fileLost: Check = (context) =>
  usedClips(context)
    .filter(({ clip }) => clip.presence === 'gone')
    .map(({ clip, events }): Finding => {
      const sightings = clip.lostFiles.flatMap((file) => file.sightings)
      const moved = sightings.filter((sighting) => sighting.sameContent)
      const kind = moved.length ? 'moved' : sightings.length ? 'name elsewhere' : 'file gone'
      const [first] = moved
      const [named] = sightings
      // What lies on a card alone is copied from there, not pointed at.
      const isOnCard = first !== undefined && moved.every(({ isRemovable }) => isRemovable)
      const lost = clip.lostFiles.map((file) => file.path).join(', ')
      const place = `${first?.path} on “${first?.volumeLabel}”`
      const there = isOnCard ? `${place}, from where it can be offloaded` : place
      const volume = `volume “${clip.volumeLabel}”`
      const missed = clip.volumeIsHere
        ? `is not on ${volume}, which is here,`
        : `was not on ${volume} any more when that was last here,`
      const what = {
        moved: `is no longer at its place, but the same content is at ${there}.`,
        'name elsewhere':
          `is not at its place. A file of that name is at ${named?.path} on “${named?.volumeLabel}”, ` +
          'with other content.',
        'file gone': `${missed} and was not seen anywhere else.`,
      }[kind]
      const message = `${clip.name} ${what} It carries ${eventNumbers(context, events)}.`
      return {
        key: `lost:${clip.id}`,
        kind,
        severity: 'blocks handoff',
        message,
        clipId: clip.id,
        pairIds: [],
        events,
        evidence: [
          fact('place', lost, 'no such file'),
          ...sightings.map((sighting) => ({
            aspect: sighting.sameContent ? ('content' as const) : ('name' as const),
            expected: clip.name,
            found: `${sighting.path} on “${sighting.volumeLabel}”`,
            agrees: sighting.sameContent,
            difference: sighting.sameContent ? null : 'same name, other content',
          })),
        ],
        ...(isOnCard ? { volumeLabel: first.volumeLabel } : {}),
        mends: isOnCard ? ['repoint', 'offload'] : ['repoint'],
      }
    })
