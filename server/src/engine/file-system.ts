import { access, constants, readFile, writeFile } from 'node:fs/promises'
import { join, relative } from 'node:path'
import { run } from './process.ts'

/**
 * What the file system under a folder says of itself: its own id and where below its mount the folder lies. It is the
 * same wherever the file system is mounted. Null where it has no id, as some shares have none.
 */
export async function signatureOf(path: string): Promise<string | null> {
  const result = await run('findmnt', ['--json', '--output', 'UUID,TARGET', '--target', path], { timeoutMilliseconds: 5000 }).catch(
    () => null,
  )
  if (result?.exitCode !== 0) return null
  try {
    const { filesystems } = JSON.parse(result.stdout) as { filesystems: { uuid: string | null; target: string }[] }
    const found = filesystems[0]
    return found?.uuid ? `${found.uuid}:${relative(found.target, path)}` : null
  } catch {
    return null
  }
}

/** The small file by which a volume is known wherever it is mounted. Its name is passed over by scans. */
export const markerName = '.ennick-volume.json'

export interface VolumeMarker {
  readonly volume: string
  readonly label: string
}

/** The marker at a folder; null when there is none that can be read. */
export async function readMarker(folder: string): Promise<VolumeMarker | null> {
  try {
    const marker = JSON.parse(await readFile(join(folder, markerName), 'utf8')) as Partial<VolumeMarker>
    return typeof marker.volume === 'string' && typeof marker.label === 'string' ? { volume: marker.volume, label: marker.label } : null
  } catch {
    return null
  }
}

/** @throws an Error of the file system where the folder may not be written. */
export async function writeMarker(folder: string, marker: VolumeMarker): Promise<void> {
  await access(folder, constants.W_OK)
  await writeFile(join(folder, markerName), `${JSON.stringify(marker, null, 2)}\n`)
}
