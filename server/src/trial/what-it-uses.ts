import { basename } from 'node:path'
import { baseName, type CutEvent, possibleStems } from '@ennick/core'
import type { CutState } from '../cuts/cut-state.ts'
import type { KnownClip, KnownFile } from '../store/known-material.ts'
import { soundLinkOf } from '../store/sound-link.ts'

/** What a cut uses, and all that could be taken for it: so that a copy of the cut finds the same as the cut does. */
export interface UsedMaterial {
  readonly clips: readonly KnownClip[]
  /** Files of no clip, that a lost one may have become. */
  readonly loose: readonly KnownFile[]
}

/** The clips that a cut lands on, their recordings, what is called like them or like its events, and their content. */
export function whatItUses({ cut, resolutions, material }: CutState): UsedMaterial {
  const landed = resolutions.flatMap(({ clipId, rivals }) => [...(clipId === null ? [] : [clipId]), ...rivals])
  const used = new Set(landed)
  for (const id of landed) {
    const clip = material.clips.get(id)
    for (const soundId of (clip && soundLinkOf(clip)?.soundIds) ?? []) used.add(soundId)
  }
  const suffixes = material.production.proxySuffixes
  const stemsOf = (name: string): string[] => possibleStems(name, suffixes)
  const names = new Set(cut.events.flatMap(namesOf).flatMap(stemsOf))
  const contents = new Set<string>()
  for (const id of used) {
    const clip = material.clips.get(id)
    for (const name of clip ? namesOfClip(clip) : []) for (const stem of stemsOf(name)) names.add(stem)
    for (const { fingerprint } of clip?.files ?? []) contents.add(fingerprint)
  }
  const isAlike = (file: KnownFile): boolean =>
    contents.has(file.fingerprint) || stemsOf(basename(file.path)).some((stem) => names.has(stem))
  const clips = [...material.clips.values()].filter(
    (clip) =>
      used.has(clip.id) ||
      clip.files.some(isAlike) ||
      namesOfClip(clip)
        .flatMap(stemsOf)
        .some((stem) => names.has(stem)),
  )
  const tied = new Set([...material.clips.values()].flatMap(filesOfClip).map(({ id }) => id))
  const loose = [...material.files.values()].filter((file) => !tied.has(file.id) && isAlike(file))
  return { clips, loose }
}

const namesOf = ({ clipName, path }: CutEvent): string[] => [
  ...(clipName === null ? [] : [clipName]),
  ...(path === null ? [] : [baseName(path)]),
]
const namesOfClip = ({ name, main }: KnownClip): string[] => [name, basename(main.path)]

/** Every file that a clip knows: its own, copies of them, and those of what was made of it. */
export const filesOfClip = ({ files, copies, pairs }: KnownClip): KnownFile[] => [
  ...files,
  ...copies.map(({ file }) => file),
  ...pairs.flatMap((pair) => pair.files.map(({ file }) => file)),
]
