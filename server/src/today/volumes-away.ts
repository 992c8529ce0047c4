import type { Today } from '@ennick/contract'
import type { CutState } from '../cuts/cut-state.ts'
import type { Material, VolumeRow } from '../store/known-material.ts'

type VolumeAway = Today['volumesAway'][number]

/** What is away with a volume. */
class Lack {
  readonly cuts = new Set<string>()
  readonly clips = new Set<string>()
  readonly pairs = new Set<string>()
  others = 0
}

/**
 * The volumes of a production that are away, each with what is missed while it is: a card that was offloaded and taken
 * out is away for ever, and nobody is to look for it. What is missed most comes first.
 */
export function presentVolumesAway(material: Material, states: readonly CutState[]): VolumeAway[] {
  const away = material.volumes.filter((volume) => !volume.isHere)
  if (away.length === 0) return []
  const lacks = new Map(away.map(({ id }) => [id, new Lack()]))
  const told = new Set<string>()
  for (const clip of material.clips.values()) {
    for (const id of clip.linkedIds) told.add(id)
    for (const { file } of clip.copies) told.add(file.id)
    for (const file of clip.files) {
      told.add(file.id)
      if (file.presence === 'away') lacks.get(file.volumeId)?.clips.add(clip.id)
    }
  }
  for (const pair of material.pairs.values())
    for (const { file } of pair.files) {
      told.add(file.id)
      if (file.presence === 'away') lacks.get(file.volumeId)?.pairs.add(pair.id)
    }
  for (const file of material.files.values()) {
    const lack = file.presence === 'away' && !told.has(file.id) ? lacks.get(file.volumeId) : undefined
    if (lack) lack.others++
  }
  for (const { row, resolutions } of states)
    for (const { clipId } of resolutions) {
      const clip = clipId === null ? undefined : material.clips.get(clipId)
      if (clip) lacks.get(clip.main.volumeId)?.cuts.add(row.name)
    }
  return away
    .map((volume) => presentAway(volume, lacks.get(volume.id) as Lack))
    .sort(
      (a, b) =>
        Number(b.isMissed) - Number(a.isMissed) ||
        b.neededBy.length - a.neededBy.length ||
        b.clips + b.pairs + b.others - (a.clips + a.pairs + a.others),
    )
}

function presentAway(volume: VolumeRow, lack: Lack): VolumeAway {
  const isKnown = volume.kind === 'made' || volume.lastScanAt !== null
  // Whether these were copied the ledger does not know.
  const unread = volume.unreadKinds.reduce((sum, { files }) => sum + files, volume.growingFiles)
  const others = lack.others + unread
  const isLacking = lack.cuts.size + lack.clips.size + lack.pairs.size + others > 0
  return {
    ...{ id: volume.id, label: volume.label, kind: volume.kind },
    ...{ isAllowed: volume.isAllowed, isAnswering: volume.isAnswering },
    lastSeenAt: volume.lastSeenAt?.toISOString() ?? null,
    neededBy: [...lack.cuts],
    ...{ clips: lack.clips.size, pairs: lack.pairs.size, others },
    isMissed: isLacking || !isKnown || !volume.isAllowed || !volume.isAnswering,
  }
}
