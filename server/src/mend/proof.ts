import type { MendProof } from '@ennick/contract'
import { type CutEvent, type Resolution, sameRate } from '@ennick/core'
import { readNewestCutStates } from '../cuts/cut-state.ts'
import { type Use, usesByClip } from '../cuts/uses.ts'
import { isAsKnown } from '../intake/describe-file.ts'
import { bothPictures } from '../pairs/both-pictures.ts'
import type { Queryable } from '../store/database.ts'
import { type KnownClip, type Material, playsNow } from '../store/known-material.ts'
import type { MendRow } from './links.ts'

/** Clips that are looked at again; of a mend of more the first stand for it, and it says so. */
const mostClips = 50
/** Uses of a clip whose pictures are shown. */
const mostUses = 3

/**
 * What a mend came to, looked at anew: whether each original lies where the ledger says, where its uses in the newest
 * versions of all cuts land, and the pictures of the original and of its proxy at head, middle and tail of a use.
 */
export async function proveMend(database: Queryable, material: Material, mend: MendRow): Promise<MendProof> {
  const ids = [...new Set(mend.changes.flatMap(clipOf))]
  const states = await readNewestCutStates(database, material)
  const usesOf = usesByClip(states)
  const version = states.find(
    ({ row }) => mend.changes[0]?.link.kind === 'newest version' && row.id === mend.changes[0].after,
  )
  const all = version
    ? version.resolutions
    : ids.flatMap((clipId) => (usesOf.get(clipId) ?? []).map(({ state, position }) => state.resolutions[position]))
  const clips = ids.slice(0, mostClips).flatMap((clipId) => material.clips.get(clipId) ?? [])
  return {
    clips: await Promise.all(clips.map((clip) => proveClip(usesOf.get(clip.id) ?? [], clip))),
    clipCount: ids.length,
    uses: all.length,
    onOriginal: all.filter((resolution) => resolution?.state === 'on original').length,
  }
}

const clipOf = ({ link, before, after }: MendRow['changes'][number]): string[] => {
  if (link.kind === 'event') return [after ?? before ?? ''].filter(Boolean)
  return link.kind === 'newest version' ? [] : [link.clipId]
}

async function proveClip(uses: readonly Use[], clip: KnownClip): Promise<MendProof['clips'][number]> {
  const seen = uses.map(({ state, position }) => ({
    cut: state.row.name,
    event: state.cut.events[position] as CutEvent,
    resolution: state.resolutions[position] as Resolution,
  }))
  const lies = await Promise.all(clip.files.map(isAsKnown))
  const made = clip.pairs.find((pair) => pair.kind === 'proxy' && playsNow(pair))?.files[0]?.file
  const { facts } = clip.main
  const frames = seen.slice(0, mostUses).flatMap(({ resolution: { needed }, event }) => {
    if (!made || !facts?.picture || !sameRate(event.sourceRate, facts.picture.rate)) return []
    const start = facts.startFrame ?? 0
    return bothPictures(clip, made, { startFrame: needed.startFrame - start, endFrame: needed.endFrame - start })
  })
  return {
    clipId: clip.id,
    name: clip.name,
    paths: clip.files.map(({ fullPath }) => fullPath),
    lies: lies.every(Boolean),
    pairs: clip.pairs.map(({ name, verdict }) => ({ name, verdict })),
    uses: seen.map(({ cut, event, resolution }) => ({ cut, number: event.number, state: resolution.state })),
    frames,
  }
}
