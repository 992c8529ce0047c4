import type { MediaFacts, PictureFacts } from '../media/index.ts'
import { codecTraits, type RecipeCodec, type RecipeContainer } from './codec.ts'
import { typicalBits } from './quality.ts'
import type { MadeRaster } from './raster.ts'
import type { Recipe } from './recipe.ts'
import { isAsSource } from './tracks.ts'

/**
 * How a recipe's item comes to be: encoded; with the original's own pictures in another container; or as a copy of the
 * file as it is. A picture that has the wanted codec already is never encoded a second time.
 */
export type MakeMethod = 'encode' | 'rewrap' | 'as it is'

/** Codec and profile that a file says of itself, where these say its quality. */
const wanted: Readonly<Partial<Record<RecipeCodec, { readonly codec: string; readonly profile: string | null }>>> = {
  'vc3-lb': { codec: 'dnxhd', profile: 'DNXHR LB' },
  'vc3-sq': { codec: 'dnxhd', profile: 'DNXHR SQ' },
  'vc3-hq': { codec: 'dnxhd', profile: 'DNXHR HQ' },
  'prores-proxy': { codec: 'prores', profile: 'Proxy' },
  'prores-lt': { codec: 'prores', profile: 'LT' },
  'prores-422': { codec: 'prores', profile: 'Standard' },
  'prores-hq': { codec: 'prores', profile: 'HQ' },
  ffv1: { codec: 'ffv1', profile: null },
}

/** What files of a container call themselves; MXF does not say which of its patterns it follows. */
const containers: Readonly<Partial<Record<RecipeContainer, string>>> = { mov: 'mov', mp4: 'mp4', mkv: 'mkv' }

/**
 * @param reel the clip's reel: a copy as it is cannot take up one that the file does not say
 * @param viewingLut what the picture is to pass through
 */
export function makeMethodOf(
  facts: MediaFacts,
  recipe: Recipe,
  raster: MadeRaster,
  reel: string | null,
  viewingLut: string | null,
): MakeMethod {
  const picture = facts.picture as PictureFacts
  const { content } = raster
  const isUntouched =
    viewingLut === null &&
    recipe.burnIn === null &&
    picture.rotation === 0 &&
    // A copy would say of its pixels what the file says, and a person knows better.
    picture.toldPixelAspect === undefined &&
    (recipe.pixels === 'kept' || picture.pixelAspect.numerator === picture.pixelAspect.denominator) &&
    [raster, content].every(({ width, height }) => width === picture.width && height === picture.height)
  if (!isUntouched || !isOfCodec(picture, recipe)) return 'encode'
  const keepsSound = isAsSource(recipe.tracks) && facts.sound.every((stream) => keepsDepth(recipe, stream.codec))
  return containers[recipe.container] === facts.container && reel === facts.reel && keepsSound ? 'as it is' : 'rewrap'
}

/**
 * Whether a picture is of a recipe's codec and quality. What says no quality of itself is measured by the bytes of its
 * first frames: those of the fixed-rate kind are all of one size, and of the others none is much larger than the
 * recipe's are.
 */
function isOfCodec(picture: PictureFacts, { codec, quality }: Recipe): boolean {
  const want = wanted[codec]
  if (want) return want.codec === picture.codec && (want.profile === null || want.profile === picture.profile)
  const { stored, width, height } = picture
  const traits = codecTraits[codec]
  const name = measured[codec]
  if (!name || !stored || picture.codec !== name || picture.pixelFormat !== traits.pixelFormat(picture)) return false
  const bytes = traits.frameBytes(width, height)
  if (bytes !== null) return stored.leastBytes === bytes && stored.mostBytes === bytes
  const bits = typicalBits(traits.typicalBitsPerPixel, quality, picture)
  return stored.isIntra && stored.mostBytes * 8 <= 1.5 * bits * width * height
}

/** All-intra codecs whose quality a file does not say. */
const measured: Readonly<Partial<Record<RecipeCodec, string>>> = {
  'vc3-hd': 'dnxhd',
  'h264-intra': 'h264',
  mjpeg: 'mjpeg',
}

const keepsDepth = ({ sound }: Recipe, codec: string): boolean =>
  sound === 'as source' ? codec.startsWith('pcm_') : sound !== 'compressed' && codec === `pcm_s${sound.slice(4)}le`
