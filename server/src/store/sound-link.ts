import { readSoundLink, type SoundLink, soundLinkKey } from '@ennick/core'
import type { KnownClip, Material } from './material.ts'

/** The link of a picture's clip to the recording that it was synced with, as it is kept; null without one. */
export const soundLinkOf = ({ described }: Pick<KnownClip, 'described'>): SoundLink | null =>
  readSoundLink(described[soundLinkKey]?.value)

/** The clips of a linked recording that are known, in the order of its tracks; fewer than it has where some left. */
export const recordingsOf = (material: Material, { soundIds }: SoundLink): KnownClip[] =>
  soundIds.flatMap((id) => material.clips.get(id) ?? [])
