import type { Today } from '@ennick/contract'
import type { CutState } from '../cuts/cut-state.ts'
import type { KnownClip, Material, VolumeRow } from '../store/known-material.ts'

type VolumeAway = Today['volumesAway'][number]

/** What is away with a volume. */
class Lack {
  readonly cuts = new Set<string>()
  readonly clips = new Set<string>()
  /** Of which what is here was never compared with what is away. */
  readonly notCompared = new Set<string>()
  readonly pairs = new Set<string>()
  others = 0
}

/** The content of a clip that is here: of its own files, and of copies that were read back. */
const contentHere = ({ files, copies }: KnownClip): Set<string> =>
  new Set(
    [...files, ...copies.flatMap(({ file, isVerified }) => (isVerified ? [file] : []))].flatMap((file) =>
      file.presence === 'here' && file.problem === null ? [file.fingerprint] : [],
    ),
  )

/**
 * The volumes of a production that are away, each with what is missed while it is: a card that was offloaded and taken
 * out is away for ever, and nobody is to look for it. A copy is missed as long as its content is not here as well, or
 * nobody has compared the two. What is missed most comes first.
 */
export function presentVolumesAway(material: Material, states: readonly CutState[]): VolumeAway[] {
  const away = material.volumes.filter((volume) => !volume.isHere)
  if (away.length === 0) return []
  const lacks = new Map(away.map(({ id }) => [id, new Lack()]))
  /** Files that are away and belong to something. */
  const told = new Set<string>()
  for (const clip of material.clips.values()) {
    for (const file of clip.files) {
      if (file.presence !== 'away') continue
      told.add(file.id)
      lacks.get(file.volumeId)?.clips.add(clip.id)
    }
    const copies = clip.copies.filter(({ file }) => file.presence === 'away')
    const here = copies.length ? contentHere(clip) : null
    for (const { file, isVerified } of copies) {
      told.add(file.id)
      if (!here?.has(file.fingerprint)) lacks.get(file.volumeId)?.clips.add(clip.id)
      else if (!isVerified) lacks.get(file.volumeId)?.notCompared.add(clip.id)
    }
  }
  for (const pair of material.pairs.values())
    for (const { file } of pair.files) {
      if (file.presence !== 'away') continue
      told.add(file.id)
      lacks.get(file.volumeId)?.pairs.add(pair.id)
    }
  for (const file of material.files.values()) {
    const lack = file.presence === 'away' && !told.has(file.id) ? lacks.get(file.volumeId) : undefined
    if (lack) lack.others++
  }
  for (const { row, resolutions } of states)
    for (const { clipId } of resolutions)
      for (const file of (clipId === null ? undefined : material.clips.get(clipId))?.files ?? [])
        if (file.presence === 'away') lacks.get(file.volumeId)?.cuts.add(row.name)
  return away
    .map((volume) => presentAway(volume, lacks.get(volume.id) as Lack))
    .sort(
      (a, b) =>
        Number(b.isMissed) - Number(a.isMissed) || b.neededBy.length - a.neededBy.length || lackOf(b) - lackOf(a),
    )
}

function presentAway(volume: VolumeRow, lack: Lack): VolumeAway {
  const isKnown = volume.kind === 'made' || volume.lastScanAt !== null
  // Whether these were copied the ledger does not know.
  const unread = volume.unreadKinds.reduce((sum, { files }) => sum + files, volume.growingFiles)
  const others = lack.others + unread
  const lacking = { clips: lack.clips.size, notCompared: lack.notCompared.size, pairs: lack.pairs.size, others }
  return {
    ...{ id: volume.id, label: volume.label, kind: volume.kind },
    ...{ isAllowed: volume.isAllowed, isAnswering: volume.isAnswering },
    lastSeenAt: volume.lastSeenAt?.toISOString() ?? null,
    neededBy: [...lack.cuts],
    ...lacking,
    isMissed: lackOf(lacking) > 0 || !isKnown || !volume.isAllowed || !volume.isAnswering,
  }
}

/** How much of it is missed, whatever it is. */
const lackOf = ({
  clips,
  notCompared,
  pairs,
  others,
}: Pick<VolumeAway, 'clips' | 'notCompared' | 'pairs' | 'others'>) => clips + notCompared + pairs + others
