import { PatternError } from '../describe/index.ts'
import { describePictureCodec, type MediaFacts, type PictureFacts } from '../media/index.ts'
import { formatRate, formatTimecode } from '../time/index.ts'
import { codecTraits, containerExtension, fixedRateRaster, takesFixedRate } from './codec.ts'
import { isTooLong, madeBase, type NameSource, nameValues } from './made-name.ts'
import { type MakeMethod, makeMethodOf } from './make-method.ts'
import { type MadeRaster, madeRaster, uprightSquareRaster } from './raster.ts'
import type { ProductionFormat, Recipe } from './recipe.ts'
import { type PlannedTrack, planTracks } from './tracks.ts'

/** One file that an encode makes: everything together, the picture alone, or one sound channel alone. */
export interface PlannedFile {
  readonly part: 'whole' | 'picture' | 'sound'
  readonly name: string
}

/** What an encode will do, as data. `encodeArguments` turns it into words for the encoder. */
export interface EncodePlan {
  readonly recipe: Recipe
  /** Of the original; its sound may be laid from elsewhere. */
  readonly facts: MediaFacts
  readonly isSoundLaid: boolean
  /** What the original is called: its file, or the clip that several files are. */
  readonly name: string
  /** What is written into what is made as its source: the first file, or the numbered ones together. */
  readonly sourceFile: string
  /** Where that lies: its folder on its volume, and what stands on the volume's box; null where that is not said. */
  readonly sourcePlace: SourcePlace | null
  readonly raster: MadeRaster
  readonly method: MakeMethod
  /** The name without suffix and ending. */
  readonly base: string
  readonly files: readonly PlannedFile[]
  readonly tracks: readonly PlannedTrack[]
  readonly timecode: string | null
  readonly reel: string | null
  readonly viewingLut: string | null
  readonly production: string
  readonly scene: string | null
  readonly take: string | null
}

/** Whether an item is of several files that have to say that they are one clip. */
export const isAtomSet = ({ recipe, files }: Pick<EncodePlan, 'recipe' | 'files'>): boolean =>
  recipe.container === 'mxf-op-atom' && files.length > 1

/** An original that a recipe makes nothing of; the message says why. */
export class RecipeError extends Error {
  override readonly name = 'RecipeError'
}

/** Transfer characteristics that mean a logarithmic picture (ITU-T H.273, table 3, values 9 and 10). */
export const isLogPicture = (picture: PictureFacts): boolean =>
  ['log', 'log100', 'log_sqrt', 'log316'].includes(picture.colour.transfer ?? '')

/** Where an original lay when something was made of it. */
export interface SourcePlace {
  /** Below the volume's root; empty for the root itself. */
  readonly folder: string
  readonly volume: string
}

/** What one original's encode is planned by. */
interface PlanInput extends NameSource {
  /** Where it is not the name. */
  sourceFile?: string
  sourcePlace?: SourcePlace
  facts: MediaFacts
  recipe: Recipe
  format: ProductionFormat
  /** The LUT that the clip or its camera was given, or null for none; without it the recipe's own counts. */
  viewingLut?: string | null
  /** Whether the sound of the facts is laid from elsewhere: a file of its own, with a stream for each of them. */
  isSoundLaid?: boolean
  /** How many files the original has: several are joined, and no copy of one is a copy of all. */
  files?: number
  /** The clip's number among those of the recipe, from 0. */
  index?: number
}

/**
 * Plans what a recipe makes of one original.
 * @param input.reel the clip's reel, which may come from a rule and not from the file
 * @throws RecipeError for originals that need no proxy or that would change their rate or timing.
 */
export function planEncode(input: PlanInput): EncodePlan {
  const { facts, recipe, name } = input
  const picture = facts.picture
  if (facts.kind === 'sound') throw new RecipeError(`${name} is sound alone: it travels as it is and needs no proxy.`)
  if (facts.kind === 'still' || !picture)
    throw new RecipeError(`${name} is a still: it travels as it is and needs no proxy.`)
  if (picture.variableRate)
    throw new RecipeError(`${name} has a variable frame rate: its frames would shift. Give it a constant rate first.`)
  assertLarger(name, picture, recipe)
  assertOtherCodec(name, picture, recipe)
  const raster = madeRaster(picture, recipe, input.format)
  assertCodecTakes(name, picture, recipe, raster)
  assertContainerTakes(name, picture, recipe)
  const tracks = planTracks(facts, recipe.tracks)
  const base = baseOf(input)
  const files = plannedFiles(`${base}${recipe.suffix}`, recipe, tracks)
  if (files.some((file) => isTooLong(file.name)))
    throw new RecipeError(
      `The name that ${name} would get is longer than a disk holds: shorten the suffix or the pattern.`,
    )
  const viewingLut = lutFor(picture, recipe, input.viewingLut)
  return {
    recipe,
    facts,
    name,
    sourceFile: input.sourceFile ?? name,
    sourcePlace: input.sourcePlace ?? null,
    raster,
    base,
    files,
    tracks,
    timecode: facts.startFrame === null ? null : formatTimecode(facts.startFrame, picture.rate, facts.dropFrame),
    reel: input.reel,
    viewingLut,
    method: methodOf(input, makeMethodOf(facts, recipe, raster, input.reel, viewingLut)),
    isSoundLaid: input.isSoundLaid ?? false,
    production: input.production,
    scene: input.scene || null,
    take: input.take || null,
  }
}

/** No copy of one file is a copy of all, and none has sound that is laid from elsewhere. */
function methodOf({ files = 1, isSoundLaid }: PlanInput, method: MakeMethod): MakeMethod {
  if (files > 1) return 'encode'
  return isSoundLaid && method === 'as it is' ? 'rewrap' : method
}

/** Whether a picture says that it is made for a display already. */
export const isForDisplay = (picture: PictureFacts): boolean =>
  !isLogPicture(picture) && picture.colour.transfer !== null && picture.colour.transfer !== 'unknown'

/**
 * What a person gave a clip or its camera holds, whatever its tags say; a recipe's own LUT is for pictures that say
 * they are log.
 */
function lutFor(picture: PictureFacts, recipe: Recipe, assigned: string | null | undefined): string | null {
  if (recipe.viewingLut === null) return null
  if (assigned !== undefined) return assigned
  return isLogPicture(picture) ? recipe.viewingLut : null
}

function baseOf(input: PlanInput): string {
  const { name, recipe } = input
  try {
    return madeBase(recipe.namePattern, nameValues(input), input.index ?? 0)
  } catch (error) {
    if (error instanceof PatternError) throw new RecipeError(`${name} gets no name: ${error.message}`)
    throw error
  }
}

function assertLarger(name: string, picture: PictureFacts, { skipUpTo }: Recipe): void {
  if (!skipUpTo) return
  const { width, height } = uprightSquareRaster(picture)
  if (width <= skipUpTo.width && height <= skipUpTo.height)
    throw new RecipeError(
      `${name} is ${width} × ${height}, which is not larger than ${skipUpTo.width} × ${skipUpTo.height}.`,
    )
}

function assertOtherCodec(name: string, picture: PictureFacts, { skipCodecs }: Recipe): void {
  const codec = describePictureCodec(picture)
  // “ProRes” means all of its kinds.
  if (skipCodecs.some((each) => `${codec} `.toLowerCase().startsWith(`${each} `.toLowerCase())))
    throw new RecipeError(`${name} is ${codec}, which the recipe leaves as it is.`)
}

function assertCodecTakes(name: string, picture: PictureFacts, { codec }: Recipe, raster: MadeRaster): void {
  const { label, atLeast } = codecTraits[codec]
  if (atLeast && (raster.width < atLeast.width || raster.height < atLeast.height))
    throw new RecipeError(
      `${name} would be ${raster.width} × ${raster.height}, and ${label} takes nothing smaller than ${atLeast.width} × ${atLeast.height}.`,
    )
  if (codec !== 'vc3-hd') return
  if (raster.width !== fixedRateRaster.width || raster.height !== fixedRateRaster.height)
    throw new RecipeError(`${name} would be ${raster.width} × ${raster.height}, and ${label} has 1920 × 1080 alone.`)
  if (!takesFixedRate(picture.rate))
    throw new RecipeError(`${name} has ${formatRate(picture.rate)} frames a second: ${label} knows no such rate.`)
}

/** Whole rates in frames a second at which MXF is made. */
const mxfRates = new Set([24, 25, 30, 48, 50, 60, 72, 75, 90, 96, 100, 120])
/** Of which there are those that are slower by 1000/1001. */
const slowerMxfRates = new Set([24, 30, 48, 60, 72, 90, 96, 120])

function assertContainerTakes(name: string, { rate: frameRate }: PictureFacts, { container }: Recipe): void {
  const { numerator, denominator } = frameRate
  const isKnown =
    (denominator === 1 && mxfRates.has(numerator)) || (denominator === 1001 && slowerMxfRates.has(numerator / 1000))
  if (container.startsWith('mxf') && !isKnown)
    throw new RecipeError(
      `${name} has ${formatRate(frameRate)} frames a second, and MXF is not made at that rate: choose a recipe with another container.`,
    )
}

/**
 * One file, or one for each essence: the picture, then every channel of every sound stream on its own (SMPTE ST 390).
 */
function plannedFiles(base: string, { container }: Recipe, tracks: readonly PlannedTrack[]): PlannedFile[] {
  const ending = containerExtension[container]
  if (container !== 'mxf-op-atom') return [{ part: 'whole', name: `${base}${ending}` }]
  const channels = tracks.reduce((sum, track) => sum + track.channels, 0)
  const sounds = Array.from(
    { length: channels },
    (_, index): PlannedFile => ({ part: 'sound', name: `${base}_A${index + 1}${ending}` }),
  )
  return [{ part: 'picture', name: `${base}_V1${ending}` }, ...sounds]
}
