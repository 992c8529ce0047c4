import type { CubeLut } from '../look/index.ts'
import { isInterlaced, type PictureFacts } from '../media/index.ts'
import { hashHeight, hashWidth } from '../proof/index.ts'
import { exactRate } from '../time/index.ts'
import { codecTraits, type RecipeCodec } from './codec.ts'
import { leavesRgb, madeColour } from './made-colour.ts'
import { type EncodePlan, RecipeError } from './plan.ts'
import type { BurnInPlace } from './recipe.ts'

/** A LUT as a file that filters read. */
export interface LutFile {
  readonly path: string
  readonly kind: CubeLut['kind']
}

/** Where a graph of several plans begins and ends: the label of its input, and what its own labels end in. */
export interface GraphPlace {
  readonly input: string
  readonly mark: string
  /** Whether the input is larger pictures of another plan that have passed the same LUT. */
  readonly isLooked: boolean
  /** Labels under which pictures that have passed the LUT are given to smaller plans. */
  readonly lends: readonly string[]
}

/** Files that filters read: where the plan's viewing LUT lies, when it has one, and a typeface for what is burnt in. */
export interface FilterFiles {
  readonly lut: LutFile | null
  readonly font: string
}

/**
 * The filters of the picture, in order: it is made smaller before it passes the LUT, which is cheaper and looks alike;
 * laid into its frame after it, so that bars stay black; and written on last.
 */
export const pictureFilters = (plan: EncodePlan, files: FilterFiles): string =>
  [
    ...scaleFilters(plan),
    ...lookFilters(plan, files.lut),
    ...laidFilters(plan),
    ...frameFilters(plan, files.font),
  ].join(',')

/**
 * The same with a small hash of every picture beside it, taken before bars and burn-in: the graph's outputs are [v],
 * the picture, and [h], the hashes, each with the place's mark.
 */
export function hashedPictureGraph(
  plan: EncodePlan,
  files: FilterFiles,
  { input, mark, isLooked, lends }: GraphPlace,
): string {
  const looked = isLooked ? [scaled(plan), ...squared(plan)] : [...scaleFilters(plan), ...lookFilters(plan, files.lut)]
  const laid = laidFilters(plan).join(',')
  const parted = `split=${lends.length + 1}[l${mark}]${lends.map((label) => `[${label}]`).join('')};[l${mark}]`
  return [
    `[${input}]${looked.join(',')}${looked.length ? ',' : ''}${lends.length ? parted : ''}${laid},split=2[m${mark}][s${mark}]`,
    `[m${mark}]${frameFilters(plan, files.font).join(',') || 'null'}[v${mark}]`,
    `[s${mark}]${hashFilter}[h${mark}]`,
  ].join(';')
}

/** Makes the hash of a picture: grey, and as small as `hashWidth` × `hashHeight`. */
export const hashFilter = `scale=${hashWidth}:${hashHeight}:flags=area,format=gray`

/**
 * The graph that takes the hashes of some inputs' first frames out of a made item. They lie below each other in one
 * grey picture, [h], so that its bytes are one hash after another.
 */
export function soughtHashGraph(plan: EncodePlan, inputs: number): string {
  const hash = (index: number): string => `[${index}:V:0]trim=end_frame=1,setpts=0,${withoutBars(plan)}${hashFilter}`
  if (inputs === 1) return `${hash(0)}[h]`
  const indexes = Array.from({ length: inputs }, (_, index) => index)
  return `${indexes.map((index) => `${hash(index)}[h${index}]`).join(';')};${indexes.map((index) => `[h${index}]`).join('')}vstack=inputs=${inputs}[h]`
}

/**
 * The graph that takes the hashes of some frames, by their numbers from 0 and in order, out of a made item; its output
 * is [h].
 */
export const sampledHashGraph = (plan: EncodePlan, frames: readonly number[]): string =>
  `[0:V:0]${selectFrames(frames)},${withoutBars(plan)}${hashFilter}[h]`

function withoutBars({ raster: { content, width, height } }: EncodePlan): string {
  const isPadded = content.width < width || content.height < height
  return isPadded ? `crop=${content.width}:${content.height}:${content.left}:${content.top},` : ''
}

/** The filter that lets some frames pass, by their numbers from 0. */
export const selectFrames = (frames: readonly number[]): string =>
  `select=${frames.map((frame) => `eq(n\\,${frame})`).join('+')}`

/** The filter that passes a picture of red, green and blue through a LUT. */
export const lutFilter = ({ path, kind }: LutFile): string =>
  kind === '1D' ? `lut1d=file=${escapeFilterValue(path)}` : `lut3d=file=${escapeFilterValue(path)}:interp=tetrahedral`

/** What gives the picture its size. */
function scaleFilters(plan: EncodePlan): string[] {
  const { recipe, raster } = plan
  const picture = plan.facts.picture as PictureFacts
  const { content } = raster
  const { range } = codecTraits[recipe.codec]
  const { numerator, denominator } = picture.pixelAspect
  const filters: string[] = picture.toldPixelAspect ? [`setsar=${numerator}/${denominator}`] : []
  // One picture of both fields; whose the first is, the frames say themselves.
  if (fieldsOf(plan) === 'joined') filters.push('bwdif=mode=send_frame:parity=auto:deint=all')
  const isUntouched = content.width === picture.width && content.height === picture.height && picture.rotation === 0
  const matrix = leavesRgb(plan) && plan.viewingLut === null ? ':out_color_matrix=bt709' : ''
  if (recipe.codec !== 'ffv1' || !isUntouched) filters.push(`${scaled(plan)}${matrix}:out_range=${range}`)
  return [...filters, ...squared(plan)]
}

/** Codecs that keep the two fields of a frame apart, and say so. */
const keepsFields = (codec: RecipeCodec): boolean => codec.startsWith('prores') || codec === 'ffv1'

/**
 * What becomes of the two fields of each frame of an interlaced picture: kept as they are, where the codec can and no
 * line is moved, or joined to one picture; null for a picture that has none.
 */
export function fieldsOf({ recipe, raster, facts, viewingLut }: EncodePlan): 'kept' | 'joined' | null {
  const { scan, height, rotation } = facts.picture as PictureFacts
  if (!isInterlaced(scan)) return null
  const isUnmoved = raster.height === height && raster.content.height === height && rotation === 0
  return keepsFields(recipe.codec) && isUnmoved && viewingLut === null ? 'kept' : 'joined'
}

/** Sizes are even, so what is made smaller would else be given pixels that are a little off. */
const squared = ({ recipe }: EncodePlan): string[] => (recipe.pixels === 'square' ? ['setsar=1'] : [])

const scaled = ({ recipe, raster: { content } }: EncodePlan): string =>
  `scale=${content.width}:${content.height}:flags=${recipe.scaling === 'fine' ? 'lanczos' : 'bilinear'}`

/**
 * Whether a plan can be made from another's pictures that have passed its LUT: they are as large at least, of the same
 * pixels, and made smaller with as much care.
 */
export const canBorrow = (plan: EncodePlan, lender: EncodePlan): boolean =>
  plan.viewingLut !== null &&
  plan.viewingLut === lender.viewingLut &&
  plan.recipe.pixels === lender.recipe.pixels &&
  plan.recipe.fit === lender.recipe.fit &&
  fieldsOf(plan) === fieldsOf(lender) &&
  (plan.recipe.scaling !== 'fine' || lender.recipe.scaling === 'fine') &&
  plan.raster.content.width <= lender.raster.content.width &&
  plan.raster.content.height <= lender.raster.content.height

/** What gives it its look. The encoder passes 16 bits through a LUT faster than 10. */
function lookFilters({ viewingLut }: EncodePlan, lut: LutFile | null): string[] {
  if (viewingLut === null) return []
  if (lut === null) throw new RecipeError(`The viewing LUT "${viewingLut}" is not in the library.`)
  return ['format=gbrp16le', lutFilter(lut)]
}

/** What lays it into the recipe's form. */
function laidFilters({ recipe, raster: { content, width, height }, facts, viewingLut }: EncodePlan): string[] {
  const isCropped = content.width > width || content.height > height
  return [
    ...(viewingLut === null ? [] : ['scale=out_color_matrix=bt709:out_range=tv']),
    ...(isCropped ? [`crop=${width}:${height}:${Math.max(0, -content.left)}:${Math.max(0, -content.top)}`] : []),
    `format=${codecTraits[recipe.codec].pixelFormat(facts.picture as PictureFacts)}`,
  ]
}

/** What is put around and on it. */
function frameFilters(plan: EncodePlan, font: string): string[] {
  const { content, width, height } = plan.raster
  const isPadded = content.width < width || content.height < height
  return [
    ...(isPadded ? [`pad=${width}:${height}:${Math.max(0, content.left)}:${Math.max(0, content.top)}`] : []),
    ...burnInFilters(plan, font),
    ...(plan.viewingLut === null
      ? saidColour(plan)
      : [
          `setparams=color_primaries=bt709:color_trc=bt709:colorspace=bt709:range=${codecTraits[plan.recipe.codec].range}`,
        ]),
  ]
}

/**
 * What the pictures themselves are to say, which some encoders go by: ProRes would write "not known" for one of two
 * names of the same colour.
 */
function saidColour(plan: EncodePlan): string[] {
  const { matrix } = madeColour(plan)
  return matrix !== null && matrix !== plan.facts.picture?.colour.matrix ? [`setparams=colorspace=${matrix}`] : []
}

function burnInFilters(plan: EncodePlan, font: string): string[] {
  const { burnIn } = plan.recipe
  if (!burnIn) return []
  const draw = (what: string, place: BurnInPlace): string => {
    const across = place.endsWith('left') ? 'w/50' : place.endsWith('right') ? 'w-tw-w/50' : '(w-tw)/2'
    const down = place.startsWith('top') ? 'h/40' : 'h-th-h/40'
    return [
      `drawtext=fontfile=${escapeFilterValue(font)}`,
      `${what}:fontcolor=white:fontsize=h*${burnIn.heightPercent}/100:box=1:boxborderw=4:boxcolor=black@${burnIn.boxPercent / 100}:x=${across}:y=${down}`,
    ].join(':')
  }
  const rate = exactRate((plan.facts.picture as PictureFacts).rate)
  const filters: string[] = []
  if (burnIn.text) {
    const words = fillBurnIn(burnIn.text.words, plan).trim()
    if (words) filters.push(draw(`expansion=none:text=${escapeFilterValue(words)}`, burnIn.text.place))
  }
  // What has no timecode shows none.
  if (burnIn.timecode && plan.timecode !== null)
    filters.push(draw(`timecode=${escapeFilterValue(plan.timecode)}:rate=${rate}`, burnIn.timecode))
  return filters
}

/** Fields in braces; what is no field stays as it is. */
function fillBurnIn(words: string, plan: EncodePlan): string {
  const fields: Readonly<Record<string, string>> = {
    name: plan.name,
    reel: plan.reel ?? '',
    production: plan.production,
    scene: plan.scene ?? '',
    take: plan.take ?? '',
  }
  return words.replace(/\{(\w+)\}/g, (whole, field: string) => fields[field] ?? whole)
}

/** Escapes a value for a filter option inside a filter graph: once for the option, once for the graph. */
export function escapeFilterValue(value: string): string {
  const option = value.replace(/[\\':]/g, (character) => `\\${character}`)
  return option.replace(/[\\'[\],;]/g, (character) => `\\${character}`)
}
