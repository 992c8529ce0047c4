import { bringsBack, doesNotAnswer, onVolume } from '@ennick/core'
import type { KnownFile, VolumeRow } from './known-material.ts'

/** Where a file lies, as people say it: its path on a volume, and the volume. */
export const placeOf = ({ path, volume }: Pick<KnownFile, 'path' | 'volume'>): string => `${path} on “${volume.label}”`

/** Why a volume's files are not to be had, and what to do, in a sentence. */
export const whyAway = ({ label, isAnswering }: Pick<VolumeRow, 'label' | 'isAnswering'>): string =>
  isAnswering ? `“${label}” is away: ${bringsBack(false)}.` : `“${label}” ${doesNotAnswer}; ${bringsBack(true)}.`

/** Where a path of the server lies, as people say it: the path itself where that is on no volume that is known. */
export function placeOfPath(volumes: readonly VolumeRow[], path: string): string {
  const found = onVolume(volumes, path)
  return found ? placeOf(found) : path
}
