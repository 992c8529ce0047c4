import { formatTimecode, type MediaFacts, readableFormats } from '@ennick/core'
import { run } from './process.ts'

/** Containers in which a copy can be stamped anew without touching its pictures. */
const muxers: Readonly<Record<string, string>> = { mov: 'mov', mp4: 'mp4', mxf: 'mxf' }

export const canBeStamped = (facts: Pick<MediaFacts, 'container'>): boolean => facts.container in muxers

/**
 * Copies a file's pictures and sound, packet for packet, under another timecode, drop flag and reel.
 * @param stamp whose timecode and reel the copy gets
 * @param to a path at which nothing is
 * @returns what the encoder complains of; null when it does not
 */
export async function restampCopy(
  from: { readonly path: string; readonly facts: MediaFacts },
  stamp: { readonly facts: MediaFacts; readonly reel: string | null },
  to: string,
  signal: AbortSignal,
): Promise<string | null> {
  const { startFrame, dropFrame, picture } = stamp.facts
  const timecode = startFrame !== null && picture ? formatTimecode(startFrame, picture.rate, dropFrame) : null
  const reel = stamp.reel
  const result = await run(
    'ffmpeg',
    [
      ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n'],
      ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-i', `file:${from.path}`],
      ...['-map', '0:V:0', '-map', '0:a?', '-c', 'copy', '-map_metadata', '-1'],
      ...(timecode === null ? [] : ['-timecode', timecode]),
      ...(reel === null ? [] : ['-metadata', `reel_name=${reel}`, '-metadata:s:v:0', `reel_name=${reel}`]),
      ...['-f', muxers[from.facts.container] ?? 'mov', `file:${to}`],
    ],
    { signal },
  )
  const complaint = result.stderr.trim()
  return result.exitCode === 0 && complaint === '' ? null : complaint || 'it ended without a reason'
}
