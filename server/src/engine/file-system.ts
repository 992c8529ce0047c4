import { relative } from 'node:path'
import { run } from './process.ts'

/**
 * What the file system under a folder says of itself: its own id and where below its mount the folder lies. It is the
 * same wherever the file system is mounted. Null where it has no id, as some shares have none.
 */
export async function signatureOf(path: string): Promise<string | null> {
  const result = await run('findmnt', ['--json', '--output', 'UUID,TARGET', '--target', path], {
    timeoutMilliseconds: 5000,
  }).catch(() => null)
  if (result?.exitCode !== 0) return null
  try {
    const { filesystems } = JSON.parse(result.stdout) as { filesystems: { uuid: string | null; target: string }[] }
    const found = filesystems[0]
    return found?.uuid ? `${found.uuid}:${relative(found.target, path)}` : null
  } catch {
    return null
  }
}
