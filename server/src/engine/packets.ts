import { readableFormats } from '@ennick/core'
import { run } from './process.ts'

/**
 * A checksum over the packets of a file's picture as they are stored, whatever container they are in.
 * @returns null when it cannot be read to its end
 */
export async function packetHash(path: string, signal: AbortSignal): Promise<string | null> {
  const result = await run(
    'ffmpeg',
    [
      ...[
        '-hide_banner',
        '-nostdin',
        '-v',
        'error',
        '-protocol_whitelist',
        'file,pipe',
        '-format_whitelist',
        readableFormats,
      ],
      ...['-i', `file:${path}`, '-map', '0:V:0', '-c', 'copy', '-f', 'streamhash', '-hash', 'md5', 'pipe:1'],
    ],
    { signal },
  )
  return result.exitCode === 0 && result.stderr.trim() === ''
    ? (/MD5=([0-9a-f]{32})/.exec(result.stdout)?.[1] ?? null)
    : null
}
