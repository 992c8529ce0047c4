import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import {
  type EncodePlan,
  type PictureFacts,
  type PictureHash,
  readableFormats,
  sampledHashGraph,
  soughtHashGraph,
  splitHashes,
} from '@ennick/core'
import { seekTo } from './input.ts'
import type { Pause } from './pause.ts'
import { run } from './process.ts'
import { withScratch } from './scratch.ts'

/** Runs a task with places for the hashes of some items; they are removed afterwards. */
export async function withHashes<T>(
  items: number,
  task: (paths: readonly string[], read: (index: number) => Promise<PictureHash[]>) => Promise<T>,
): Promise<T> {
  return withScratch((folder) => {
    const paths = Array.from({ length: items }, (_, index) => join(folder, `hashes-${index}`))
    return task(paths, async (index) => splitHashes(await readFile(paths[index] as string)))
  })
}

/** How work is stopped, and made to stand still. */
export interface Watch {
  readonly signal: AbortSignal
  readonly pause?: Pause
  /** Whether it gives way to all other work. */
  readonly isPolite?: boolean
}

const asItComes = ['-fps_mode', 'passthrough']

/** What one more thing is made of while a file is decoded whole: a filter graph, and what becomes of its end. */
interface Besides {
  readonly graph: string
  readonly output: readonly string[]
}

/**
 * Decodes a file from its beginning to its end, picture and sound.
 * @param frames of picture that it must give; null when it is sound alone
 * @param onFrames told of frames decoded so far
 * @returns what is wrong: the decoder's words when it complained, or a number of frames; null when nothing is
 */
export async function decodeWhole(
  path: string,
  frames: number | null,
  { signal, pause, isPolite }: Watch,
  onFrames: (frames: number) => void = () => undefined,
  besides: Besides | null = null,
): Promise<string | null> {
  let decoded = 0
  const result = await run(
    'ffmpeg',
    [
      ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n', '-progress', 'pipe:1'],
      ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-i', `file:${path}`],
      ...(besides ? ['-filter_complex', besides.graph] : []),
      ...['-map', '0:V:0?', '-map', '0:a?', ...asItComes, '-f', 'null', '-'],
      ...(besides?.output ?? []),
    ],
    {
      signal,
      pause,
      isPolite: isPolite ?? false,
      onLine: (line) => {
        if (!line.startsWith('frame=')) return
        decoded = Number(line.slice('frame='.length))
        onFrames(decoded)
      },
    },
  )
  const complaint = result.stderr.trim().split('\n')[0]
  if (result.exitCode !== 0 || complaint) return complaint || 'the decoder gave no reason'
  return frames === null || decoded === frames ? null : `${decoded} of ${frames} frames could be decoded`
}

/**
 * Decodes a made item from its first frame to its last, with its sound, and hashes some of its frames.
 * @param frames their numbers from 0, in order
 * @returns the hashes by frame, or what is wrong: the decoder's words when it complained, or a number of frames
 */
export async function decodeMade(
  plan: EncodePlan,
  path: string,
  frames: readonly number[],
  watch: Watch,
): Promise<ReadonlyMap<number, PictureHash> | string> {
  const picture = plan.facts.picture as PictureFacts
  return withHashes(1, async ([target], read) => {
    const wrong = await decodeWhole(path, picture.frames, watch, undefined, {
      graph: sampledHashGraph(plan, frames),
      output: ['-map', '[h]', ...asItComes, '-c:v', 'rawvideo', '-f', 'rawvideo', `file:${target}`],
    })
    if (wrong !== null) return wrong
    const hashes = await read(0)
    if (hashes.length !== frames.length) return `${hashes.length} of ${frames.length} pictures could be decoded`
    return new Map(frames.map((frame, index) => [frame, hashes[index] as PictureHash]))
  })
}

/**
 * Decodes some frames of a made picture, each on its own, and hashes them.
 * @returns the hashes by frame, or the decoder's words when it complained or gave fewer frames
 */
export async function hashFrames(
  plan: EncodePlan,
  path: string,
  frames: readonly number[],
  { signal, pause }: Watch,
): Promise<ReadonlyMap<number, PictureHash> | string> {
  const { rate } = plan.facts.picture as PictureFacts
  return withHashes(1, async ([target], read) => {
    const result = await run(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n'],
        ...frames.flatMap((frame) => [
          ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats],
          ...[...seekTo(frame, { rate }), '-i', `file:${path}`],
        ]),
        ...['-filter_complex', soughtHashGraph(plan, frames.length), '-map', '[h]', '-frames:v', '1'],
        ...['-c:v', 'rawvideo', '-f', 'rawvideo', `file:${target}`],
      ],
      { signal, pause },
    )
    const complaint = result.stderr.trim().split('\n')[0]
    if (result.exitCode !== 0 || complaint) return complaint || 'the decoder gave no reason'
    const hashes = await read(0)
    if (hashes.length !== frames.length) return `${hashes.length} of ${frames.length} pictures could be decoded`
    return new Map(frames.map((frame, index) => [frame, hashes[index] as PictureHash]))
  })
}
