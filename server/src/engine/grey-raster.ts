import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { GreyRaster } from '@ennick/core'
import { type PictureSource, withFrames } from './pictures.ts'
import { run } from './process.ts'
import { withScratch } from './scratch.ts'

/**
 * One frame of a file as a grey picture of some raster.
 * @returns null when it cannot be decoded
 */
export async function greyRaster(
  source: PictureSource,
  frame: number,
  { width, height }: { width: number; height: number },
  signal: AbortSignal,
): Promise<GreyRaster | null> {
  return withFrames(source, { frame }, (input) =>
    withScratch(async (folder) => {
      const target = join(folder, 'grey')
      const words = ['-hide_banner', '-nostdin', '-v', 'error', '-n', '-threads', '1', ...input, '-map', '0:V:0']
      const grey = ['-frames:v', '1', '-vf', `scale=${width}:${height}:flags=bicubic,format=gray`, '-f', 'rawvideo']
      const { exitCode } = await run('ffmpeg', [...words, ...grey, `file:${target}`], {
        ...{ signal, isPolite: true, timeoutMilliseconds: 120_000 },
      })
      const levels = exitCode === 0 ? await readFile(target) : null
      return levels?.length === width * height ? { width, height, levels } : null
    }),
  )
}
