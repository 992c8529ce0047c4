import { randomUUID } from 'node:crypto'
import { rename, unlink } from 'node:fs/promises'
import { join } from 'node:path'
import { FolderLeft, HeldFolder, withHeld } from './held-folder.ts'

/** The small file by which a volume is known wherever it is mounted. Its name is passed over by scans. */
export const markerName = '.ennick-volume.json'

export interface VolumeMarker {
  readonly volume: string
  readonly label: string
}

/** The marker at a folder; null when there is none that can be read, or a link stands in its place. */
export async function readMarker(folder: string): Promise<VolumeMarker | null> {
  return withHeld(folder, readMarkerIn, { isOwn: true }).catch(() => null)
}

/**
 * Holds a production's place for what is made, once it is certain that it is that place: a disk that is not in leaves
 * an empty folder of its name, and what is made must not get under it.
 * @param markerId what its marker says; null for a place of before, which has none yet
 * @throws FolderLeft
 */
export async function holdPlace(place: {
  readonly rootPath: string
  readonly markerId: string | null
}): Promise<HeldFolder> {
  const root = await HeldFolder.hold(place.rootPath, { isOwn: true })
  if (place.markerId === null || (await readMarkerIn(root).catch(() => null))?.volume === place.markerId) return root
  await root.release()
  throw new FolderLeft(
    place.rootPath,
    'is an empty or another folder: the disk with what Ennick made is not in. Put it in, and retry.',
  )
}

async function readMarkerIn(folder: HeldFolder): Promise<VolumeMarker | null> {
  const text = await folder.readText(markerName)
  if (text === null) return null
  const marker = JSON.parse(text) as Partial<VolumeMarker>
  return typeof marker.volume === 'string' && typeof marker.label === 'string'
    ? { volume: marker.volume, label: marker.label }
    : null
}

/**
 * Writes a marker, or a newer one in place of an older.
 * @throws an Error of the file system where the folder may not be written; with code EEXIST where anything but a marker
 * has its name, which is never written through
 */
export async function writeMarker(
  folder: string,
  marker: VolumeMarker,
  options: { isOwn?: boolean } = {},
): Promise<void> {
  await withHeld(folder, (held) => writeMarkerIn(held, marker), options)
}

async function writeMarkerIn(held: HeldFolder, marker: VolumeMarker): Promise<void> {
  const there = await held.look(markerName)
  if (there && !(there.isFile() && (await readMarkerIn(held).catch(() => null))))
    throw Object.assign(new Error(`${join(held.path, markerName)} is no marker`), { code: 'EEXIST' })
  const part = `${markerName}.${randomUUID()}`
  const file = await held.create(part)
  try {
    await file.writeFile(`${JSON.stringify(marker, null, 2)}\n`)
    await file.datasync()
    await rename(held.at(part), held.at(markerName))
  } catch (error) {
    await unlink(held.at(part)).catch(() => undefined)
    throw error
  } finally {
    await file.close()
  }
}
