import {
  codecTraits,
  type EncodePlan,
  exactRate,
  type LutFile,
  type PictureFacts,
  pictureFilters,
  type SampleRange,
} from '@ennick/core'
import { fontPath } from './luts.ts'
import { type PictureSource, withFrames } from './pictures.ts'
import { run } from './process.ts'

/** What parts of an original came to when they were encoded. */
export interface SampleOutcome {
  readonly frames: number
  readonly bytes: number
  readonly milliseconds: number
}

/**
 * Encodes parts of an original's picture as a plan says and keeps nothing but the sizes of the packets. It gives way to
 * whatever else the machine does.
 * @throws Error with the encoder's words when it refuses
 */
export async function encodeSamples(
  plan: EncodePlan,
  source: PictureSource,
  ranges: readonly SampleRange[],
  lut: LutFile | null,
  signal: AbortSignal,
): Promise<SampleOutcome> {
  const { rate } = plan.facts.picture as PictureFacts
  let frames = 0
  let bytes = 0
  const startedAt = Date.now()
  for (const range of ranges) {
    const result = await withFrames(source, { frame: range.first, frames: range.frames }, (input) =>
      run(
        'ffmpeg',
        [
          ...['-hide_banner', '-nostdin', '-v', 'error', ...input, '-map', '0:V:0'],
          ...['-filter:v', pictureFilters(plan, { lut, font: fontPath }), '-frames:v', String(range.frames)],
          ...['-r', exactRate(rate), ...codecTraits[plan.recipe.codec].words(rate, plan.recipe.quality)],
          ...['-f', 'framecrc', '-'],
        ],
        {
          signal,
          isPolite: true,
          onLine: (line) => {
            // Stream, times of decoding and showing, duration, size, checksum.
            const size = /^0,(?:[^,]*,){3} *(\d+),/.exec(line)?.[1]
            if (size === undefined) return
            frames++
            bytes += Number(size)
          },
        },
      ),
    )
    if (result.exitCode !== 0) throw new Error(result.stderr.trim().split('\n')[0] || 'the encoder gave no reason')
  }
  return { frames, bytes, milliseconds: Date.now() - startedAt }
}
