import {
  exactRate,
  type FrameRange,
  inputArguments,
  type MediaFacts,
  type Rate,
  screenRaster,
  uprightSquareRaster,
} from '@ennick/core'
import { type EngineFile, withInput } from './input.ts'
import { viewingFilter } from './pictures.ts'
import { endedFromOutside, startEncoder } from './process.ts'
import { type Led, ledTo } from './sought.ts'

/** So many are rendered for screens at once; looking does not take the machine from making. */
const mostAtOnce = 3
let running = 0

type PlayedFile = EngineFile & { readonly facts: MediaFacts }

/** What is to be played: a file with its picture, and files that hold sound alone. */
export interface Played {
  readonly picture: PlayedFile | null
  /** Each with the second of it that is heard at the first frame; below zero when it begins later. */
  readonly sound: readonly { readonly file: PlayedFile; readonly atSeconds: number }[]
  /** Frames of the picture file; for sound alone frames of `rate` since its first sample. */
  readonly range: FrameRange
  readonly rate: Rate
  /** The channels that are heard, over all files, the first is 0; null for all. */
  readonly tracks: readonly number[] | null
  readonly lut: string | null
}

/**
 * What is rendered, as a player has to be told before it is given the first bytes of it (RFC 6381, 3.3): H.264 of
 * constrained baseline at level 4.2, and FLAC where anything is heard.
 */
export function renderedType({ picture, sound, tracks }: Pick<Played, 'picture' | 'sound' | 'tracks'>): string {
  const files = [...(picture ? [picture] : []), ...sound.map(({ file }) => file)]
  const isHeard = heard(channelsOf(files), tracks).length > 0
  return `video/mp4; codecs="${[...(picture ? ['avc1.42c02a'] : []), ...(isHeard ? ['flac'] : [])].join(', ')}"`
}

/** All channels of some files, in their order: in which file, which of its streams, and which channel of that. */
const channelsOf = (files: readonly { readonly facts: MediaFacts }[]) =>
  files.flatMap(({ facts }, file) =>
    facts.sound.flatMap(({ channels }, stream) =>
      Array.from({ length: channels }, (_, channel) => ({ file, stream, channel })),
    ),
  )

const heard = <T>(all: readonly T[], tracks: readonly number[] | null): readonly T[] =>
  tracks ? tracks.flatMap((track) => all[track] ?? []) : all

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
    const shown = withSoundApart(played)
    const { picture, sound, rate, range } = shown
    const led: Led =
      picture && !isStills(picture) ? await ledTo(picture, range.startFrame) : { fromSeconds: 0, skip: null }
    const inputs = [
      ...(picture ? [{ file: picture, fromSeconds: led.fromSeconds, words: [] }] : []),
      ...sound.map(({ file, atSeconds }) => ({ file, fromSeconds: Math.max(0, atSeconds), words: ['-vn'] })),
    ]
    const gather = async (rest: typeof inputs, words: readonly string[]): Promise<string | null> => {
      const [next, ...others] = rest
      if (!next) return encodeTo(output, [...words, ...outputWords(shown, led)], signal)
      return withInput([next.file], (input) =>
        gather(others, [...words, ...next.words, ...inputArguments(input, rate, next.fromSeconds)]),
      )
    }
    return await gather(inputs, [])
  } finally {
    running--
  }
}

/**
 * The same, with a file opened a second time for its sound where that ends before the picture: the encoder learns that
 * it has ended at the end of the file alone, and a player that is given both waits for both. The sound by itself ends
 * as soon as it does, and is silent from there.
 */
function withSoundApart(played: Played): Played {
  const { picture, sound, range, rate } = played
  const end = secondsAt(range.endFrame, rate)
  const endsBefore = picture?.facts.sound.some(
    ({ samples, sampleRate }) => samples !== null && samples / sampleRate < end,
  )
  if (!picture || !endsBefore) return played
  const own = { file: picture, atSeconds: secondsAt(range.startFrame, rate) }
  return { ...played, picture: { ...picture, facts: { ...picture.facts, sound: [] } }, sound: [own, ...sound] }
}

const secondsAt = (frame: number, { numerator, denominator }: Rate): number => (frame * denominator) / numerator

const isStills = ({ sequence, facts }: PlayedFile): boolean => sequence !== null || facts.kind === 'still'

function outputWords({ picture, sound, range, rate, tracks, lut }: Played, { skip }: Led): string[] {
  const skipSeconds = skip?.seconds ?? null
  const frames = range.endFrame - range.startFrame
  const sounds = soundGraph(
    [
      ...(picture ? [{ facts: picture.facts, lateSeconds: 0, skipSeconds }] : []),
      ...sound.map(({ file, atSeconds }) => ({
        facts: file.facts,
        lateSeconds: Math.max(0, -atSeconds),
        skipSeconds: null,
      })),
    ],
    tracks,
  )
  const facts = picture?.facts.picture
  const raster = facts ? screenRaster(uprightSquareRaster(facts)) : null
  const from =
    picture && isStills(picture)
      ? `trim=start_frame=${range.startFrame},setpts=PTS-STARTPTS,`
      : skip === null
        ? ''
        : `${skip.filter},`
  const scaled = raster && `scale=${raster.width}:${raster.height}:flags=bilinear,setsar=1`
  const shown = facts && raster ? `[0:V:0]${from}${scaled}${viewingFilter(facts, lut)},format=yuv420p[v]` : null
  return [
    ...['-filter_complex', [shown, sounds].filter(Boolean).join(';')],
    ...(shown
      ? ['-map', '[v]', '-r', exactRate(rate), '-frames:v', String(frames), '-c:v', 'libx264', '-preset', 'ultrafast']
      : []),
    ...(shown ? ['-profile:v', 'baseline', '-level:v', '4.2'] : []),
    // A key frame twice a second, so that a screen has its first picture early.
    ...(shown
      ? ['-tune', 'zerolatency', '-crf', '23', '-g', String(Math.ceil(rate.numerator / rate.denominator / 2))]
      : []),
    // FLAC has no silence of its own before the first sample, which would put sound and picture apart.
    ...(sounds ? ['-map', '[a]', '-c:a', 'flac', '-strict', '-2', '-ar', String(heardRate)] : []),
    ...(sounds ? ['-t', secondsAt(frames, rate).toFixed(6)] : []),
    ...['-movflags', 'empty_moov+default_base_moof+frag_keyframe', '-frag_duration', '500000', '-f', 'mp4', 'pipe:1'],
  ]
}

const heardRate = 48_000

/**
 * The channels that are heard: two are left and right, any other number comes from both sides. None ends the others
 * when it ends.
 */
function soundGraph(
  inputs: readonly { readonly facts: MediaFacts; readonly lateSeconds: number; readonly skipSeconds: number | null }[],
  tracks: Played['tracks'],
): string | null {
  const channels = heard(channelsOf(inputs), tracks)
  if (channels.length === 0) return null
  const lines = channels.map(({ file, stream, channel }, index) => {
    const { lateSeconds, skipSeconds } = inputs[file] as (typeof inputs)[number]
    const skip = skipSeconds === null ? '' : `atrim=start=${skipSeconds.toFixed(6)},asetpts=PTS-STARTPTS,`
    const late = Math.round(lateSeconds * heardRate)
    const delay = late > 0 ? `,adelay=delays=${late}S` : ''
    return `[${file}:a:${stream}]${skip}aresample=${heardRate},pan=mono|c0=c${channel}${delay},apad[t${index}]`
  })
  const pads = channels.map((_, index) => `[t${index}]`).join('')
  const joined =
    channels.length === 2
      ? `${pads}amerge=inputs=2,pan=stereo|c0=c0|c1=c1`
      : `${pads}${channels.length === 1 ? 'anull' : `amix=inputs=${channels.length}`},pan=stereo|c0=c0|c1=c0`
  return [...lines, `${joined}[a]`].join(';')
}

async function encodeTo(
  output: NodeJS.WritableStream,
  words: readonly string[],
  signal: AbortSignal,
): Promise<string | null> {
  const child = startEncoder(words, signal)
  // Whoever asked ends the output: it may want to say there why nothing came.
  child.stdout?.pipe(output, { end: false })
  const result = await child
  if (result.isCanceled) return null
  const ended = endedFromOutside(result)
  if (ended) return ended.message
  // It ends well, too, where all that it could do was to complain.
  const complaint = Buffer.from(result.stderr ?? [])
    .toString()
    .trim()
  return complaint || (result.exitCode === 0 ? null : 'it gave no reason')
}
