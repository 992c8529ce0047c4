import { join } from 'node:path'
import type { KnownFile, VolumeRow } from './known-material.ts'
import type { files } from './schema.ts'

/** Where a file is, given what is known of it and whether its volume is in. */
export function placeFile(row: typeof files.$inferSelect, volume: VolumeRow): KnownFile {
  // What was gone before its volume left is gone, and not on it.
  const presence = row.isGone ? 'gone' : volume.isHere ? 'here' : 'away'
  return { volume, root: volume.rootPath, fullPath: join(volume.rootPath, row.path), presence, ...row }
}
