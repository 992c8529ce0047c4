import {
  clipFacts,
  type EncodeInput,
  inputArguments,
  inputCount,
  type LaidTrack,
  type MediaFacts,
  round,
  type SoundLink,
  soundPad,
} from '@ennick/core'
import { type EngineFile, withInput } from './input.ts'
import { run } from './process.ts'

type SoundFile = EngineFile & { readonly facts: MediaFacts }

/** What is laid: a picture's own files, its recording's, and how they belong together. */
export interface LaidSound {
  /** The picture's files, in order; their streams come first unless they are dropped. */
  readonly camera: readonly SoundFile[]
  readonly recordings: readonly SoundFile[]
  readonly link: SoundLink
  readonly tracks: readonly LaidTrack[]
  /** How long each laid track is. */
  readonly samples: number
}

/**
 * Writes the sound of a picture with its recording: the camera's streams, silent where they are muted, and each track
 * of the recording from the very sample on that runs at the picture's first frame. What the recording lacks is silence.
 * @param to where it goes, as MOV with a stream for each track
 * @returns what the encoder complained of; null when it did not
 */
export async function laySound(
  { camera, recordings, link, tracks, samples }: LaidSound,
  to: string,
  signal: AbortSignal,
): Promise<string | null> {
  const first = Number(round(link.offsetSamples))
  const own = link.cameraSound === 'dropped' || !camera[0] ? [] : clipFacts(camera.map(({ facts }) => facts)).sound
  const place = first >= 0 ? `atrim=start_sample=${first},asetpts=PTS-STARTPTS` : `adelay=delays=${-first}S`
  const laid = `aresample=${link.sampleRate},${place},apad,atrim=end_sample=${samples}`
  const graphOf = (input: EncodeInput): string[] => [
    ...own.map(
      (_, stream) => `[${soundPad(input, stream)}]${link.cameraSound === 'muted' ? 'volume=0' : 'anull'}[c${stream}]`,
    ),
    ...tracks.map(
      ({ file, stream, channel }, index) =>
        `[${file + inputCount(input)}:a:${stream}]pan=mono|c0=c${channel},${laid}[r${index}]`,
    ),
  ]
  const maps = [...own.map((_, stream) => `[c${stream}]`), ...tracks.map((_, index) => `[r${index}]`)]
  return withInput(camera, async (input) => {
    const rate = camera[0]?.facts.picture?.rate ?? { numerator: 25, denominator: 1 }
    const words = [
      ...['-v', 'error', '-nostdin', '-xerror', '-n', ...inputArguments(input, rate)],
      ...recordings.flatMap(({ fullPath }) => inputArguments({ kind: 'file', path: fullPath }, rate)),
      ...['-filter_complex', graphOf(input).join(';'), ...maps.flatMap((map) => ['-map', map])],
      ...['-map_metadata', '-1', '-c:a', 'pcm_s24le', '-f', 'mov', `file:${to}`],
    ]
    const { exitCode, stderr } = await run('ffmpeg', words, { signal })
    return exitCode === 0 && stderr.trim() === '' ? null : stderr.trim() || 'it gave no reason'
  })
}
