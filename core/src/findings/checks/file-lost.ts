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
      // What lies on a card alone is copied from there, not pointed at.
      const isOnCard = first !== undefined && moved.every(({ isRemovable }) => isRemovable)
      const lost = clip.lostFiles.map((file) => file.path).join(', ')
      const uses = eventNumbers(context, events)
      const message = {
        moved: `${clip.name} is no longer at its place, but the same content is at ${first?.path} on “${first?.volumeLabel}”${isOnCard ? ', from where it can be offloaded' : ''}. It carries ${uses}.`,
        'name elsewhere': `${clip.name} is not at its place. A file of that name is at ${sightings[0]?.path} on “${sightings[0]?.volumeLabel}”, with other content. It carries ${uses}.`,
        'file gone': `${clip.name} ${clip.volumeIsHere ? `is not on volume “${clip.volumeLabel}”, which is here,` : `was not on volume “${clip.volumeLabel}” any more when that was last here,`} and was not seen anywhere else. It carries ${uses}.`,
      }[kind]
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
