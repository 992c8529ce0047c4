import { mkdtemp, readFile, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { type EncodePlan, type PictureFacts, type PictureHash, readableFormats, sampledHashGraph, splitHashes } from '@ennick/core'
import { seekTo } from './input.ts'
import { run } from './process.ts'

/** Runs a task with a place for the hashes of an encode; they are removed afterwards. */
export async function withHashes<T>(task: (path: string, read: () => Promise<PictureHash[]>) => Promise<T>): Promise<T> {
  const folder = await mkdtemp(join(tmpdir(), 'ennick-hashes-'))
  try {
    const path = join(folder, 'hashes')
    return await task(path, async () => splitHashes(await readFile(path)))
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

/**
 * Decodes some frames of a made picture, each on its own, and hashes them.
 * @returns the hashes by frame, or the decoder's words when it complained or gave fewer frames
 */
export async function hashFrames(
  plan: EncodePlan,
  path: string,
  frames: readonly number[],
  signal: AbortSignal,
): Promise<ReadonlyMap<number, PictureHash> | string> {
  const rate = (plan.facts.picture as PictureFacts).rate
  return withHashes(async (target, read) => {
    const result = await run(
      'ffmpeg',
      [
        ...['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n'],
        ...frames.flatMap((frame) => [
          ...['-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats],
          ...[...seekTo(frame, rate), '-i', `file:${path}`],
        ]),
        ...['-filter_complex', sampledHashGraph(plan, frames.length), '-map', '[h]', '-frames:v', '1'],
        ...['-c:v', 'rawvideo', '-f', 'rawvideo', `file:${target}`],
      ],
      { signal, timeoutMilliseconds: 120_000 },
    )
    const complaint = result.stderr.trim().split('\n')[0]
    if (result.exitCode !== 0 || complaint) return complaint || 'the decoder gave no reason'
    const hashes = await read()
    if (hashes.length !== frames.length) return `${hashes.length} of ${frames.length} pictures could be decoded`
    return new Map(frames.map((frame, index) => [frame, hashes[index] as PictureHash]))
  })
}
