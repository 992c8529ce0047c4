import type { MediaFacts, PictureFacts } from '../media/index.ts'
import { stem } from '../naming/index.ts'
import { exactRate, formatTimecode } from '../time/index.ts'
import { type MadeRaster, madeRaster } from './raster.ts'
import type { ProductionFormat, Recipe } from './recipe.ts'

/** One file that an encode makes: everything together, the picture alone, or one sound channel alone. */
export interface PlannedFile {
  readonly part: 'whole' | 'picture' | 'sound'
  readonly name: string
}

/** What an encode will do, as data. `encodeArguments` turns it into words for the encoder. */
export interface EncodePlan {
  readonly recipe: Recipe
  readonly facts: MediaFacts
  readonly raster: MadeRaster
  readonly files: readonly PlannedFile[]
  readonly timecode: string | null
  readonly reel: string | null
  readonly viewingLut: string | null
  readonly production: string
}

/** An original that a recipe makes nothing of; the message says why. */
export class RecipeError extends Error {
  override readonly name = 'RecipeError'
}

/** Transfer characteristics that mean a logarithmic picture (ITU-T H.273, table 3, values 9 and 10). */
export const isLogPicture = (picture: PictureFacts): boolean =>
  ['log', 'log100', 'log_sqrt', 'log316'].includes(picture.colour.transfer ?? '')

/**
 * Plans what a recipe makes of one original.
 * @param reel the clip's reel, which may come from a rule and not from the file
 * @throws RecipeError for originals that need no proxy or that would change their rate or timing.
 */
export function planEncode(input: {
  name: string
  facts: MediaFacts
  reel: string | null
  recipe: Recipe
  format: ProductionFormat
  production: string
}): EncodePlan {
  const { facts, recipe, name } = input
  const picture = facts.picture
  if (facts.kind === 'sound') throw new RecipeError(`${name} is sound alone: it travels as it is and needs no proxy.`)
  if (facts.kind === 'still' || !picture) throw new RecipeError(`${name} is a still: it travels as it is and needs no proxy.`)
  if (picture.variableRate)
    throw new RecipeError(`${name} has a variable frame rate: its frames would shift. Give it a constant rate first.`)
  const base = `${stem(name)}${recipe.suffix}`
  return {
    recipe,
    facts,
    raster: madeRaster(picture, recipe.size, input.format),
    files: recipe.container === 'mov' ? [{ part: 'whole', name: `${base}.mov` }] : opAtomFiles(base, facts),
    timecode: facts.startFrame === null ? null : formatTimecode(facts.startFrame, picture.rate, facts.dropFrame),
    reel: input.reel,
    viewingLut: recipe.viewingLut !== null && isLogPicture(picture) ? recipe.viewingLut : null,
    production: input.production,
  }
}

/** One file per essence: picture, then every channel of every sound stream on its own (SMPTE ST 390). */
function opAtomFiles(base: string, facts: MediaFacts): PlannedFile[] {
  const channels = facts.sound.reduce((sum, stream) => sum + stream.channels, 0)
  const sounds = Array.from({ length: channels }, (_, index): PlannedFile => ({ part: 'sound', name: `${base}_A${index + 1}.mxf` }))
  return [{ part: 'picture', name: `${base}_V1.mxf` }, ...sounds]
}

/**
 * The argument list for the encoder, to be started without a shell.
 * @param paths.input the original; read through the file protocol alone
 * @param paths.outputs one path for each planned file, in order; the caller makes sure that none exists
 * @param paths.lut where the plan's viewing LUT lies, when it has one
 */
export function encodeArguments(plan: EncodePlan, paths: { input: string; outputs: readonly string[]; lut: string | null }): string[] {
  const picture = plan.facts.picture as PictureFacts
  const rate = exactRate(picture.rate)
  const identity = identityArguments(plan)
  const args = ['-hide_banner', '-nostdin', '-v', 'error', '-xerror', '-n']
  args.push('-protocol_whitelist', 'file,pipe', '-format_whitelist', readableFormats, '-i', `file:${paths.input}`)
  const pictureOptions = [
    '-filter:v',
    pictureFilters(plan, paths.lut),
    '-fps_mode',
    'cfr',
    '-r',
    rate,
    ...codecArguments(plan),
    ...colourArguments(plan),
  ]
  if (plan.recipe.container === 'mov') {
    args.push('-map', '0:V:0', '-map', '0:a?', '-map_metadata', '-1', '-map_chapters', '-1', ...pictureOptions)
    plan.facts.sound.forEach((stream, index) => {
      args.push(`-c:a:${index}`, (stream.bitDepth ?? 16) > 16 ? 'pcm_s24le' : 'pcm_s16le')
    })
    args.push(...identity, '-movflags', '+use_metadata_tags', '-f', 'mov', `file:${paths.outputs[0]}`)
    return args
  }
  args.push('-map', '0:V:0', '-map_metadata', '-1', ...pictureOptions, ...identity, '-f', 'mxf_opatom', `file:${paths.outputs[0]}`)
  let output = 1
  plan.facts.sound.forEach((stream, streamIndex) => {
    for (let channel = 0; channel < stream.channels; channel++) {
      const depth = (stream.bitDepth ?? 16) > 16 ? 'pcm_s24le' : 'pcm_s16le'
      args.push('-map', `0:a:${streamIndex}`, '-map_metadata', '-1', '-filter:a', `pan=mono|c0=c${channel}`, '-c:a', depth, '-ar', '48000')
      args.push('-mxf_audio_edit_rate', rate, ...identity, '-f', 'mxf_opatom', `file:${paths.outputs[output++]}`)
    }
  })
  return args
}

/** The containers and still formats that Ennick reads: anything that could point at other files or hosts is left out. */
export const readableFormats = 'mov,mxf,matroska,wav,aiff,flac,mp3,avi,mpeg,mpegts,aac,w64,png_pipe,jpeg_pipe,tiff_pipe,dpx_pipe,exr_pipe'

/** The picture is made smaller before it passes the LUT, and padded after it, so that bars stay black. */
function pictureFilters(plan: EncodePlan, lut: string | null): string {
  const { content, width, height } = plan.raster
  const filters = [`scale=${content.width}:${content.height}:flags=bilinear:out_range=tv`, 'setsar=1']
  if (plan.viewingLut !== null) {
    if (lut === null) throw new RecipeError(`The viewing LUT "${plan.viewingLut}" is not in the library.`)
    filters.push('format=gbrp10le', `lut3d=file=${escapeFilterValue(lut)}:interp=tetrahedral`, 'scale=out_color_matrix=bt709:out_range=tv')
  }
  if (content.width !== width || content.height !== height) filters.push(`pad=${width}:${height}:${content.left}:${content.top}`)
  filters.push(`format=${pixelFormats[plan.recipe.codec]}`)
  if (plan.viewingLut !== null) filters.push('setparams=color_primaries=bt709:color_trc=bt709:colorspace=bt709:range=tv')
  return filters.join(',')
}

const pixelFormats = { 'h264-intra': 'yuv420p', 'dnxhr-lb': 'yuv422p', 'prores-proxy': 'yuv422p10le' } as const

/** Escapes a value for a filter option inside a filter graph: once for the option, once for the graph. */
export function escapeFilterValue(value: string): string {
  const option = value.replace(/[\\':]/g, (character) => `\\${character}`)
  return option.replace(/[\\'[\],;]/g, (character) => `\\${character}`)
}

function codecArguments(plan: EncodePlan): string[] {
  switch (plan.recipe.codec) {
    case 'h264-intra':
      return ['-c:v', 'libx264', '-preset', 'superfast', '-g', '1', '-crf', '22']
    case 'dnxhr-lb':
      return ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_lb']
    case 'prores-proxy':
      return ['-c:v', 'prores', '-profile:v', '0']
  }
}

function colourArguments(plan: EncodePlan): string[] {
  const source = (plan.facts.picture as PictureFacts).colour
  const colour = plan.viewingLut === null ? source : { primaries: 'bt709', transfer: 'bt709', matrix: 'bt709' }
  const args: string[] = []
  if (colour.primaries) args.push('-color_primaries', colour.primaries)
  if (colour.transfer) args.push('-color_trc', colour.transfer)
  if (colour.matrix) args.push('-colorspace', colour.matrix)
  return args
}

/** Both reel keys always: one container family keeps it with the stream, the other with the file. */
function identityArguments(plan: EncodePlan): string[] {
  const args: string[] = []
  if (plan.timecode !== null) args.push('-timecode', plan.timecode)
  if (plan.reel !== null) args.push('-metadata', `reel_name=${plan.reel}`, '-metadata:s:v:0', `reel_name=${plan.reel}`)
  args.push('-metadata', `production=${plan.production}`, '-metadata', `recipe=${plan.recipe.name}, version ${plan.recipe.version}`)
  return args
}
