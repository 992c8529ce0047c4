import {
  codecTraits,
  estimateSize,
  groupBy,
  type MakeMethod,
  type MediaFacts,
  type Recipe,
  type SizeEstimate,
} from '@ennick/core'
import { and, eq, inArray } from 'drizzle-orm'
import { JobFailure } from '../queue/failure.ts'
import type { Queryable } from '../store/database.ts'
import type { KnownClip, Material } from '../store/known-material.ts'
import { productionFormat } from '../store/production-row.ts'
import { sizeSamples } from '../store/recipe-schema.ts'
import { clips } from '../store/schema.ts'
import { soundOf } from './synced-sound.ts'

/** Clips of a selection that are sampled; they stand for the rest. */
const sampledAtMost = 12

type SampleRow = typeof sizeSamples.$inferSelect

/** What one sample came to, or several together. */
interface Sum {
  readonly frames: number
  readonly bytes: number
  readonly milliseconds: number
  /** Of all made frames. */
  readonly pixels: number
}

/** What is known of how large recipes make pictures here, from parts of originals that were encoded. */
export class SizeSamples {
  readonly #ofClip: ReadonlyMap<string, SampleRow>
  readonly #ofRecipe: ReadonlyMap<string, Sum>

  private constructor(rows: readonly SampleRow[]) {
    this.#ofClip = new Map(rows.map((row) => [keyOf(row.clipId, row.recipeId), row]))
    this.#ofRecipe = new Map([...groupBy(rows, (row) => row.recipeId)].map(([id, own]) => [id, sumOf(own)]))
  }

  /** Reads what was sampled in a production with some recipes in the versions given. */
  static async read(database: Queryable, productionId: string, recipes: readonly Recipe[]): Promise<SizeSamples> {
    if (recipes.length === 0) return new SizeSamples([])
    const rows = await database
      .select({ sample: sizeSamples })
      .from(sizeSamples)
      .innerJoin(clips, eq(clips.id, sizeSamples.clipId))
      .where(
        and(
          eq(clips.productionId, productionId),
          inArray(
            sizeSamples.recipeId,
            recipes.map((recipe) => recipe.id),
          ),
        ),
      )
    const version = new Map(recipes.map((recipe) => [recipe.id, recipe.version]))
    return new SizeSamples(
      rows.map(({ sample }) => sample).filter((row) => version.get(row.recipeId) === row.recipeVersion),
    )
  }

  /** The clip's own sample; null when it has none, or its original is another one by now. */
  #of(clip: KnownClip, recipe: Recipe): SampleRow | null {
    const row = this.#ofClip.get(keyOf(clip.id, recipe.id))
    return row && row.fingerprint === clip.main.fingerprint ? row : null
  }

  /**
   * What a recipe will make of a clip by encoding: by its own sample, by those of other clips, or by what is typical.
   */
  estimate(material: Material, clip: KnownClip, recipe: Recipe): SizeEstimate | null {
    const facts = heardFacts(material, clip, recipe)
    const own = this.#of(clip, recipe)
    const told = own?.frames ? sumOf([own]) : this.#ofRecipe.get(recipe.id)
    const bits = told?.pixels ? (8 * told.bytes) / told.pixels : null
    return facts && estimateSize(facts, recipe, productionFormat(material.production), bits)
  }

  /** The same for whichever way an item is made: pictures that are taken over weigh what they do in the original. */
  estimateItem(material: Material, clip: KnownClip, recipe: Recipe, method: MakeMethod): SizeEstimate | null {
    if (method === 'encode') return this.estimate(material, clip, recipe)
    return { bytes: clip.main.sizeBytes, basis: method === 'as it is' ? 'exact' : 'sampled' }
  }

  /** Frames a second that a recipe was sampled with; null when it was not. */
  speed(recipe: Recipe): number | null {
    const told = this.#ofRecipe.get(recipe.id)
    return told?.milliseconds ? (1000 * told.frames) / told.milliseconds : null
  }

  /** Which of the clips that a recipe is to be encoded of should be sampled still, and of how many in all. */
  wanted(recipe: Recipe, encoded: readonly KnownClip[]): { clips: KnownClip[]; of: number } {
    if (codecTraits[recipe.codec].frameBytes(1920, 1080) !== null) return { clips: [], of: 0 }
    const able = encoded.filter(isAble)
    const step = Math.max(1, able.length / sampledAtMost)
    const chosen = Array.from(
      { length: Math.min(able.length, sampledAtMost) },
      (_, index) => able[Math.floor(index * step)] as KnownClip,
    )
    return { clips: chosen.filter((clip) => this.#of(clip, recipe) === null), of: chosen.length }
  }
}

/** What a clip is made of, its sound as the recipe makes it; its own where the recording is not here. */
function heardFacts(material: Material, clip: KnownClip, recipe: Recipe): MediaFacts | null {
  const { facts } = clip.main
  try {
    return facts && soundOf(material, clip, facts, recipe).facts
  } catch (error) {
    if (error instanceof JobFailure) return facts
    throw error
  }
}

const keyOf = (clipId: string, recipeId: string): string => `${clipId} ${recipeId}`

const sumOf = (rows: readonly SampleRow[]): Sum =>
  rows.reduce(
    (sum, row) => ({
      frames: sum.frames + row.frames,
      bytes: sum.bytes + row.bytes,
      milliseconds: sum.milliseconds + row.milliseconds,
      pixels: sum.pixels + row.pixels * row.frames,
    }),
    { frames: 0, bytes: 0, milliseconds: 0, pixels: 0 },
  )

/** Takes of several files and numbered stills are not sampled: others stand for them. */
const isAble = ({ main, files, presence }: KnownClip): boolean =>
  presence === 'here' &&
  files.length === 1 &&
  main.sequence === null &&
  main.facts?.kind === 'picture' &&
  !main.facts.picture?.variableRate
