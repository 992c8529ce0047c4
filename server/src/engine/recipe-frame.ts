import { readFile, stat } from 'node:fs/promises'
import { join } from 'node:path'
import {
  codecTraits,
  type EncodePlan,
  exactRate,
  type LutFile,
  type MediaFacts,
  type PictureFacts,
  pictureFilters,
} from '@ennick/core'
import { fontPath } from './luts.ts'
import { type PictureSource, withFrames } from './pictures.ts'
import { probe } from './probe.ts'
import { run } from './process.ts'
import { withScratch } from './scratch.ts'

/** One frame of an original, before and after a recipe. */
export interface RecipeFrame {
  /** JPEG, laid out as the made picture is, so that the two can be laid over each other. */
  readonly before: Buffer
  readonly after: Buffer
  readonly facts: MediaFacts
}

const shownWidth = 960

/**
 * Encodes one frame as a plan says and decodes it again, so that what the codec does to it is seen too.
 * @throws Error with the encoder's words when it refuses
 */
export async function recipeFrame(
  plan: EncodePlan,
  source: PictureSource,
  frame: number,
  lut: LutFile | null,
): Promise<RecipeFrame> {
  const picture = plan.facts.picture as PictureFacts
  return withScratch(async (folder) => {
    const made = join(folder, 'made')
    const files = { lut, font: fontPath }
    const plain = { ...plan, viewingLut: null, recipe: { ...plan.recipe, burnIn: null } }
    const one = ['-map', '0:V:0', '-frames:v', '1']
    const muxer = plan.recipe.codec === 'ffv1' || plan.recipe.codec === 'vp9' ? 'matroska' : 'mov'
    await withFrames(source, { frame }, (input) =>
      succeed([
        ...[...input, ...one, '-filter:v', pictureFilters(plan, files), '-r', exactRate(picture.rate)],
        ...[...codecTraits[plan.recipe.codec].words(picture.rate, plan.recipe.quality), '-f', muxer, `file:${made}`],
      ]),
    )
    const shown = `scale=${Math.min(shownWidth, plan.raster.width)}:-2:flags=bilinear,format=yuvj420p`
    const jpeg = (path: string): string[] => ['-q:v', '3', '-f', 'image2', '-update', '1', `file:${path}`]
    await withFrames(source, { frame }, (input) =>
      succeed([
        ...[...input, ...one, '-filter:v', `${pictureFilters(plain, files)},${shown}`, ...jpeg(join(folder, 'a'))],
      ]),
    )
    await succeed(['-i', `file:${made}`, ...one, '-filter:v', shown, ...jpeg(join(folder, 'b'))])
    return {
      before: await readFile(join(folder, 'a')),
      after: await readFile(join(folder, 'b')),
      facts: await probe(made, (await stat(made)).size, { countPackets: true }),
    }
  })
}

async function succeed(args: readonly string[]): Promise<void> {
  const result = await run('ffmpeg', ['-hide_banner', '-nostdin', '-v', 'error', '-y', ...args], {
    timeoutMilliseconds: 60_000,
  })
  if (result.exitCode !== 0) throw new Error(result.stderr.trim().split('\n')[0] ?? 'the encoder gave no reason')
}
