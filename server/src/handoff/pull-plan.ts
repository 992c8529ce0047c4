import { join } from 'node:path'
import { hasAlpha, pullsOf, sequenceFramePaths } from '@ennick/core'
import type { CutState } from '../cuts/cut-state.ts'
import { type KnownClip, type KnownFile, type KnownPair, playsNow, type VolumeRow } from '../store/material.ts'
import { worth } from '../viewer/sides.ts'

/** What of a cut is copied: its originals, or what it is watched and cut with. */
export type PullOf = 'originals' | 'proxies'

/** A clip that a cut uses, and the files that are copied for it. */
export interface PulledClip {
  readonly clip: KnownClip
  readonly files: readonly KnownFile[]
  /** Why nothing of it can be copied; null where it can. */
  readonly outstanding: string | null
}

export interface PullPlan {
  readonly clips: readonly PulledClip[]
  /** Events of which no original is known. */
  readonly unknown: readonly { readonly number: string; readonly name: string }[]
  /** Every file once, by volume. */
  readonly volumes: readonly { readonly volume: VolumeRow; readonly folder: string; readonly files: KnownFile[] }[]
}

/**
 * What a cut needs to go elsewhere: of each clip that it uses, and of recordings that its sound comes from, the files
 * that are here; of the others why they are not.
 */
export function planPull(state: CutState, of: PullOf): PullPlan {
  const { cut, resolutions, material } = state
  const ids = new Set(pullsOf(cut, resolutions, state.clips).map(({ clip }) => clip.id))
  const clips = [...ids].flatMap((id) => material.clips.get(id) ?? []).map((clip) => pulledOf(clip, of))
  const unknown = cut.events.flatMap(({ number, clipName }, position) =>
    resolutions[position]?.clipId == null ? [{ number, name: clipName ?? 'without a name' }] : [],
  )
  const files = new Map<string, { volume: VolumeRow; files: Map<string, KnownFile> }>()
  for (const file of clips.flatMap((pulled) => pulled.files)) {
    const known = files.get(file.volumeId) ?? { volume: file.volume, files: new Map() }
    files.set(file.volumeId, known)
    known.files.set(file.id, file)
  }
  const taken = new Set<string>()
  const volumes = [...files.values()].map((each) => ({
    volume: each.volume,
    folder: folderNameOf(each.volume.label, taken),
    files: [...each.files.values()],
  }))
  return { clips, unknown, volumes }
}

function pulledOf(clip: KnownClip, of: PullOf): PulledClip {
  const pair = of === 'proxies' ? bestProxy(clip) : null
  if (pair) return { clip, files: pair.files.map(({ file }) => file), outstanding: null }
  if (of === 'proxies' && !travelsAsItIs(clip))
    return { clip, files: [], outstanding: 'It has no proxy that is here: make one, and pull again.' }
  const [lost] = clip.files.filter(({ presence }) => presence !== 'here')
  if (!lost) return { clip, files: clip.files, outstanding: null }
  const why =
    lost.presence === 'away'
      ? `“${lost.volume.label}” is away: put it in, and pull again.`
      : `${lost.path} is not on “${lost.volume.label}” any more: mend it, and pull again.`
  return { clip, files: [], outstanding: why }
}

/** Sound, stills and pictures with an alpha channel need no proxy. */
const travelsAsItIs = ({ main }: KnownClip): boolean =>
  main.sequence !== null || !main.facts?.picture || hasAlpha(main.facts.picture.pixelFormat)

/** Of several proxies that are here the one that agrees best with its original. */
function bestProxy(clip: KnownClip): KnownPair | null {
  const here = clip.pairs.filter((pair) => pair.kind === 'proxy' && playsNow(pair))
  return here.sort((a, b) => worth(a.verdict) - worth(b.verdict))[0] ?? null
}

/** A folder for each volume, called as it is, whatever the disk that it goes to takes in names. */
function folderNameOf(label: string, taken: Set<string>): string {
  const plain = label.replace(/[\\/:*?"<>|\p{Cc}]/gu, '_').replace(/^[. ]+|[. ]+$/g, '_') || 'volume'
  for (let number = 1; ; number++) {
    const name = number === 1 ? plain : `${plain} (${number})`
    if (taken.has(name.toLowerCase())) continue
    taken.add(name.toLowerCase())
    return name
  }
}

/** The paths of a file on its volume: of numbered stills each. */
export const pathsOf = ({ path, sequence }: KnownFile): string[] =>
  sequence ? [...new Set(sequenceFramePaths(sequence))] : [path]

/** The path of a pulled file in the folder that everything goes to; of numbered stills that of their pattern. */
export const pulledPath = (folder: string, { path }: KnownFile): string => join(folder, path)
