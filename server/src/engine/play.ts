import {
  exactRate,
  type FrameRange,
  inputArguments,
  type MediaFacts,
  type Rate,
  screenRaster,
  uprightSquareRaster,
} from '@ennick/core'
import { execa } from 'execa'
import { type EngineFile, seekTo, withInput } from './input.ts'
import { viewingFilter } from './pictures.ts'
import { leash, politely } from './process.ts'

/** So many are rendered for screens at once; looking does not take the machine from making. */
const mostAtOnce = 3
let running = 0

/** What is to be played: a file with its picture, and the files beside it that hold its sound alone. */
export interface Played {
  readonly picture: (EngineFile & { readonly facts: MediaFacts }) | null
  readonly sound: readonly (EngineFile & { readonly facts: MediaFacts })[]
  /** Frames of the picture file; for sound alone frames of `rate` since its first sample. */
  readonly range: FrameRange
  readonly rate: Rate
  /** The channels that are heard, over all files, the first is 0; null for all. */
  readonly tracks: readonly number[] | null
  readonly lut: string | null
}

/** Whether one more may be rendered now. */
export const mayPlay = (): boolean => running < mostAtOnce

/**
 * Renders for a screen, as fast as it is read: fragmented MP4, H.264 and FLAC. It begins exactly at the first frame of
 * the range and ends with the last.
 * @param signal ends it, with the encoder
 * @returns what the encoder complained of; null when it did not
 */
export async function play(played: Played, output: NodeJS.WritableStream, signal: AbortSignal): Promise<string | null> {
  running++
  try {
    const { picture, rate, range } = played
    const files = picture ? [picture, ...played.sound] : played.sound
    const from = range.startFrame
    const render = (inputs: readonly string[]): Promise<string | null> =>
      encodeTo(output, [...inputs, ...outputWords(played)], signal)
    const seek = picture && !isStills(picture) ? seekTo(from, rate) : from === 0 ? [] : ['-ss', seconds(from, rate)]
    const gather = async (rest: readonly EngineFile[], words: readonly string[]): Promise<string | null> => {
      const [file, ...others] = rest
      if (!file) return render(words)
      return withInput([file], (input) => gather(others, [...words, ...seek, ...inputArguments(input, rate)]))
    }
    return await gather(files, [])
  } finally {
    running--
  }
}

const isStills = ({ sequence, facts }: EngineFile & { readonly facts: MediaFacts }): boolean =>
  sequence !== null || facts.kind === 'still'

const seconds = (frames: number, { numerator, denominator }: Rate): string =>
  ((frames * denominator) / numerator).toFixed(6)

function outputWords({ picture, sound, range, rate, tracks, lut }: Played): string[] {
  const frames = range.endFrame - range.startFrame
  const heard = soundGraph([...(picture ? [picture.facts] : []), ...sound.map(({ facts }) => facts)], tracks)
  const facts = picture?.facts.picture
  const raster = facts ? screenRaster(uprightSquareRaster(facts)) : null
  const shown =
    facts && raster
      ? `[0:V:0]${isStills(picture as NonNullable<typeof picture>) ? `trim=start_frame=${range.startFrame},setpts=PTS-STARTPTS,` : ''}scale=${raster.width}:${raster.height}:flags=bilinear,setsar=1${viewingFilter(facts, lut)},format=yuv420p[v]`
      : null
  return [
    ...['-filter_complex', [shown, heard].filter(Boolean).join(';')],
    ...(shown
      ? ['-map', '[v]', '-r', exactRate(rate), '-frames:v', String(frames), '-c:v', 'libx264', '-preset', 'ultrafast']
      : []),
    // A key frame twice a second, so that a screen has its first picture early.
    ...(shown
      ? ['-tune', 'zerolatency', '-crf', '23', '-g', String(Math.ceil(rate.numerator / rate.denominator / 2))]
      : []),
    // FLAC has no silence of its own before the first sample, which would put sound and picture apart.
    ...(heard ? ['-map', '[a]', '-c:a', 'flac', '-strict', '-2', '-ar', '48000', '-t', seconds(frames, rate)] : []),
    ...['-movflags', 'empty_moov+default_base_moof+frag_keyframe', '-frag_duration', '500000', '-f', 'mp4', 'pipe:1'],
  ]
}

/** All channels in one, and of those the ones that are heard: two are left and right, others come from both sides. */
function soundGraph(inputs: readonly MediaFacts[], tracks: readonly number[] | null): string | null {
  const streams = inputs.flatMap(({ sound }, input) =>
    sound.map((stream, index) => ({ stream, pad: `[${input}:a:${index}]` })),
  )
  const channels = streams.reduce((sum, { stream }) => sum + stream.channels, 0)
  const heard = (tracks ?? Array.from({ length: channels }, (_, index) => index)).filter((track) => track < channels)
  if (heard.length === 0) return null
  const first = streams[0] as (typeof streams)[number]
  const joined =
    streams.length > 1
      ? `${streams.map(({ pad }) => pad).join('')}amerge=inputs=${streams.length}`
      : `${first.pad}anull`
  const [left, right] = heard.length === 2 ? heard.map((track) => [track]) : [heard, heard]
  const mix = (of: readonly number[] = []): string => of.map((track) => `c${track}`).join('+')
  return `${joined},pan=stereo|c0<${mix(left)}|c1<${mix(right)}[a]`
}

async function encodeTo(
  output: NodeJS.WritableStream,
  words: readonly string[],
  signal: AbortSignal,
): Promise<string | null> {
  const [file, ...rest] = [...politely, ...leash, 'ffmpeg', '-hide_banner', '-nostdin', '-v', 'error', ...words] as [
    string,
    ...string[],
  ]
  const child = execa(file, rest, {
    stdin: 'ignore',
    buffer: { stdout: false },
    cancelSignal: signal,
    forceKillAfterDelay: 1000,
    reject: false,
    env: { LC_ALL: 'C.UTF-8' },
  })
  child.stdout?.pipe(output)
  const result = await child
  return result.isCanceled || result.exitCode === 0 ? null : String(result.stderr ?? '').trim() || 'it gave no reason'
}
