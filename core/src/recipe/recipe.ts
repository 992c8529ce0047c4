import type { Rate } from '../time/index.ts'
import type { RecipeCodec, RecipeContainer } from './codec.ts'
import type { RecipeFolders } from './made-folder.ts'
import type { RecipeQuality } from './quality.ts'
import type { RecipeTracks } from './tracks.ts'

/** What made files are for. It decides what a recipe must not do: see `contradictions`. */
export const recipePurposes = [
  'cutting, OP-Atom, one file per track',
  'cutting, one file per clip',
  'review',
  'finishing',
  'web deliverable',
  'cinema deliverable',
] as const
export type RecipePurpose = (typeof recipePurposes)[number]

export type RecipeSize =
  /** The original's own raster. */
  | { readonly kind: 'source' }
  /** The original's raster divided by a whole number. */
  | { readonly kind: 'divided'; readonly by: 2 | 4 | 8 }
  /** The smallest of the original's raster, its half, quarter and eighth that is not below the production's. */
  | { readonly kind: 'nearest' }
  /** The production's raster. */
  | { readonly kind: 'production' }
  /** A raster of its own, in pixels. */
  | { readonly kind: 'raster'; readonly width: number; readonly height: number }

/**
 * How a picture of another shape comes into a given raster: whole with black beside it, filling it and cut off, or
 * distorted.
 */
export type RecipeFit = 'pad' | 'crop' | 'stretch'

/** What becomes of pixels that are not square. */
export type RecipePixels = 'square' | 'kept'

/** How much care is taken in making the picture smaller. */
export type RecipeScaling = 'quick' | 'fine'

/** Linear PCM as deep as the original's (16 or 24 bit) or of one depth, or what the container carries for listening. */
export const recipeSounds = ['as source', 'pcm 16', 'pcm 24', 'compressed'] as const
export type RecipeSound = (typeof recipeSounds)[number]

export const burnInPlaces = ['top left', 'top', 'top right', 'bottom left', 'bottom', 'bottom right'] as const
export type BurnInPlace = (typeof burnInPlaces)[number]

/** What is drawn into the picture. */
export interface BurnIn {
  readonly timecode: BurnInPlace | null
  /** Text with the fields {name}, {reel}, {scene}, {take} and {production}. */
  readonly text: { readonly words: string; readonly place: BurnInPlace } | null
  /** Height of the letters in hundredths of the picture's. */
  readonly heightPercent: number
  /** Opacity of the box behind the letters, in percent. */
  readonly boxPercent: number
}

/** A reusable way of making files from originals. It never changes the rate. */
export interface Recipe {
  readonly id: string
  readonly name: string
  readonly version: number
  readonly purpose: RecipePurpose
  /** What it is for, in a sentence. */
  readonly about: string
  readonly codec: RecipeCodec
  readonly container: RecipeContainer
  readonly quality: RecipeQuality
  readonly size: RecipeSize
  readonly fit: RecipeFit
  readonly pixels: RecipePixels
  readonly scaling: RecipeScaling
  /** Originals whose upright raster is no larger than this are left as they are. */
  readonly skipUpTo: { readonly width: number; readonly height: number } | null
  /** Codecs, as clips say theirs, whose originals are left as they are. */
  readonly skipCodecs: readonly string[]
  /** Originals that play so many times at once, as it was measured, are left as they are; null for none. */
  readonly skipPlaying: number | null
  /** Name of a viewing LUT that log originals pass through, or null for none. */
  readonly viewingLut: string | null
  readonly burnIn: BurnIn | null
  readonly sound: RecipeSound
  readonly tracks: RecipeTracks
  /** Whether a clip that was synced with a recording gets that one's tracks, as the sync says which. */
  readonly syncedSound: boolean
  /** The name without suffix and ending, with the fields of `nameFields` in braces. */
  readonly namePattern: string
  /** Put between the name and the extension. */
  readonly suffix: string
  readonly folders: RecipeFolders
}

/** Whether pictures of another shape than the given raster lose theirs. */
export const isStretching = ({ fit, size }: Pick<Recipe, 'fit' | 'size'>): boolean =>
  fit === 'stretch' && (size.kind === 'production' || size.kind === 'raster')

/** Whether what is made leaves the house or stands in for an original: then every frame of it is decoded again. */
export const isDecodedWhole = ({ purpose }: Pick<Recipe, 'purpose'>): boolean =>
  !purpose.startsWith('cutting') && purpose !== 'review'

/** What an item of the ledger is for. */
export const pairKinds = ['proxy', 'optimized', 'review', 'deliverable'] as const
export type PairKind = (typeof pairKinds)[number]

/** What people call several items of a kind. */
export const itemsOfKind: Readonly<Record<PairKind, string>> = {
  proxy: 'proxies',
  optimized: 'optimized transcodes',
  review: 'review copies',
  deliverable: 'deliverables',
}

/** What the ledger calls an item by the recipe that made it. */
export function pairKindOf({ purpose }: Pick<Recipe, 'purpose'>): PairKind {
  if (purpose === 'finishing') return 'optimized'
  if (purpose === 'review') return 'review'
  return purpose.startsWith('cutting') ? 'proxy' : 'deliverable'
}

/** What a production asks of all its material. */
export interface ProductionFormat {
  readonly rate: Rate
  readonly width: number
  readonly height: number
}
