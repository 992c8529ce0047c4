import type { KnownFile, VolumeRow } from './material.ts'

/** Where a file lies, as people say it: its path on a volume, and the volume. */
export const placeOf = ({ path, volume }: Pick<KnownFile, 'path' | 'volume'>): string => `${path} on “${volume.label}”`

/** The innermost volume that a path of the server lies on; null when it lies on none of these. */
export function volumeOf(volumes: readonly VolumeRow[], path: string): VolumeRow | null {
  const holding = volumes.filter(({ rootPath }) => path.startsWith(`${rootPath}/`))
  return holding.sort((a, b) => b.rootPath.length - a.rootPath.length)[0] ?? null
}

/** Where a path of the server lies, as people say it: the path itself where that is on no volume that is known. */
export function placeOfPath(volumes: readonly VolumeRow[], path: string): string {
  const volume = volumeOf(volumes, path)
  return volume ? placeOf({ path: path.slice(volume.rootPath.length + 1), volume }) : path
}
