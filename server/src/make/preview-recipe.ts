import { writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import type { RecipePreview } from '@ennick/contract'
import {
  builtInRecipes,
  codecTraits,
  containerLabel,
  contradictions,
  describeChannels,
  describePictureCodec,
  type EncodePlan,
  estimateSize,
  formatTimecode,
  type LutFile,
  type MediaFacts,
  type Recipe,
} from '@ennick/core'
import { eq } from 'drizzle-orm'
import type { Config } from '../config.ts'
import { recipeFrame } from '../engine/recipe-frame.ts'
import { withScratch } from '../engine/scratch.ts'
import { notFound, PlainError } from '../errors.ts'
import { JobFailure } from '../queue/failure.ts'
import type { Database } from '../store/database.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { readMaterial } from '../store/material.ts'
import { productionFormat } from '../store/production-row.ts'
import { clips } from '../store/schema.ts'
import { lutFile } from './luts.ts'
import { placeOfRecipe } from './made-item.ts'
import { planFor } from './make.ts'
import { Destinations } from './numbered-folders.ts'
import { withRecordings } from './synced-sound.ts'

async function readShown(
  database: Database,
  clipId: string,
): Promise<{ material: Material; clip: KnownClip; facts: MediaFacts }> {
  const [row] = await database.select({ productionId: clips.productionId }).from(clips).where(eq(clips.id, clipId))
  if (!row) throw notFound('This clip')
  const material = await readMaterial(database, row.productionId, await withRecordings(database, [clipId]))
  const clip = material.clips.get(clipId)
  const facts = clip?.main.facts
  if (!clip || !facts) throw new PlainError('not-readable', 'This clip cannot be read, so there is no frame to show.')
  if (clip.presence !== 'here')
    throw new PlainError('not-here', `${clip.name} is ${clip.presence}: choose a clip that is here.`, { status: 409 })
  return { material, clip, facts }
}

/** A frame from the middle of a clip before and after a LUT that is not in the library yet. */
export async function tryLut(
  database: Database,
  clipId: string,
  { text, kind }: { text: string; kind: LutFile['kind'] },
): Promise<{ before: string; after: string }> {
  const { material, clip, facts } = await readShown(database, clipId)
  const [recipe] = builtInRecipes as [Recipe]
  return withScratch(async (folder) => {
    const path = join(folder, 'trial.cube')
    await writeFile(path, text)
    const plan = { ...planFor(material, clip, recipe), viewingLut: 'trial' }
    const frame = Math.floor((facts.picture?.frames ?? 1) / 2)
    const shown = await recipeFrame(plan, { ...clip.main, facts }, frame, { path, kind })
    return { before: asAddress(shown.before), after: asAddress(shown.after) }
  }).catch((error) => {
    throw error instanceof JobFailure ? new PlainError('no-frame', error.message) : error
  })
}

/** What a recipe would make of a clip, shown on one frame of it. */
export async function previewRecipe(
  database: Database,
  config: Config,
  clipId: string,
  recipe: Recipe,
  atPercent: number,
): Promise<RecipePreview> {
  const { material, clip, facts } = await readShown(database, clipId)
  const wrong = contradictions(recipe)
  try {
    const plan = planFor(material, clip, recipe)
    const frame = Math.min(
      (facts.picture?.frames ?? 1) - 1,
      Math.floor(((facts.picture?.frames ?? 1) * atPercent) / 100),
    )
    const here = timecodeAt(facts, frame)
    const shown = await recipeFrame(
      { ...plan, timecode: here },
      { ...clip.main, facts },
      frame,
      await lutFile(database, config, plan.viewingLut),
    )
    return {
      before: asAddress(shown.before),
      after: asAddress(shown.after),
      facts: [
        ...compareFacts(material, plan, facts, shown.facts),
        {
          what: 'Folder',
          original: dirname(clip.main.path),
          made: await new Destinations(placeOfRecipe(material, recipe), recipe).folderOf(clip, plan.files.length),
        },
      ],
      contradictions: wrong,
    }
  } catch (error) {
    if (error instanceof JobFailure) throw new PlainError('nothing-made', error.message)
    throw new PlainError('no-preview', `No frame can be shown: ${wrong[0]?.message ?? (error as Error).message}`)
  }
}

const asAddress = (jpeg: Buffer): string => `data:image/jpeg;base64,${jpeg.toString('base64')}`

const timecodeAt = (facts: MediaFacts, frame: number): string | null =>
  facts.startFrame === null || !facts.picture
    ? null
    : formatTimecode(facts.startFrame + frame, facts.picture.rate, facts.dropFrame)

/** What changes and what stays, side by side. */
function compareFacts(
  material: Material,
  plan: EncodePlan,
  original: MediaFacts,
  made: MediaFacts,
): RecipePreview['facts'] {
  const { recipe } = plan
  const before = original.picture
  const after = made.picture
  if (!before || !after) return []
  const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(1)} MB`
  const size = estimateSize(original, recipe, productionFormat(material.production))
  const soundMade =
    recipe.sound === 'compressed'
      ? recipe.container === 'webm'
        ? 'Opus'
        : 'AAC'
      : recipe.sound === 'as source'
        ? 'PCM'
        : `PCM ${recipe.sound.slice(4)} bit`
  return [
    { what: 'Raster', original: `${before.width} × ${before.height}`, made: `${after.width} × ${after.height}` },
    { what: 'Codec', original: describePictureCodec(before), made: codecTraits[recipe.codec].label },
    { what: 'Container', original: original.container.toUpperCase(), made: containerLabel[recipe.container] },
    { what: 'Samples', original: before.pixelFormat ?? 'not known', made: after.pixelFormat ?? 'not known' },
    {
      what: 'Viewing LUT',
      original: 'none',
      made: plan.viewingLut ?? (recipe.viewingLut ? 'none: it is no log picture' : 'none'),
    },
    {
      what: 'Sound',
      original: describeChannels(original.sound),
      made: plan.tracks.length ? `${describeChannels(plan.tracks)}, ${soundMade}` : 'none',
    },
    {
      what: 'Files',
      original: plan.name,
      made:
        plan.files.length === 1
          ? (plan.files[0]?.name ?? '')
          : `${plan.files[0]?.name} and ${plan.files.length - 1} more`,
    },
    {
      what: 'Size',
      original: '',
      made: size ? `${size.basis === 'exact' ? '' : 'about '}${megabytes(size.bytes)} for ${before.frames} frames` : '',
    },
  ]
}
