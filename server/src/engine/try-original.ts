import { type MediaFacts, type PictureFacts, readableFormats, stillFormat } from '@ennick/core'
import { seekTo } from './input.ts'
import { run } from './process.ts'

/** Enough to see that what follows a place decodes too, where pictures lean on others. */
const framesOfPlace = 12

/**
 * Decodes a file at its head, in its middle and at its end, picture and sound.
 * @returns where it cannot be decoded; none when it can
 */
export async function tryDecoding(path: string, facts: MediaFacts, signal: AbortSignal): Promise<string[]> {
  const { picture } = facts
  if (!picture || facts.kind === 'still') return (await decodes(path, [], signal)) ? [] : ['it']
  const last = Math.max(0, picture.frames - framesOfPlace)
  const places = new Map([
    [0, 'its head'],
    [Math.floor(picture.frames / 2), 'its middle'],
    [last, 'its end'],
  ])
  const broken: string[] = []
  for (const [frame, place] of places) if (!(await decodesAt(path, picture, frame, signal))) broken.push(place)
  return broken
}

/** A place decodes when the decoder complains of nothing and gives as many pictures as lie there. */
async function decodesAt(path: string, picture: PictureFacts, frame: number, signal: AbortSignal): Promise<boolean> {
  const wanted = Math.min(framesOfPlace, picture.frames - frame)
  let decoded = 0
  const isClean = await decodes(path, [...seekTo(frame, picture.rate)], signal, wanted, (frames) => {
    decoded = frames
  })
  return isClean && decoded >= wanted
}

async function decodes(
  path: string,
  before: readonly string[],
  signal: AbortSignal,
  frames: number | null = null,
  onFrames: (frames: number) => void = () => undefined,
): Promise<boolean> {
  const still = stillFormat(path)
  const result = await run(
    'ffmpeg',
    [
      ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-progress', 'pipe:1', '-threads', '1', ...before],
      ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, ...(still ? ['-f', still] : [])],
      ...['-i', `file:${path}`, '-map', '0:V:0?', '-map', '0:a?', '-fps_mode', 'passthrough'],
      ...(frames === null ? [] : ['-frames:v', String(frames)]),
      ...['-shortest', '-f', 'null', '-'],
    ],
    {
      signal,
      isPolite: true,
      timeoutMilliseconds: 600_000,
      onLine: (line) => {
        if (line.startsWith('frame=')) onFrames(Number(line.slice('frame='.length)))
      },
    },
  )
  return result.exitCode === 0 && result.stderr.trim() === ''
}
