import {
  type CopiedSound,
  formatTimecode,
  type MediaFacts,
  movieClock,
  plainLayout,
  readableFormats,
} from '@ennick/core'
import { joinedSound } from './joined-sound.ts'
import { run } from './process.ts'

/**
 * Copies a file's pictures, packet for packet, under another timecode, drop flag and reel.
 * @param stamp whose timecode and reel the copy gets
 * @param sound how its sound is laid out anew; null copies that as it is
 * @param to a path at which nothing is
 * @returns what the encoder complains of; null when it does not
 */
export async function restampCopy(
  from: { readonly path: string; readonly facts: MediaFacts },
  stamp: { readonly facts: MediaFacts; readonly reel: string | null },
  sound: CopiedSound | null,
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
      ...['-map', '0:V:0', '-c:v', 'copy'],
      ...(sound ? soundArguments(from.facts, sound) : ['-map', '0:a?', '-c:a', 'copy']),
      ...['-map_metadata', '-1'],
      ...(timecode === null ? [] : ['-timecode', timecode]),
      ...(reel === null ? [] : ['-metadata', `reel_name=${reel}`, '-metadata:s:v:0', `reel_name=${reel}`]),
      ...movieClock(from.facts.container, {
        picture: from.facts.picture,
        sound: [...from.facts.sound, ...(sound ? [sound] : [])],
      }),
      ...['-f', from.facts.container, `file:${to}`],
    ],
    { signal },
  )
  const complaint = result.stderr.trim()
  return result.exitCode === 0 && complaint === '' ? null : complaint || 'it ended without a reason'
}

/** All channels of the file side by side, and out of them each stream of the copy. */
function soundArguments(facts: MediaFacts, { streams, sampleRate, samples }: CopiedSound): string[] {
  const joined = joinedSound(facts)
  const all = joined
    ? `${joined.graph},aresample=${sampleRate}`
    : `anullsrc=channel_layout=mono:sample_rate=${sampleRate}`
  const length = samples === null ? '' : `,apad,atrim=end_sample=${samples}`
  const laid = streams.map(({ channels, layout }, index) => {
    const parts = channels.map((channel, at) => `c${at}=${channel === null ? '0*c0' : `c${channel}`}`)
    return `[s${index}]pan=${[layout ?? plainLayout(channels.length), ...parts].join('|')}${length}[o${index}]`
  })
  const split = `${all},asplit=${streams.length}${streams.map((_, index) => `[s${index}]`).join('')}`
  return [
    ...['-filter_complex', [split, ...laid].join(';'), ...streams.flatMap((_, index) => ['-map', `[o${index}]`])],
    ...(samples === null && !joined ? ['-shortest'] : []),
    ...codecOf(facts),
  ]
}

/** The codec that the sound had; where it had none, or one that is not written here, what its container has mostly. */
function codecOf({ sound, container }: MediaFacts): string[] {
  const codec = sound[0]?.codec ?? ''
  if (codec.startsWith('pcm_')) return ['-c:a', codec]
  return container === 'mp4' || codec === 'aac' ? ['-c:a', 'aac', '-b:a', '256k'] : ['-c:a', 'pcm_s24le']
}
